import type { Meeting, Telling } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

const GUEST = 'noor.haddad@lodestar.example'
const TASHI = 'tashi.lhendup@corrie.example'
const MATTEO = 'matteo.ruprechter@corrie.example'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let serac: string
let matteo: string
beforeAll(async () => {
  // Far longer than the tests take: what passes, passes because they say so.
  marmot = await startTestMarmot({ takeBackMs: 3_600_000 })
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  serac = await marmot.placeId('Serac')
  matteo = await marmot.personId('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

const send = async (more: Record<string, unknown> = {}) => {
  const made = await ilse.send<{ entryId: string; changeId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      people: [{ id: tashi.person.id, required: true }],
      guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
      ...more,
    }),
  )
  expect([made.status, made.text]).toEqual([200, expect.anything()])
  return made.body
}

const change = (entryId: string, version: number, more: Record<string, unknown>) =>
  ilse.send<{ version: number; changeId: string; told: number }>('POST', `/api/meetings/${entryId}/change`, {
    version,
    ...more,
  })

const look = (entryId: string, version: number, more: Record<string, unknown>) =>
  ilse.send<{ tellings: Telling[] }>('POST', `/api/meetings/${entryId}/change/look`, { version, ...more })

const undo = (changeId: string) =>
  ilse.send<{ undone: boolean; told: number }>('POST', `/api/changes/${changeId}/undo`)

const read = async (entryId: string): Promise<Meeting> =>
  (await ilse.get<Meeting>(`/api/meetings/${entryId}`)).body

const kinds = (address: string, entryId: string) => marmot.letters(address, entryId).map((one) => one.kind)

/** All that the database keeps of a meeting that others see, by what it is. */
const keptOf = async (entryId: string) => {
  const one = async (text: string) => (await marmot.pool.query(text, [entryId])).rows
  return {
    entry: await one(
      'select title, note, starts, minutes, zone, cancelled_at, deleted_at, sequence from entry where id = $1',
    ),
    people: await one('select * from participant where entry_id = $1 order by id'),
    dates: await one('select id, recurrence, span, gone_at from occurrence where entry_id = $1 order by id'),
    answers: await one(
      `select a.* from attendance a join occurrence o on o.id = a.occurrence_id where o.entry_id = $1
        order by a.occurrence_id, a.participant_id`,
    ),
    places: await one(
      `select r.* from reservation r join occurrence o on o.id = r.occurrence_id where o.entry_id = $1
          and r.state <> 'released' order by r.id`,
    ),
    letters: await one('select id, number, state from letter where entry_id = $1 order by number, id'),
    tellings: await one('select id from telling where entry_id = $1 order by id'),
    notices: await one('select kind, person_id from notice where entry_id = $1 order by id'),
  }
}

describe('within the moment', () => {
  it('nobody is told of what was sent, and taken back it leaves nothing', async () => {
    const { entryId, changeId } = await send({
      title: 'Bergschrund gone',
      places: [serac],
      starts: '2026-12-03T18:00',
    })
    expect((await read(entryId)).untold).toMatchObject({ changeId })
    const undone = await undo(changeId)
    expect(undone.body).toEqual({ undone: true, told: 0 })
    await marmot.pass()
    expect(await keptOf(entryId)).toMatchObject({ letters: [], tellings: [], notices: [], places: [] })
    expect([kinds(TASHI, entryId), kinds(GUEST, entryId)]).toEqual([[], []])
    const [there] = (await keptOf(entryId)).dates as { gone_at: Date | null }[]
    expect(there?.gone_at).not.toBeNull()
  })

  it('a move is taken back as if it had never been, answers and places included', async () => {
    const { entryId } = await send({ title: 'Bergschrund back', places: [serac], starts: '2026-12-04T18:00' })
    await marmot.pass()
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted', message: 'Gladly' })
    const before = await keptOf(entryId)
    const moved = await change(entryId, 1, {
      starts: '2026-12-08T19:30',
      title: 'Bergschrund elsewhere',
      people: [
        { id: tashi.person.id, required: false },
        { id: matteo, required: true },
      ],
      guests: [],
    })
    expect(moved.body.told).toBe(3)
    expect((await read(entryId)).untold).toMatchObject({ changeId: moved.body.changeId })
    expect((await undo(moved.body.changeId)).body).toEqual({ undone: true, told: 0 })
    await marmot.pass()
    expect(await keptOf(entryId)).toEqual(before)
    expect(kinds(MATTEO, entryId)).toEqual([])
  })

  it('several changes are one letter to each, and none to whom nothing changed in the end', async () => {
    const { entryId } = await send({ title: 'Bergschrund often', starts: '2026-12-07T18:00' })
    await marmot.pass()
    const both = [
      { id: tashi.person.id, required: true },
      { id: matteo, required: true },
    ]
    await change(entryId, 1, { starts: '2026-12-08T18:00' })
    await change(entryId, 2, { people: both })
    await change(entryId, 3, { starts: '2026-12-07T18:00' })
    expect((await read(entryId)).untold).not.toBeNull()
    await marmot.pass()
    expect([kinds(TASHI, entryId), kinds(GUEST, entryId), kinds(MATTEO, entryId)]).toEqual([
      ['Invitation'],
      ['Invitation'],
      ['Invitation'],
    ])
    expect(await read(entryId)).toMatchObject({ untold: null, version: 4 })
  })

  it('a cancellation is taken back before anybody knows of it', async () => {
    const { entryId } = await send({ title: 'Bergschrund on', places: [serac], starts: '2026-12-09T18:00' })
    await marmot.pass()
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'tentative' })
    const before = await keptOf(entryId)
    const off = await ilse.send<{ told: number; changeId: string }>('POST', `/api/meetings/${entryId}/cancel`)
    expect(off.body.told).toBe(2)
    expect((await undo(off.body.changeId)).body.told).toBe(0)
    await marmot.pass()
    expect(await keptOf(entryId)).toEqual(before)
  })

  it('is over when all were told: taken back then, it is told again', async () => {
    const { entryId } = await send({ title: 'Bergschrund told', starts: '2026-12-10T18:00' })
    await marmot.pass()
    const moved = await change(entryId, 1, { starts: '2026-12-11T18:00' })
    await marmot.pass()
    expect(await read(entryId)).toMatchObject({ untold: null })
    expect((await undo(moved.body.changeId)).body).toEqual({ undone: true, told: 2 })
    await marmot.pass()
    expect(kinds(GUEST, entryId)).toEqual(['Invitation', 'Changed', 'Changed'])
  })

  it('is known to whoever may change it, and to nobody else', async () => {
    const { entryId } = await send({ title: 'Bergschrund mine', starts: '2026-12-14T18:00' })
    const theirs = await tashi.get<Meeting>(`/api/meetings/${entryId}`)
    expect(theirs.body).toMatchObject({ untold: null, mayChange: false })
    expect(await read(entryId)).toMatchObject({ mayChange: true })
  })
})

