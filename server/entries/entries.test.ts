import type { OccurrenceOnWire, Written } from '@marmot/contract/entries'
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
      { start: '2026-12-11T07:00:00.000Z', mine: true, repeats: false },
    ])
    await ilse.send('DELETE', `${path}?recurrence=2026-12-11T08:00&version=2`)
    expect(await listed('Core freezer defrost')).toEqual([])
    await ilse.send('POST', `${path}/restore`, { recurrence: '2026-12-11T08:00', version: 3 })
    expect(await listed('Core freezer defrost')).toHaveLength(1)
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
    ['bad-time', { starts: '2026-02-30T10:00' }],
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
      more: { version: 2 },
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
    await ilse.send('DELETE', `${path}?recurrence=${second.recurrence}&version=${moved.body.version}`)
    const after = await listed('Post and travel')
    expect(after).toHaveLength(dates.length - 1)
    expect(after.find((one) => one.recurrence === first.recurrence)?.start).toBe(moved.body.start)
    expect(after.some((one) => one.recurrence === second.recurrence)).toBe(false)
    expect(
      after
        .filter((one) => one.recurrence !== first.recurrence)
        .every((one) => one.recurrence.endsWith('T08:30')),
    ).toBe(true)
    await ilse.send('POST', `${path}/restore`, {
      recurrence: second.recurrence,
      version: moved.body.version + 1,
    })
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
