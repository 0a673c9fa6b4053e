import type { EntryOnWire } from '@marmot/contract/entries'
import type { Meeting, Telling } from '@marmot/contract/meetings'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot, until } from '../testing/marmot.ts'

const TASHI = 'tashi.lhendup@corrie.example'
const GUEST = 'noor.haddad@lodestar.example'
const STRANGER = 'ravi.menon@lodestar.example'
const [FIRST, SECOND, THIRD] = ['2026-12-03T18:00', '2026-12-10T18:00', '2026-12-17T18:00'] as const
const RANGE = 'from=2026-12-01T00:00:00Z&to=2026-12-31T00:00:00Z'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let matteo: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  matteo = await marmot.as('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

/** A series of three dates with Matteo and a guest. */
const series = (title: string) => {
  return marmot.sendMeeting(ilse, {
    title,
    people: [{ id: matteo.person.id, required: true }],
    guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
    starts: FIRST,
    series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
  })
}

const change = async (entryId: string, more: Record<string, unknown>, path = 'change') => {
  const { version } = await read(ilse, entryId)
  const changed = await ilse.send<{ changeId: string; tellings: Telling[] }>(
    'POST',
    `/api/meetings/${entryId}/${path}`,
    { version, ...more },
  )
  await marmot.quiet()
  return changed
}

const person = (one: Client) => ({ id: one.person.id, required: true })
/** Tashi beside those who take part already, on the second date alone. */
const alsoTashi = (entryId: string) =>
  change(entryId, {
    recurrence: SECOND,
    scope: 'this',
    people: [matteo, tashi].map(person),
    guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
  })

const asked = (who: Client, entryId: string, date?: string) =>
  who.get<Meeting>(`/api/meetings/${entryId}${date ? `?recurrence=${date}` : ''}`)
const read = async (who: Client, entryId: string, date?: string) => (await asked(who, entryId, date)).body
const names = async (entryId: string, date: string) =>
  (await read(ilse, entryId, date)).participants.map((one) => one.name).sort()

/** The dates of a meeting on somebody's own lane. */
const lane = async (who: Client, entryId: string) =>
  (await who.get<{ occurrences: EntryOnWire[] }>(`/api/entries?${RANGE}`)).body.occurrences.flatMap((one) =>
    one.entryId === entryId ? one.recurrence : [],
  )

describe('somebody who is asked to one date of a series alone', () => {
  it('gets that date, as a meeting by itself, on their lane and by letter', async () => {
    const entryId = await series('Moraine, one date')
    expect((await alsoTashi(entryId)).status).toBe(200)
    expect(await lane(tashi, entryId)).toEqual([SECOND])
    expect(marmot.letters(TASHI, entryId)).toMatchObject([
      { kind: 'Invitation', method: 'REQUEST', start: '20261210T180000', rule: null, date: null },
    ])
    expect(marmot.letters(TASHI, entryId)[0]?.text).not.toContain('repeats')
    expect(marmot.letters(GUEST, entryId)).toHaveLength(1)
    expect(await names(entryId, SECOND)).toContain('Tashi Lhendup')
    expect(await names(entryId, FIRST)).not.toContain('Tashi Lhendup')
  })

  it('sees nothing of the other dates: not the meeting, not the entry, not in what they take away', async () => {
    const entryId = await series('Moraine, not theirs')
    await alsoTashi(entryId)
    expect(await read(tashi, entryId)).toMatchObject({
      start: '2026-12-10T17:00:00.000Z',
      repeats: false,
      recurrence: null,
      series: [],
      elsewhere: [],
    })
    expect((await asked(tashi, entryId, FIRST)).status).toBe(404)
    expect((await tashi.get(`/api/entries/${entryId}?recurrence=${FIRST}`)).status).toBe(404)
    const entry = await tashi.get<EntryOnWire & { repetition: unknown; overrides: unknown[] }>(
      `/api/entries/${entryId}`,
    )
    expect(entry.body).toMatchObject({ recurrence: SECOND, repeats: false, overrides: [] })
    expect(entry.text).not.toContain('FREQ')
    const exported = (await tashi.get<string>('/api/export')).text
    const own = exported.split('BEGIN:VEVENT').find((one) => one.includes(entryId)) ?? ''
    expect(own).toContain('20261210T180000')
    expect(own).not.toContain('RRULE')
  })

  it('answers it, and the answer is theirs to keep when they are asked to all', async () => {
    const entryId = await series('Moraine, then all')
    await alsoTashi(entryId)
    expect((await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })).status).toBe(
      200,
    )
    await change(entryId, { scope: 'all', people: [matteo, tashi].map(person) })
    expect(await lane(tashi, entryId)).toEqual([SECOND])
    const looked = await change(
      entryId,
      { people: [person(matteo), { ...person(tashi), everyDate: true }] },
      'change/look',
    )
    expect(looked.body.tellings.find((one) => one.personId === tashi.person.id)).toMatchObject({
      gets: 'change',
    })
    await change(entryId, { people: [person(matteo), { ...person(tashi), everyDate: true }] })
    expect(await lane(tashi, entryId)).toEqual([FIRST, SECOND, THIRD])
    expect(marmot.letters(TASHI, entryId).at(-1)).toMatchObject({ start: '20261203T180000' })
    expect(marmot.letters(TASHI, entryId).at(-1)?.rule).toContain('COUNT=3')
  })

  it('is told of a second date as one more, and asked about that one alone', async () => {
    const entryId = await series('Moraine, two dates')
    await alsoTashi(entryId)
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    await change(entryId, { recurrence: THIRD, scope: 'this', people: [matteo, tashi].map(person) })
    expect(await lane(tashi, entryId)).toEqual([SECOND, THIRD])
    const answers = async (date: string) =>
      (await read(ilse, entryId, date)).participants.find((one) => one.personId === tashi.person.id)?.answer
    expect([await answers(SECOND), await answers(THIRD)]).toEqual(['accepted', 'needs-action'])
    expect(marmot.letters(TASHI, entryId).at(-1)?.text).toContain('on Thu 10 Dec, Thu 17 Dec')
    await change(entryId, { recurrence: SECOND, scope: 'this', people: [person(matteo)] })
    await change(entryId, { recurrence: THIRD, scope: 'this', people: [person(matteo)] })
    expect(marmot.letters(TASHI, entryId).at(-1)?.method).toBe('CANCEL')
    expect((await asked(tashi, entryId)).status).toBe(404)
  })

  it('is a guest with a page of that date alone', async () => {
    const entryId = await series('Moraine, a guest')
    const guests = [GUEST, STRANGER].map((address) => ({ address, name: '', required: true }))
    await change(entryId, { recurrence: SECOND, scope: 'this', guests })
    const letter = marmot.letters(STRANGER, entryId)[0]
    const token = /\/i\/(\S+)/.exec(letter?.text ?? '')?.[1] ?? ''
    const page = await marmot.anyone<{ start: string; dates: unknown[]; series: string[] }>(
      'GET',
      `/api/invitations/${token}`,
    )
    expect(page.body).toMatchObject({ start: '2026-12-10T17:00:00.000Z', dates: [], series: [] })
  })
})

