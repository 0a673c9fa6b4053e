import { randomUUID } from 'node:crypto'
import type { Attachment, EntryOnWire, OccurrenceOnWire, Written } from '@marmot/contract/entries'
import type { Notice } from '@marmot/contract/notices'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
})
afterAll(() => marmot.stop())

const entry = (more = {}) => ({
  title: 'Core freezer defrost',
  starts: '2026-12-10T10:45',
  minutes: 45,
  zone: 'Europe/Vienna',
  ...more,
})

const listed = async (title: string, from = '2026-11-01T00:00:00Z', to = '2027-05-01T00:00:00Z') => {
  const answer = await ilse.get<{ occurrences: OccurrenceOnWire[] }>(`/api/entries?from=${from}&to=${to}`)
  return answer.body.occurrences.filter((one) => one.title === title)
}

const undo = (changeId: string, who = ilse) => who.send('POST', `/api/changes/${changeId}/undo`)

describe('an entry of mine', () => {
  it('is made, changed, deleted and brought back', async () => {
    const made = await ilse.send<Written>('POST', '/api/entries', entry())
    expect(made.body).toMatchObject({
      start: '2026-12-10T09:45:00.000Z',
      end: '2026-12-10T10:30:00.000Z',
      moved: false,
      version: 1,
    })
    const path = `/api/entries/${made.body.entryId}`
    const changed = await ilse.send<Written>('PUT', path, {
      ...entry({ starts: '2026-12-11T08:00' }),
      recurrence: '2026-12-10T10:45',
      version: 1,
    })
    expect(changed.body).toMatchObject({ start: '2026-12-11T07:00:00.000Z', version: 2 })
    expect(await listed('Core freezer defrost')).toMatchObject([
      { start: '2026-12-11T07:00:00.000Z', own: true, repeats: false },
    ])
    const deleted = await ilse.send<{ changeId: string }>(
      'DELETE',
      `${path}?recurrence=2026-12-11T08:00&version=2`,
    )
    expect(await listed('Core freezer defrost')).toEqual([])
    await undo(deleted.body.changeId)
    expect(await listed('Core freezer defrost')).toHaveLength(1)
    await undo(deleted.body.changeId)
    expect(await listed('Core freezer defrost')).toHaveLength(1)
    // What was changed again since is not taken back under whoever changed it.
    expect(problemOf(await undo(made.body.changeId))).toMatchObject({ status: 409, code: 'changed-since' })
    expect(await listed('Core freezer defrost')).toMatchObject([{ start: '2026-12-11T07:00:00.000Z' }])
    // One after the other, newest first, all of it is.
    expect((await undo(changed.body.changeId)).status).toBe(200)
    expect(await listed('Core freezer defrost')).toMatchObject([{ start: '2026-12-10T09:45:00.000Z' }])
    expect((await undo(made.body.changeId)).status).toBe(200)
    expect(await listed('Core freezer defrost')).toEqual([])
  })

  it('changed twice is not taken back under the second change', async () => {
    const made = await ilse.send<Written>('POST', '/api/entries', entry({ title: 'Twice changed' }))
    const change = (title: string, version: number) =>
      ilse.send<Written>('PUT', `/api/entries/${made.body.entryId}`, {
        ...entry({ title }),
        recurrence: '2026-12-10T10:45',
        version,
      })
    const first = await change('Twice changed, first', 1)
    const second = await change('Twice changed, second', 2)
    expect(problemOf(await undo(first.body.changeId))).toMatchObject({ status: 409, code: 'changed-since' })
    expect(await listed('Twice changed, second')).toHaveLength(1)
    expect((await undo(second.body.changeId)).status).toBe(200)
    expect((await undo(first.body.changeId)).status).toBe(200)
    expect(await listed('Twice changed')).toMatchObject([{ title: 'Twice changed' }])
    await ilse.send('DELETE', `/api/entries/${made.body.entryId}?recurrence=2026-12-10T10:45&version=5`)
  })

  it('is one, however often the same request comes', async () => {
    const key = { 'idempotency-key': 'the-same-key' }
    const answers = await Promise.all(
      [1, 2, 3].map(() => ilse.send<Written>('POST', '/api/entries', entry({ title: 'Once only' }), key)),
    )
    expect(new Set(answers.map((answer) => answer.body.entryId)).size).toBe(1)
    expect(await listed('Once only')).toHaveLength(1)
    expect(problemOf(await ilse.send('POST', '/api/entries', entry({ title: 'Other' }), key))).toMatchObject({
      status: 422,
      code: 'key-reused',
    })
  })

  it('moves on out of a daylight-saving gap, and says so', async () => {
    const made = await ilse.send<Written>(
      'POST',
      '/api/entries',
      entry({ title: 'Night reading', starts: '2027-03-28T02:30' }),
    )
    expect(made.body).toMatchObject({ start: '2027-03-28T01:30:00.000Z', moved: true })
  })

  it.each([
    ['no-length', { minutes: 0 }],
    ['ends-before-start', { minutes: -30 }],
    ['too-long', { minutes: 31 * 1440 + 1 }],
    ['unknown-zone', { zone: 'Europe/Atlantis' }],
    ['invalid', { starts: '2026-02-30T10:00' }],
    ['invalid', { starts: '2026-02-28T25:00' }],
    ['invalid', { starts: '9999-12-31T10:00' }],
    ['invalid', { starts: 'tomorrow' }],
  ])('is refused as %s, and nothing is made', async (code, more) => {
    const answer = await ilse.send('POST', '/api/entries', entry({ title: `Refused ${code}`, ...more }))
    expect(problemOf(answer)).toMatchObject({ status: 422, code })
    expect(problemOf(answer).fields?.length).toBeGreaterThan(0)
    expect(await listed(`Refused ${code}`)).toEqual([])
  })

  it('is not changed from an old version, nor by somebody else', async () => {
    const made = await ilse.send<Written>('POST', '/api/entries', entry({ title: 'Versioned' }))
    const change = { ...entry({ title: 'Stolen' }), recurrence: '2026-12-10T10:45', version: 1 }
    const path = `/api/entries/${made.body.entryId}`
    await ilse.send('PUT', path, { ...change, title: 'Versioned' })
    expect(problemOf(await ilse.send('PUT', path, change))).toMatchObject({
      status: 409,
      code: 'stale',
      more: { version: 2, newest: { title: 'Versioned', version: 2 } },
    })
    const tashi = await marmot.as('Tashi Lhendup')
    expect((await tashi.send('PUT', path, { ...change, version: 2 })).status).toBe(404)
    expect((await tashi.send('DELETE', `${path}?recurrence=2026-12-10T10:45&version=2`)).status).toBe(404)
    expect(await listed('Versioned')).toHaveLength(1)
  })
})

