import type { Meeting, Telling } from '@marmot/contract/meetings'
import type { ReservationOnWire } from '@marmot/contract/resources'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

const GUEST = 'noor.haddad@lodestar.example'
const TASHI = 'tashi.lhendup@corrie.example'
const MATTEO = 'matteo.ruprechter@corrie.example'
const DATES = ['2027-03-04T18:00', '2027-03-11T18:00', '2027-03-18T18:00', '2027-03-25T18:00'] as const
const [FIRST, , THIRD, FOURTH] = DATES

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let matteo: string
let serac: string
beforeAll(async () => {
  marmot = await startTestMarmot({ takeBackMs: 3_600_000 })
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  matteo = await marmot.personId('Matteo Ruprechter')
  serac = await marmot.placeId('Serac')
})
afterAll(() => marmot.stop())

const series = async (title: string, more: Record<string, unknown> = {}) => {
  const made = await ilse.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      title,
      people: [{ id: tashi.person.id, required: true }],
      guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
      starts: FIRST,
      series: { rule: 'FREQ=WEEKLY;BYDAY=TH;COUNT=4', changes: [] },
      ...more,
    }),
  )
  expect([made.status, made.text]).toEqual([200, expect.anything()])
  await marmot.pass()
  return made.body.entryId
}

interface Changed {
  readonly entryId: string
  readonly version: number
  readonly changeId: string
  readonly told: number
}

const change = async (entryId: string, version: number, more: Record<string, unknown>) => {
  const changed = await ilse.send<Changed>('POST', `/api/meetings/${entryId}/change`, {
    version,
    scope: 'following',
    ...more,
  })
  expect([changed.status, changed.text]).toEqual([200, expect.anything()])
  return changed.body
}

const undo = (changeId: string) => ilse.send<{ told: number }>('POST', `/api/changes/${changeId}/undo`)

const answer = (entryId: string, said: string, recurrence?: string) =>
  tashi.send('POST', `/api/meetings/${entryId}/answer`, {
    answer: said,
    ...(recurrence ? { recurrence } : {}),
  })

const read = async (entryId: string, date: string): Promise<Meeting> =>
  (await ilse.get<Meeting>(`/api/meetings/${entryId}?recurrence=${date}`)).body

const answerOf = async (entryId: string, date: string, name = 'Tashi Lhendup') =>
  (await read(entryId, date)).participants.find((one) => one.name === name)?.answer

/** The dates of some entries that stand, by their names, and what is reserved for them. */
const datesOf = async (...ids: string[]) =>
  (
    await marmot.pool.query<{ name: string; start: string; place: string | null }>(
      `select o.id as name, to_char(lower(o.span) at time zone 'UTC', 'MM-DD HH24:MI') as start, r.id as place
         from occurrence o left join reservation r on r.occurrence_id = o.id and r.state = 'taken'
        where o.entry_id = any($1) and o.gone_at is null order by o.span`,
      [ids],
    )
  ).rows

const keptOf = async (entryId: string) => {
  const all = async (text: string) => (await marmot.pool.query(text, [entryId])).rows
  return {
    entry: await all(
      'select title, starts, minutes, rule, added, excepted, cancel_reason from entry where id = $1',
    ),
    people: await all('select * from participant where entry_id = $1 order by id'),
    dates: await datesOf(entryId),
    answers: await all(
      `select a.* from attendance a join occurrence o on o.id = a.occurrence_id
        where o.entry_id = $1 order by a.occurrence_id, a.participant_id`,
    ),
    overrides: await all('select * from override where entry_id = $1 order by recurrence'),
    letters: await all('select id, state from letter where entry_id = $1 order by number, id'),
  }
}