describe('somebody who is let off one date of a series', () => {
  it('is told that they are not expected then, loses it on their lane, and comes back by undo', async () => {
    const entryId = await series('Moraine, let off')
    await matteo.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    const changed = await change(entryId, { recurrence: SECOND, scope: 'this', people: [] })
    expect(await lane(matteo, entryId)).toEqual([FIRST, THIRD])
    const letter = () => marmot.letters('matteo.ruprechter@corrie.example', entryId).at(-1)
    expect(letter()).toMatchObject({
      kind: 'You are not expected, this date only',
      method: 'CANCEL',
      date: '20261210T180000',
    })
    expect(marmot.letters(GUEST, entryId)).toHaveLength(1)
    expect((await read(ilse, entryId, SECOND)).elsewhere.map((one) => one.name)).toEqual([
      'Matteo Ruprechter',
    ])
    await ilse.send('POST', `/api/changes/${changed.body.changeId}/undo`)
    await marmot.quiet()
    expect(await lane(matteo, entryId)).toEqual([FIRST, SECOND, THIRD])
    expect(letter()).toMatchObject({ method: 'REQUEST', date: '20261210T180000' })
  })

  it('stays let off when the series moves, and when it goes on otherwise from that date on', async () => {
    const entryId = await series('Moraine, moved')
    await change(entryId, { recurrence: THIRD, scope: 'this', people: [] })
    await change(entryId, { recurrence: FIRST, scope: 'all', starts: '2026-12-03T19:00' })
    expect(await lane(matteo, entryId)).toEqual(['2026-12-03T19:00', '2026-12-10T19:00'])
    const tail = await change(entryId, {
      recurrence: '2026-12-10T19:00',
      scope: 'following',
      starts: '2026-12-10T19:15',
    })
    const tailId = (tail.body as unknown as { entryId: string }).entryId
    expect(tailId).not.toBe(entryId)
    expect([await lane(matteo, entryId), await lane(matteo, tailId)]).toEqual([
      ['2026-12-03T19:00'],
      ['2026-12-10T19:15'],
    ])
  })

  it('cannot be required on one date and optional on another', async () => {
    const entryId = await series('Moraine, required')
    const people = [{ id: matteo.person.id, required: false }]
    const refused = await change(entryId, { recurrence: SECOND, scope: 'this', people })
    expect([refused.status, problemOf(refused).code]).toEqual([422, 'required-on-all'])
  })

  it('answers no date that is not theirs', async () => {
    const entryId = await series('Moraine, not asked')
    await change(entryId, { recurrence: SECOND, scope: 'this', people: [] })
    const refused = await matteo.send('POST', `/api/meetings/${entryId}/answer`, {
      answer: 'accepted',
      recurrence: SECOND,
    })
    expect([refused.status, problemOf(refused).code]).toEqual([409, 'no-such-date'])
    await until(
      () => lane(matteo, entryId),
      (dates) => dates.length === 2,
    )
  })
})