describe('a look at a change', () => {
  const gets = (tellings: readonly Telling[]) =>
    Object.fromEntries(
      tellings.map((one) => [one.name, one.asksAgain ? `${one.gets}, asked again` : one.gets]),
    )

  it('says who is told what, whose answer is asked again, and changes nothing', async () => {
    const { entryId } = await send({ title: 'Crevasse look', places: [serac], starts: '2026-12-15T18:00' })
    await marmot.pass()
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    const before = await keptOf(entryId)
    const moved = await look(entryId, 1, {
      starts: '2026-12-16T18:00',
      people: [
        { id: tashi.person.id, required: true },
        { id: matteo, required: true },
      ],
      guests: [],
    })
    expect(moved.status).toBe(200)
    expect(gets(moved.body.tellings)).toEqual({
      'Tashi Lhendup': 'change, asked again',
      'Matteo Ruprechter': 'invitation',
      'Noor Haddad': 'cancellation',
    })
    expect(await keptOf(entryId)).toEqual(before)
    expect(
      (await marmot.pool.query("select 1 from graphile_worker.jobs where key like 'owed:%'")).rowCount,
    ).toBe(0)
    const corrected = await look(entryId, 1, { title: 'Crevasse looked at' })
    expect(gets(corrected.body.tellings)).toEqual({ 'Tashi Lhendup': 'change', 'Noor Haddad': 'change' })
    expect(gets((await look(entryId, 1, {})).body.tellings)).toEqual({
      'Tashi Lhendup': 'nothing',
      'Noor Haddad': 'nothing',
    })
  })

  it('says what would be refused, as the change itself would', async () => {
    const { entryId } = await send({ title: 'Crevasse taken', starts: '2026-12-17T18:00' })
    await send({ title: 'Crevasse first', places: [serac], starts: '2026-12-17T18:00' })
    const refused = await look(entryId, 1, { places: [serac] })
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(problemOf(await look(entryId, 0, { title: 'Older' }))).toMatchObject({ code: 'stale' })
    expect((await tashi.send('POST', `/api/meetings/${entryId}/change/look`, { version: 1 })).status).toBe(
      404,
    )
  })
})

describe('a stand-in', () => {
  it('reads and changes the meeting of the director, in which they take no part', async () => {
    const henrike = await marmot.as('Henrike Aasland')
    const made = await henrike.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({
        title: 'Crevasse of the director',
        people: [{ id: tashi.person.id, required: true }],
        starts: '2026-12-18T18:00',
      }),
    )
    const { entryId } = made.body
    expect(await read(entryId)).toMatchObject({
      mayChange: true,
      iOrganize: false,
      untold: { changeId: null },
    })
    const moved = await change(entryId, 1, { starts: '2026-12-18T19:00' })
    expect((await read(entryId)).untold).toMatchObject({ changeId: moved.body.changeId })
    await marmot.pass()
    const now = await tashi.get<{ notices: Notice[] }>('/api/now')
    expect(now.body.notices).toContainEqual(
      expect.objectContaining({ kind: 'invited', title: 'Crevasse of the director' }),
    )
    expect((await (await marmot.as('Matteo Ruprechter')).get(`/api/meetings/${entryId}`)).status).toBe(404)
  })
})