describe('a date of a series', () => {
  it('is moved and deleted alone; the others keep the clock on the wall through the changes of March', async () => {
    const dates = await listed('Post and travel')
    const [first, second] = dates
    if (!first || !second) throw new Error('the demo has no such series')
    const path = `/api/entries/${first.entryId}`
    const body = {
      title: first.title,
      starts: first.recurrence.replace('T08:30', 'T16:00'),
      minutes: 30,
      zone: 'Europe/Vienna',
    }
    const moved = await ilse.send<Written>('PUT', path, {
      ...body,
      recurrence: first.recurrence,
      version: first.version,
    })
    expect(moved.status).toBe(200)
    const gone = await ilse.send<{ changeId: string }>(
      'DELETE',
      `${path}?recurrence=${second.recurrence}&version=${moved.body.version}`,
    )
    const after = await listed('Post and travel')
    expect(after).toHaveLength(dates.length - 1)
    expect(after.find((one) => one.recurrence === first.recurrence)?.start).toBe(moved.body.start)
    expect(after.some((one) => one.recurrence === second.recurrence)).toBe(false)
    expect(
      after
        .filter((one) => one.recurrence !== first.recurrence)
        .every((one) => one.recurrence.endsWith('T08:30')),
    ).toBe(true)
    await undo(gone.body.changeId)
    expect(await listed('Post and travel')).toHaveLength(dates.length)
  })

  it('that the rule does not give is refused', async () => {
    const [first] = await listed('Post and travel')
    const answer = await ilse.send('PUT', `/api/entries/${first?.entryId}`, {
      ...entry(),
      recurrence: '2026-12-06T08:30',
      version: first?.version,
    })
    expect(answer.status).toBe(404)
  })
})