describe('a date and those that follow', () => {
  it('move as a series of their own: names, places and earlier answers stay, the later are asked again', async () => {
    const entryId = await series('Nunatak weekly', { places: [serac] })
    await answer(entryId, 'accepted')
    await answer(entryId, 'declined', FOURTH)
    const before = await datesOf(entryId)
    const moved = await change(entryId, 1, { recurrence: THIRD, starts: '2027-03-19T17:30', minutes: 30 })
    expect(moved.told).toBe(2)
    expect(moved.entryId).not.toBe(entryId)
    const after = await datesOf(entryId, moved.entryId)
    expect(after.map((one) => [one.name, one.place])).toEqual(before.map((one) => [one.name, one.place]))
    expect(after.map((one) => one.start)).toEqual([
      '03-04 17:00',
      '03-11 17:00',
      '03-19 16:30',
      '03-26 16:30',
    ])
    await marmot.pass()
    expect(await answerOf(entryId, FIRST)).toBe('accepted')
    expect(await answerOf(moved.entryId, '2027-03-19T17:30')).toBe('needs-action')
    expect(await answerOf(moved.entryId, '2027-03-26T17:30')).toBe('needs-action')
    const [, cut] = marmot.letters(TASHI, entryId)
    expect(cut).toMatchObject({ kind: 'Changed', start: '20270304T180000' })
    expect(cut?.rule).toMatch(/^FREQ=WEEKLY;BYDAY=TH;UNTIL=20270318T165959Z$/)
    expect(cut?.text).toContain('Your answer stands.')
    const [onward, ...more] = marmot.letters(TASHI, moved.entryId)
    expect([onward?.kind, onward?.start, more]).toEqual([
      'Changed, this date and the following',
      '20270319T173000',
      [],
    ])
    expect(onward?.text).toContain('The dates before stay as they are. Please answer again.')
    expect(onward?.text).toMatch(
      /When: +Friday 19 March 2027, 22:15 to 22:45.*\nBefore: +Thursday 18 March 2027, 22:45/,
    )
  })

  it('are called otherwise: everybody’s answers stand', async () => {
    const entryId = await series('Nunatak words', { starts: '2027-03-04T06:00' })
    await answer(entryId, 'tentative')
    await answer(entryId, 'accepted', '2027-03-25T06:00')
    const named = await change(entryId, 1, { recurrence: '2027-03-18T06:00', title: 'Nunatak other words' })
    await marmot.pass()
    expect(await answerOf(named.entryId, '2027-03-18T06:00')).toBe('tentative')
    expect(await answerOf(named.entryId, '2027-03-25T06:00')).toBe('accepted')
    expect(marmot.letters(TASHI, named.entryId)[0]?.text).toContain('Your answer stands.')
    expect((await read(entryId, '2027-03-04T06:00')).title).toBe('Nunatak words')
  })

  it('gain one and lose another, who hear of what concerns them alone', async () => {
    const entryId = await series('Nunatak people', { starts: '2027-03-04T05:00' })
    const look = await ilse.send<{ tellings: Telling[] }>('POST', `/api/meetings/${entryId}/change/look`, {
      version: 1,
      scope: 'following',
      recurrence: '2027-03-18T05:00',
      people: [{ id: matteo, required: true }],
      guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
    })
    expect(Object.fromEntries(look.body.tellings.map((one) => [one.name, one.gets]))).toEqual({
      'Matteo Ruprechter': 'invitation',
      'Noor Haddad': 'change',
      'Tashi Lhendup': 'change',
    })
    const changed = await change(entryId, 1, {
      recurrence: '2027-03-18T05:00',
      people: [{ id: matteo, required: true }],
    })
    await marmot.pass()
    expect([marmot.letters(MATTEO, entryId), marmot.letters(TASHI, changed.entryId)]).toEqual([[], []])
    expect(marmot.letters(MATTEO, changed.entryId)).toMatchObject([{ kind: 'Invitation' }])
    expect(marmot.letters(TASHI, entryId).map((one) => one.kind)).toEqual(['Invitation', 'Changed'])
    const names = async (id: string, date: string) =>
      (await read(id, date)).participants.map((one) => one.name).sort()
    expect(await names(entryId, '2027-03-04T05:00')).toContain('Tashi Lhendup')
    expect(await names(changed.entryId, '2027-03-18T05:00')).not.toContain('Tashi Lhendup')
  })

  it('come back whole when that is taken back, within the moment and after', async () => {
    const entryId = await series('Nunatak back', { places: [serac], starts: '2027-04-01T18:00' })
    await answer(entryId, 'accepted')
    await answer(entryId, 'declined', '2027-04-22T18:00')
    const before = await keptOf(entryId)
    const away = () =>
      change(entryId, 0, { recurrence: '2027-04-15T18:00', starts: '2027-04-16T19:00', guests: [] }).catch(
        () => null,
      )
    expect(await away()).toBeNull()
    const first = await change(entryId, 1, { recurrence: '2027-04-15T18:00', starts: '2027-04-16T19:00' })
    expect((await undo(first.changeId)).body.told).toBe(0)
    await marmot.pass()
    expect(await keptOf(entryId)).toEqual(before)
    expect(await datesOf(first.entryId)).toEqual([])
    expect(marmot.letters(GUEST, first.entryId)).toEqual([])
    const { version } = await read(entryId, '2027-04-01T18:00')
    const again = await change(entryId, version, {
      recurrence: '2027-04-15T18:00',
      starts: '2027-04-16T19:00',
    })
    await marmot.pass()
    expect((await undo(again.changeId)).body.told).toBe(4)
    await marmot.pass()
    const { dates, overrides } = await keptOf(entryId)
    expect({ dates, overrides }).toEqual({ dates: before.dates, overrides: before.overrides })
    expect(marmot.letters(GUEST, again.entryId).map((one) => one.kind)).toEqual([
      'Changed, this date and the following',
      'Cancelled, all dates',
    ])
  })

  it('are an invitation like the first to whoever had not heard of any of it', async () => {
    const made = await ilse.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({
        title: 'Nunatak fresh',
        people: [{ id: tashi.person.id, required: true }],
        starts: '2027-03-04T09:00',
        series: { rule: 'FREQ=WEEKLY;BYDAY=TH;COUNT=4', changes: [] },
      }),
    )
    const { entryId } = made.body
    const changed = await change(entryId, 1, { recurrence: '2027-03-18T09:00', starts: '2027-03-18T10:00' })
    // Also where the first has left by the time that the second is written.
    await marmot.pass(entryId)
    await marmot.pass()
    expect([marmot.letters(TASHI, entryId), marmot.letters(TASHI, changed.entryId)]).toMatchObject([
      [{ kind: 'Invitation' }],
      [{ kind: 'Invitation' }],
    ])
  })

  it('from the first on are all of them', async () => {
    const entryId = await series('Nunatak all', { starts: '2027-03-04T04:00' })
    const moved = await change(entryId, 1, { recurrence: '2027-03-04T04:00', starts: '2027-03-04T04:30' })
    expect(moved.entryId).toBe(entryId)
    expect((await datesOf(entryId)).map((one) => one.start.slice(6))).toEqual(Array(4).fill('03:30'))
  })

  it('of which one was moved by itself keeps that where only the words change', async () => {
    const entryId = await series('Nunatak own', { starts: '2027-03-04T03:00' })
    await change(entryId, 1, { recurrence: '2027-03-18T03:00', scope: 'this', starts: '2027-03-18T07:00' })
    const all = await change(entryId, 2, {
      recurrence: '2027-03-18T03:00',
      scope: 'all',
      title: 'Nunatak owned',
    })
    expect((await datesOf(entryId)).map((one) => one.start)[2]).toBe('03-18 06:00')
    const on = await change(entryId, all.version, { recurrence: '2027-03-18T03:00', note: 'From here on' })
    expect((await datesOf(entryId, on.entryId)).map((one) => one.start)[2]).toBe('03-18 06:00')
  })
})