const series = (title: string, more = {}) =>
  ilse.send<Written>(
    'POST',
    '/api/entries',
    entry({
      title,
      starts: '2026-12-01T09:00',
      repetition: {
        rule: 'FREQ=WEEKLY;COUNT=6',
        added: ['2026-12-05T11:00'],
        excepted: ['2026-12-15T09:00'],
      },
      ...more,
    }),
  )
const days = async (title: string) => (await listed(title)).map((one) => one.start.slice(5, 16))

describe('a series of mine', () => {
  it('has its rule, added and excepted dates', async () => {
    await series('Thin sections')
    expect(await days('Thin sections')).toEqual([
      '12-01T08:00',
      '12-05T10:00',
      '12-08T08:00',
      '12-22T08:00',
      '12-29T08:00',
      '01-05T08:00',
    ])
  })

  it('is changed from one date on, with what is kept; and all of that is taken back at once', async () => {
    const made = await series('Snow pit')
    const path = `/api/entries/${made.body.entryId}`
    const alone = await ilse.send<Written>('PUT', path, {
      ...entry({ title: 'Snow pit', starts: '2026-12-30T13:00' }),
      recurrence: '2026-12-29T09:00',
      version: 1,
    })
    const before = await days('Snow pit')
    const split = await ilse.send<Written>('PUT', path, {
      ...entry({ title: 'Snow pit', starts: '2026-12-22T10:30' }),
      recurrence: '2026-12-22T09:00',
      scope: 'following',
      version: alone.body.version,
    })
    expect(split.body.entryId).not.toBe(made.body.entryId)
    expect(await days('Snow pit')).toEqual([
      '12-01T08:00',
      '12-05T10:00',
      '12-08T08:00',
      '12-22T09:30',
      '12-30T12:00',
      '01-05T09:30',
    ])
    expect((await undo(split.body.changeId)).status).toBe(200)
    expect(await days('Snow pit')).toEqual(before)
    // And one before that, as far back as one likes.
    expect((await undo(alone.body.changeId)).status).toBe(200)
    expect((await days('Snow pit'))[4]).toBe('12-29T08:00')
    expect((await undo(made.body.changeId)).status).toBe(200)
    expect(await days('Snow pit')).toEqual([])
  })

  it('is changed as a whole, and made to repeat no more', async () => {
    const made = await series('Seismometer check')
    const path = `/api/entries/${made.body.entryId}`
    const renamed = await ilse.send<Written>('PUT', path, {
      ...entry({ title: 'Seismometer check, north', starts: '2026-12-09T09:00' }),
      recurrence: '2026-12-08T09:00',
      scope: 'all',
      version: 1,
    })
    expect(await days('Seismometer check')).toEqual([])
    expect((await days('Seismometer check, north'))[0]).toBe('12-02T08:00')
    await ilse.send<Written>('PUT', path, {
      ...entry({ title: 'Seismometer check, north', starts: '2026-12-02T09:00' }),
      recurrence: '2026-12-02T09:00',
      scope: 'all',
      repetition: null,
      version: renamed.body.version,
    })
    expect(await days('Seismometer check, north')).toEqual(['12-02T08:00'])
  })

  it('is deleted from one date on, or whole', async () => {
    const made = await series('Rope check')
    const path = `/api/entries/${made.body.entryId}?recurrence=2026-12-22T09:00`
    const cut = await ilse.send<{ changeId: string }>('DELETE', `${path}&scope=following&version=1`)
    expect(await days('Rope check')).toEqual(['12-01T08:00', '12-05T10:00', '12-08T08:00'])
    await undo(cut.body.changeId)
    expect(await days('Rope check')).toHaveLength(6)
    await ilse.send('DELETE', `${path}&scope=all&version=3`)
    expect(await days('Rope check')).toEqual([])
  })

  it.each([
    ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', /No date fits/],
    ['FREQ=SECONDLY', /more than once a day/],
    ['FREQ=DAILY;COUNT=1000000', /1000000/],
    ['FREQ=WEEKLY;UNTIL=20200101', /before it begins/],
    ['every now and then', /no part/],
  ])('with the rule "%s" is refused in words, and nothing is made', async (rule, words) => {
    const answer = await series('Refused rule', { repetition: { rule, added: [], excepted: [] } })
    expect(problemOf(answer)).toMatchObject({
      status: 422,
      code: 'bad-rule',
      fields: [{ path: 'repetition.rule' }],
    })
    expect(problemOf(answer).detail).toMatch(words)
    expect(await listed('Refused rule')).toEqual([])
  })

  it('of whole days stands on whole days, also when the clocks change', async () => {
    await ilse.send(
      'POST',
      '/api/entries',
      entry({ title: 'Ridge week', starts: '2027-03-27T00:00', minutes: 2880, allDay: true }),
    )
    expect(await listed('Ridge week')).toMatchObject([
      { start: '2027-03-26T23:00:00.000Z', end: '2027-03-28T22:00:00.000Z', allDay: true },
    ])
  })
})

describe('what belongs to an entry', () => {
  it('a description keeps its form and loses what runs', async () => {
    const made = await ilse.send<Written>(
      'POST',
      '/api/entries',
      entry({
        title: 'Described',
        note: '<p>Bring <b>beacons</b><script>alert(1)</script><img src=x onerror=alert(1)> <a href="javascript:x">a</a></p>',
      }),
    )
    const whole = await ilse.get<EntryOnWire>(`/api/entries/${made.body.entryId}`)
    expect(whole.body.note).toContain('<b>beacons</b>')
    expect(whole.body.note).not.toMatch(/script|onerror|img/)
  })

  it('files are checked by their content, limited in size, and can be put back', async () => {
    const made = await ilse.send<Written>('POST', '/api/entries', entry({ title: 'With files' }))
    const path = `/api/entries/${made.body.entryId}/attachments`
    const attach = (name: string, bytes: Buffer | string) =>
      ilse.upload<Attachment>(`${path}?name=${encodeURIComponent(name)}`, Buffer.from(bytes))
    const pdf = Buffer.from('%PDF-1.7\n1 0 obj\n<<>>\nendobj\n%%EOF')
    const good = await attach('Thin section.pdf', pdf)
    expect(good.body).toMatchObject({ name: 'Thin section.pdf', type: 'application/pdf', size: pdf.length })
    expect((await attach('readings.csv', 'depth;dust\n1;2\n')).status).toBe(200)
    for (const [name, bytes] of [
      ['notes.txt', pdf],
      ['page.html', '<script>alert(1)</script>'],
      ['tool.pdf', Buffer.from('MZ'.padEnd(400, '\0'))],
      ['empty.txt', ''],
    ] as const)
      expect([name, problemOf(await attach(name, bytes)).code]).toEqual([name, 'bad-file'])
    expect(problemOf(await attach('big.txt', Buffer.alloc(11 * 1024 * 1024, 'a')))).toMatchObject({
      status: 413,
    })
    const full = Buffer.alloc(9 * 1024 * 1024, 'a')
    expect((await attach('one.txt', full)).status).toBe(200)
    expect((await attach('two.txt', full)).status).toBe(200)
    expect(problemOf(await attach('three.txt', full))).toMatchObject({ status: 413, code: 'too-many-files' })

    const file = await ilse.get(`/api/attachments/${good.body.id}`)
    expect(file.headers.get('content-disposition')).toMatch(/^attachment/)
    expect(file.text).toBe(pdf.toString())
    const tashi = await marmot.as('Tashi Lhendup')
    expect((await tashi.get(`/api/attachments/${good.body.id}`)).status).toBe(404)
    await ilse.send('DELETE', `/api/attachments/${good.body.id}`)
    expect((await ilse.get(`/api/attachments/${good.body.id}`)).status).toBe(404)
    await ilse.send('POST', `/api/attachments/${good.body.id}/restore`)
    expect((await ilse.get(`/api/attachments/${good.body.id}`)).status).toBe(200)
  })

  it('a picture in a description is a file of the entry, under an id that is known before it is sent', async () => {
    const tashi = await marmot.as('Tashi Lhendup')
    const matteo = await marmot.as('Matteo Ruprechter')
    const id = randomUUID()
    const png = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    )
    const entryId = await marmot.sendMeeting(ilse, {
      title: 'Ridge in a picture',
      starts: '2027-04-06T10:00',
      people: [{ id: tashi.person.id, required: true }],
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
      note: `<p>Up here:</p><img data-file="${id}" alt="ridge.png" src="https://elsewhere.example/x" onload="x()"><img data-file="../x" alt="no">`,
    })
    const attach = (who: Client, to: string, bytes: Buffer) =>
      who.upload<Attachment>(`/api/entries/${to}/attachments?name=ridge.png&id=${id}`, bytes)
    expect((await attach(ilse, entryId, png)).body).toMatchObject({ id, type: 'image/png' })
    // Sent twice it is there once; something else under its id is refused, wherever it is sent.
    expect((await attach(ilse, entryId, png)).body.id).toBe(id)
    const other = await ilse.send<Written>('POST', '/api/entries', entry({ title: 'Other' }))
    expect(problemOf(await attach(ilse, other.body.entryId, png)).code).toBe('file-there')
    expect((await ilse.get<EntryOnWire>(`/api/entries/${entryId}`)).body).toMatchObject({
      note: `<p>Up here:</p><img data-file="${id}" alt="ridge.png" />`,
      attachments: [{ id, name: 'ridge.png' }],
    })
    expect((await tashi.get(`/api/attachments/${id}`)).status).toBe(200)
    expect((await matteo.get(`/api/attachments/${id}`)).status).toBe(404)
    await marmot.quiet()
    expect(marmot.letters(tashi.person.address, entryId)[0]?.text).toContain('[picture: ridge.png]')
    // What goes on as a series of its own has a picture of its own.
    const changed = await ilse.send<{ entryId: string }>('POST', `/api/meetings/${entryId}/change`, {
      version: 1,
      scope: 'following',
      recurrence: '2027-04-13T10:00',
      starts: '2027-04-13T11:00',
    })
    const tail = (await ilse.get<EntryOnWire>(`/api/entries/${changed.body.entryId}`)).body
    expect(tail.attachments).toHaveLength(1)
    expect(tail.attachments[0]?.id).not.toBe(id)
    expect(tail.note).toContain(`data-file="${tail.attachments[0]?.id}"`)
  })

  it('a category and reminders are one’s own, also of a meeting', async () => {
    const categoryId = randomUUID()
    const path = `/api/categories/${categoryId}`
    expect((await ilse.send('PUT', path, { name: 'Field safety', tone: 3 })).status).toBe(200)
    expect(
      problemOf(await ilse.send('PUT', `/api/categories/${randomUUID()}`, { name: 'Field safety', tone: 1 }))
        .code,
    ).toBe('name-taken')
    const [meeting] = await listed('Heads of teams')
    await ilse.send('PUT', `/api/entries/${meeting?.entryId}/mine`, { categoryId, reminders: [5, 60] })
    const whole = await ilse.get<EntryOnWire>(`/api/entries/${meeting?.entryId}`)
    expect(whole.body).toMatchObject({ categoryId, reminders: [5, 60], own: false })
    const matteo = await marmot.as('Matteo Ruprechter')
    const seen = await matteo.get<EntryOnWire>(`/api/entries/${meeting?.entryId}`)
    expect(seen.body).toMatchObject({ categoryId: null, reminders: null })
    expect((await matteo.send('DELETE', path)).status).toBe(404)
  })

  it('a category that comes back has in it what it had, but for what was sorted otherwise meanwhile', async () => {
    const [field, other] = [randomUUID(), randomUUID()]
    const put = (id: string, name: string, who = ilse) =>
      who.send('PUT', `/api/categories/${id}`, { name, tone: 4 })
    await put(field, 'Out in the field')
    await put(other, 'Papers')
    for (const title of ['Pit one', 'Pit two'])
      await ilse.send('POST', '/api/entries', entry({ title, categoryId: field }))
    const sorted = async () =>
      Promise.all(['Pit one', 'Pit two'].map(async (title) => (await listed(title))[0]?.categoryId))
    expect(await sorted()).toEqual([field, field])
    expect((await ilse.send('DELETE', `/api/categories/${field}`)).status).toBe(200)
    expect(await sorted()).toEqual([null, null])
    const [two] = await listed('Pit two')
    await ilse.send('PUT', `/api/entries/${two?.entryId}/mine`, { categoryId: other, reminders: null })
    // Whoever takes its id up gets none of it.
    const matteo = await marmot.as('Matteo Ruprechter')
    await put(field, 'Not mine', matteo)
    expect(await sorted()).toEqual([null, other])
    await matteo.send('DELETE', `/api/categories/${field}`)
    expect((await put(field, 'Out in the field')).status).toBe(200)
    expect(await sorted()).toEqual([field, other])
  })
})