describe('cancelled from a date on', () => {
  const cancel = (entryId: string, recurrence: string) =>
    ilse.send<{ told: number; changeId: string }>('POST', `/api/meetings/${entryId}/cancel`, {
      recurrence,
      following: true,
      reason: 'The project ends',
    })

  it('it ends before: places are free, the others stand, and the letter says why', async () => {
    const entryId = await series('Nunatak ends', { places: [serac], starts: '2027-04-01T07:00' })
    await answer(entryId, 'accepted')
    const before = await keptOf(entryId)
    const off = await cancel(entryId, '2027-04-15T07:00')
    expect(off.body.told).toBe(2)
    expect((await datesOf(entryId)).map((one) => one.start)).toEqual(['04-01 05:00', '04-08 05:00'])
    const taken = await ilse.get<{ reservations: ReservationOnWire[] }>(
      `/api/reservations?from=2027-04-01T00:00:00Z&to=2027-05-01T00:00:00Z&places=${serac}`,
    )
    expect(taken.body.reservations.filter((one) => one.title === 'Nunatak ends')).toHaveLength(2)
    await undo(off.body.changeId)
    await marmot.pass()
    expect(await keptOf(entryId)).toEqual(before)
    await cancel(entryId, '2027-04-15T07:00')
    await marmot.pass()
    const [, cut] = marmot.letters(GUEST, entryId)
    expect(cut).toMatchObject({ kind: 'Changed', rule: 'FREQ=WEEKLY;BYDAY=TH;UNTIL=20270415T045959Z' })
    expect(cut?.text).toMatch(/Why: +The project ends/)
    // Asked once more, as after an answer that was lost, nothing changes and nobody is told.
    const again = await cancel(entryId, '2027-04-15T07:00')
    expect([again.status, again.body]).toEqual([200, { told: 2, changeId: null, untoldMs: 0 }])
    expect((await cancel(entryId, '2027-04-16T07:00')).status).toBe(404)
    expect(marmot.letters(GUEST, entryId)).toHaveLength(2)
    expect(await answerOf(entryId, '2027-04-08T07:00')).toBe('accepted')
  })

  it('that is the first it is cancelled as a whole', async () => {
    const entryId = await series('Nunatak gone', { places: [serac], starts: '2027-04-01T08:00' })
    await cancel(entryId, '2027-04-01T08:00')
    await marmot.pass()
    expect(await read(entryId, '2027-04-01T08:00')).toMatchObject({
      cancelled: true,
      cancelReason: 'The project ends',
    })
    expect(marmot.letters(GUEST, entryId).map((one) => one.kind)).toEqual([
      'Invitation',
      'Cancelled, all dates',
    ])
  })
})