describe('a stand-in', () => {
  const of = async (who: Client, ownerId: string) =>
    (
      await who.get<{ occurrences: OccurrenceOnWire[] }>(
        `/api/entries?from=2026-12-01T00:00:00Z&to=2026-12-31T00:00:00Z&of=${ownerId}`,
      )
    ).body.occurrences

  it('makes, changes and takes back for the owner, who is told and can look it up', async () => {
    const henrike = await marmot.as('Henrike Aasland')
    const made = await ilse.send<Written>(
      'POST',
      '/api/entries',
      entry({ title: 'Board dinner', of: henrike.person.id }),
    )
    expect((await of(ilse, henrike.person.id)).map((one) => one.title)).toContain('Board dinner')
    expect((await of(henrike, henrike.person.id)).map((one) => one.title)).toContain('Board dinner')
    const now = await henrike.get<{ notices: Notice[] }>('/api/now')
    expect(now.body.notices[0]).toMatchObject({
      kind: 'acted',
      who: 'Ilse Brandacher',
      title: 'Board dinner',
    })
    const log = await henrike.get<{ changes: unknown[] }>('/api/changes')
    expect(log.body.changes[0]).toMatchObject({ actor: 'Ilse Brandacher', forMe: true, kind: 'made' })
    // The owner may take back what was done for them.
    expect((await undo(made.body.changeId, henrike)).status).toBe(200)
    expect((await of(henrike, henrike.person.id)).map((one) => one.title)).not.toContain('Board dinner')
  })

  it('sees a private entry as a busy time only, and may not touch it', async () => {
    const henrike = await marmot.as('Henrike Aasland')
    const made = await henrike.send<Written>(
      'POST',
      '/api/entries',
      entry({ title: 'Xylographic talk', private: true }),
    )
    const seen = await of(ilse, henrike.person.id)
    expect(JSON.stringify(seen)).not.toContain('Xylographic')
    expect(JSON.stringify(seen)).not.toContain(made.body.entryId)
    expect(seen.some((one) => one.hidden && one.start === made.body.start)).toBe(true)
    const change = { ...entry(), recurrence: '2026-12-10T10:45', version: 1 }
    expect((await ilse.send('PUT', `/api/entries/${made.body.entryId}`, change)).status).toBe(404)
  })

  it('who may only look gets nothing done, and a word', async () => {
    const [matteo, henrike] = [await marmot.as('Matteo Ruprechter'), await marmot.as('Henrike Aasland')]
    const share = (does: string) =>
      henrike.send('PUT', '/api/sharing', {
        to: 'person',
        id: matteo.person.id,
        sees: 'everything',
        does,
        seesPrivate: false,
      })
    const made = await henrike.send<Written>('POST', '/api/entries', entry({ title: 'Open to all' }))
    const change = { ...entry({ title: 'Changed by Matteo' }), recurrence: '2026-12-10T10:45', version: 1 }
    const path = `/api/entries/${made.body.entryId}`
    expect((await matteo.send('PUT', path, change)).status).toBe(404)
    await share('look')
    expect(problemOf(await matteo.send('PUT', path, change))).toMatchObject({
      status: 403,
      code: 'may-not-change',
    })
    await share('change')
    expect((await matteo.send('PUT', path, change)).status).toBe(200)
  })
})
