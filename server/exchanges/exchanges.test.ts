import { randomUUID } from 'node:crypto'
import type { Exchange } from '@marmot/contract/asked'
import type { Room } from '@marmot/contract/exchanges'
import type { Notice } from '@marmot/contract/notices'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'
import { lapseExchanges } from './answering.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let matteo: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  matteo = await marmot.as('Matteo Ruprechter')
  // One more like Serac, so that there is somewhere to go for two in a chain.
  await marmot.pool.query(
    `insert into resource (name, kind, site_id, floor, seats, features, about)
     select 'Cornice', kind, site_id, floor, seats, features, '' from resource where name = 'Serac'`,
  )
  await marmot.pool.query(
    `insert into opening_hours select c.id, h.weekday, h.from_minute, h.to_minute
       from resource c, opening_hours h join resource s on s.id = h.resource_id where c.name = 'Cornice' and s.name = 'Serac'`,
  )
})
afterAll(() => marmot.stop())

let day = 10
/** A day after the demo's last for each test, at an hour. */
const on = (clock: string) => `2027-05-${day}T${clock}`
const reserve = (who: Client, place: string, clock: string, headCount: number) =>
  marmot.reserve(who, place, on(clock), { title: 'Gneiss', headCount })
const wishOf = (clock: string, headCount: number) => ({
  starts: on(clock),
  minutes: 60,
  zone: 'Europe/Vienna',
  headCount,
})
const look = async (who: Client, place: string, clock: string, headCount: number) =>
  (
    await who.send<{ room: Room | null }>('POST', '/api/exchanges/look', {
      ...wishOf(clock, headCount),
      placeIds: [await marmot.placeId(place)],
    })
  ).body.room
const ask = async (
  who: Client,
  place: string,
  clock: string,
  headCount: number,
  room: Room,
  more: Record<string, unknown> = {},
) => {
  const placeId = await marmot.placeId(place)
  return who.send<{ exchangeId: string; asked: string[] }>('POST', '/api/exchanges', {
    wish: {
      ...aMeeting({ title: 'Public talk', shows: 'listed' }),
      ...wishOf(clock, headCount),
      purpose: 'Talk for schools',
      places: [placeId],
      ...more,
    },
    placeIds: [placeId],
    moves: room.moves.map((one) => ({ reservationId: one.reservationId, to: one.toId })),
  })
}
const wayOf = (room: Room | null) => room?.moves.map((one) => `${one.by}: ${one.from} to ${one.to}`)
const asked = async (who: Client) => (await who.get<{ exchanges: Exchange[] }>('/api/now')).body.exchanges
const lately = async (who: Client) =>
  (await who.get<{ notices: Notice[] }>('/api/now')).body.notices.map(
    (one) => `${one.who} ${one.kind}: ${one.message}`,
  )
const answer = (who: Client, id: string, agree: boolean, words = '') =>
  who.send<{ done: boolean; failed: string | null }>('POST', `/api/exchanges/${id}/answer`, { agree, words })
const whereOf = async (who: Client, entryId: string) =>
  (await who.get<{ place: string }>(`/api/meetings/${entryId}`)).body.place

describe('making room', () => {
  it('finds who could go elsewhere, asks them, and does all of it once they agree', async () => {
    const has = await reserve(tashi, 'Névé Hall', '10:00', 6)
    await marmot.quiet()
    const room = await look(ilse, 'Névé Hall', '10:30', 40)
    expect(wayOf(room)).toEqual(['Tashi Lhendup: Névé Hall to Firn'])
    if (!room) throw new Error('no room')
    // Twice in the same second, it is asked once.
    const both = await Promise.all([1, 2].map(() => ask(ilse, 'Névé Hall', '10:30', 40, room)))
    const [first, again] = both.sort((one, other) => one.status - other.status)
    if (!first || !again) throw new Error('nothing asked')
    const { body } = first
    expect(body.asked).toEqual(['Tashi Lhendup'])
    expect(problemOf(again).code).toBe('asked-already')
    // Nothing has moved, and whoever is asked reads what for.
    expect(await whereOf(tashi, has)).toBe('Névé Hall, Innsbruck')
    expect(await asked(tashi)).toMatchObject([
      {
        by: 'Ilse Brandacher',
        mine: false,
        place: 'Névé Hall',
        purpose: 'Talk for schools',
        moves: [{ title: 'Gneiss', from: 'Névé Hall', to: 'Firn', asked: true }],
      },
    ])
    expect(await asked(ilse)).toMatchObject([{ mine: true, moves: [{ title: '', agreed: false }] }])
    expect((await answer(matteo, body.exchangeId, true)).status).toBe(404)

    expect((await answer(tashi, body.exchangeId, true)).body).toEqual({ done: true, failed: null })
    expect(await whereOf(tashi, has)).toBe('Firn, Innsbruck')
    expect((await lately(ilse))[0]).toMatch(/^Tashi Lhendup room-made: Névé Hall, Monday 10 May/)
    expect([await asked(ilse), await asked(tashi)]).toEqual([[], []])
    const mine = await marmot.pool.query(
      `select 1 from reservation r join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
        where e.title = 'Public talk' and r.state = 'taken'`,
    )
    expect(mine.rowCount).toBe(1)
    await marmot.quiet()
    expect(marmot.letters(tashi.person.address, has).map((one) => [one.kind, one.where])).toEqual([
      ['Reserved', 'Névé Hall, Innsbruck'],
      ['Changed', 'Firn, Innsbruck'],
    ])
    expect(problemOf(await answer(tashi, body.exchangeId, true)).code).toBe('nothing-asked')
  })

  it('moves two in a chain, whichever agrees last, in the same moment too', async () => {
    day = 11
    const entries = [
      [tashi, await reserve(tashi, 'Col', '10:00', 8)],
      [matteo, await reserve(matteo, 'Serac', '10:00', 6)],
    ] as const
    // The one like Serac is free for the one after the other, and taken for the first in between.
    const room = await look(ilse, 'Col', '10:00', 10)
    expect(room?.moves).toHaveLength(1)
    await reserve(matteo, 'Cornice', '10:45', 4)
    await reserve(matteo, 'Serac', '11:15', 4)
    await reserve(matteo, 'Firn', '10:00', 12)
    await reserve(matteo, 'Névé Hall', '10:00', 40)
    expect(await look(ilse, 'Col', '10:00', 10)).toBeNull()
    day = 12
    const chain = [
      [tashi, await reserve(tashi, 'Col', '10:00', 8)],
      [matteo, await reserve(matteo, 'Serac', '10:30', 6)],
    ] as const
    await reserve(matteo, 'Serac', '09:00', 4)
    await reserve(ilse, 'Cornice', '09:30', 5)
    const found = await look(ilse, 'Col', '10:00', 10)
    expect(wayOf(found)).toEqual(['Tashi Lhendup: Col to Serac', 'Matteo Ruprechter: Serac to Cornice'])
    if (!found) throw new Error('no room')
    const { body } = await ask(ilse, 'Col', '10:00', 10, found)
    expect(body.asked).toEqual(['Tashi Lhendup', 'Matteo Ruprechter'])
    const answers = await Promise.all([
      answer(tashi, body.exchangeId, true),
      answer(matteo, body.exchangeId, true),
    ])
    expect(answers.map((one) => one.body.done).sort()).toEqual([false, true])
    expect(await Promise.all(chain.map(([who, id]) => whereOf(who, id)))).toEqual([
      'Serac, Innsbruck',
      'Cornice, Innsbruck',
    ])
    expect(await Promise.all(entries.map(([who, id]) => whereOf(who, id)))).toEqual([
      'Col, Innsbruck',
      'Serac, Innsbruck',
    ])
  })

  it('says no with words; nothing has moved', async () => {
    day = 13
    const has = await reserve(tashi, 'Névé Hall', '10:00', 6)
    const room = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!room) throw new Error('no room')
    const { body } = await ask(ilse, 'Névé Hall', '10:00', 40, room)
    expect((await answer(tashi, body.exchangeId, false, 'The slides need the big wall.')).body.done).toBe(
      false,
    )
    expect(await whereOf(tashi, has)).toBe('Névé Hall, Innsbruck')
    expect((await lately(ilse))[0]).toMatch(
      /^Tashi Lhendup no-room: Névé Hall, Thursday 13 May.*: The slides need the big wall\.$/,
    )
  })

  it('changes nothing where the other place is gone meanwhile, and says so to both', async () => {
    day = 14
    const has = await reserve(tashi, 'Névé Hall', '10:00', 6)
    const room = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!room) throw new Error('no room')
    const { body } = await ask(ilse, 'Névé Hall', '10:00', 40, room)
    await reserve(matteo, 'Firn', '10:30', 9)
    const key = { 'idempotency-key': randomUUID() }
    const agree = () =>
      tashi.send<{ failed: string }>('POST', `/api/exchanges/${body.exchangeId}/answer`, { agree: true }, key)
    const first = await agree()
    expect(first.body).toEqual({ done: false, failed: expect.stringContaining('Firn is taken at 10:00') })
    expect((await agree()).body).toEqual(first.body)
    expect(await whereOf(tashi, has)).toBe('Névé Hall, Innsbruck')
    expect((await lately(ilse))[0]).toContain('no-room: Névé Hall, Friday 14 May')
  })

  it('leaves alone what has gone to another time by itself, and asks nobody to go where they were not asked', async () => {
    day = 19
    const has = await reserve(tashi, 'Névé Hall', '10:00', 6)
    const room = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!room) throw new Error('no room')
    const { body } = await ask(ilse, 'Névé Hall', '10:00', 40, room)
    await tashi.send('POST', `/api/meetings/${has}/change`, { version: 1, starts: on('14:00') })
    expect((await answer(tashi, body.exchangeId, true)).body).toEqual({ done: true, failed: null })
    expect(await whereOf(tashi, has)).toBe('Névé Hall, Innsbruck')

    day = 20
    await reserve(tashi, 'Col', '10:00', 8)
    await reserve(matteo, 'Firn', '10:00', 12)
    await reserve(matteo, 'Névé Hall', '10:00', 40)
    const found = await look(ilse, 'Col', '10:00', 10)
    if (!found) throw new Error('no room')
    // There is another way by now, at which nobody has looked.
    await reserve(matteo, found.moves[0]?.to ?? '', '10:30', 4)
    expect(wayOf(await look(ilse, 'Col', '10:00', 10))).toHaveLength(1)
    expect(problemOf(await ask(ilse, 'Col', '10:00', 10, found)).code).toBe('room-changed')
  })

  it('asks nobody once it is not what was looked at; is withdrawn, and lapses by itself', async () => {
    day = 17
    const has = await reserve(tashi, 'Névé Hall', '10:00', 6)
    const room = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!room) throw new Error('no room')
    await reserve(matteo, 'Firn', '09:30', 9)
    expect(problemOf(await ask(ilse, 'Névé Hall', '10:00', 40, room)).code).toBe('room-changed')
    expect(await asked(tashi)).toEqual([])
    day = 18
    await reserve(tashi, 'Névé Hall', '10:00', 6)
    const again = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!again) throw new Error('no room')
    const { body } = await ask(ilse, 'Névé Hall', '10:00', 40, again)
    expect((await tashi.send('DELETE', `/api/exchanges/${body.exchangeId}`)).status).toBe(404)
    expect((await ilse.send('DELETE', `/api/exchanges/${body.exchangeId}`)).status).toBe(200)
    expect(await asked(tashi)).toEqual([])
    expect(problemOf(await answer(tashi, body.exchangeId, true)).code).toBe('nothing-asked')

    const late = await ask(ilse, 'Névé Hall', '10:00', 40, again)
    await lapseExchanges({ pool: marmot.pool, clock: () => Date.parse('2027-05-18T07:00:00Z') })
    expect(problemOf(await answer(tashi, late.body.exchangeId, true)).code).toBe('nothing-asked')
    expect((await lately(ilse))[0]).toMatch(/^Tashi Lhendup no-room: Névé Hall.*: no answer in time$/)
    expect(await whereOf(tashi, has)).toBe('Névé Hall, Innsbruck')
  })

  it('asks whoever shares nothing as somebody, and does not say afterwards who that was', async () => {
    day = 21
    await reserve(tashi, 'Névé Hall', '10:00', 6)
    const grant = { to: 'organisation', id: null, does: 'look', seesPrivate: false, until: null }
    const shared = await tashi.send<{ grantId: string }>('PUT', '/api/sharing', { ...grant, sees: 'nothing' })
    expect(shared.status).toBe(200)
    const room = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!room) throw new Error('no room')
    const { body } = await ask(ilse, 'Névé Hall', '10:00', 40, room)
    expect(body.asked).toEqual(['somebody'])
    const now = await ilse.get<{ exchanges: Exchange[] }>('/api/now')
    expect(now.body.exchanges.map((one) => one.moves.map((move) => move.by))).toEqual([['somebody']])
    expect(JSON.stringify(now.body.exchanges)).not.toContain('Tashi')
    expect((await answer(tashi, body.exchangeId, false)).status).toBe(200)
    expect(await lately(ilse)).toContainEqual(
      expect.stringMatching(/^Somebody no-room: Névé Hall, Friday 21 May/),
    )
    await tashi.send('PUT', '/api/sharing', { ...grant, sees: 'busy' })
  })

  it('is made in any of several places that would do, and nowhere where one of them is free', async () => {
    day = 25
    await reserve(tashi, 'Névé Hall', '10:00', 40)
    await reserve(matteo, 'Serac', '10:00', 6)
    const lookIn = async (...places: string[]) => {
      const placeIds = await Promise.all(places.map((name) => marmot.placeId(name)))
      const body = { ...wishOf('10:00', 4), placeIds }
      return (await ilse.send<{ room: Room | null }>('POST', '/api/exchanges/look', body)).body.room
    }
    const room = await lookIn('Névé Hall', 'Serac')
    expect([room?.place, wayOf(room)]).toEqual(['Serac', ['Matteo Ruprechter: Serac to Cornice']])
    expect(await lookIn('Névé Hall', 'Serac', 'Cornice')).toBeNull()
    expect(await lookIn('Névé Hall')).toBeNull()
  })

  it('sends the whole meeting once there is room; where there is none, it stays with whoever asked until they put it aside', async () => {
    day = 26
    await reserve(tashi, 'Névé Hall', '10:00', 6)
    const room = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!room) throw new Error('no room')
    const people = [{ id: matteo.person.id, required: true }]
    const more = { title: 'Talk for teachers', people, agenda: [{ title: 'Welcome', minutes: 5 }] }
    const { body: first } = await ask(ilse, 'Névé Hall', '10:00', 40, room, more)
    expect((await asked(ilse)).map((one) => [one.ended, one.wish?.title])).toEqual([
      [false, 'Talk for teachers'],
    ])
    // Whoever is asked learns nothing of it but what it is for.
    expect((await asked(tashi)).map((one) => one.wish)).toEqual([null])
    await answer(tashi, first.exchangeId, false, 'We need the stage')
    expect(await asked(ilse)).toMatchObject([
      { ended: true, wish: { ...more, minutes: 60, places: [room.placeId] } },
    ])
    expect((await tashi.send('DELETE', `/api/exchanges/${first.exchangeId}`)).status).toBe(404)
    expect((await ilse.send('DELETE', `/api/exchanges/${first.exchangeId}`)).status).toBe(200)
    expect(await asked(ilse)).toEqual([])

    const { body: second } = await ask(ilse, 'Névé Hall', '10:00', 40, room, { ...more, conference: true })
    expect((await answer(tashi, second.exchangeId, true)).body.done).toBe(true)
    await marmot.quiet()
    const kept = await marmot.pool.query("select conference ->> 'room' as room from entry where title = $1", [
      more.title,
    ])
    expect(kept.rows).toEqual([{ room: expect.stringMatching(/^[\da-f-]{36}$/) }])
    const sent = marmot.mail.mailboxes
      .of(matteo.person.address)
      .filter((one) => one.subject.includes('Talk for teachers'))
    expect(sent).toHaveLength(1)
    expect((await ilse.send('DELETE', `/api/exchanges/${second.exchangeId}`)).status).toBe(404)
  })

  it('has nobody to ask where one’s own alone is in the way, and looks at a day at most', async () => {
    day = 24
    await reserve(ilse, 'Névé Hall', '10:00', 6)
    const room = await look(ilse, 'Névé Hall', '10:00', 40)
    if (!room) throw new Error('no room')
    expect(problemOf(await ask(ilse, 'Névé Hall', '10:00', 40, room)).code).toBe('own-only')
    const placeId = await marmot.placeId('Névé Hall')
    const long = { ...wishOf('10:00', 40), minutes: 3 * 1440, placeIds: [placeId] }
    const looked = await ilse.send<{ room: Room | null }>('POST', '/api/exchanges/look', long)
    expect(looked.body.room).toBeNull()
  })

  it('refuses a series, a time that is over, and somebody else’s name', async () => {
    const placeId = await marmot.placeId('Névé Hall')
    const wish = { ...aMeeting({ title: 'Talk', places: [placeId], starts: on('15:00') }) }
    const problem = async (more: object) =>
      problemOf(
        await ilse.send('POST', '/api/exchanges', {
          wish: { ...wish, ...more },
          placeIds: [placeId],
          moves: [],
        }),
      ).code
    expect(await problem({ series: { rule: 'FREQ=WEEKLY;COUNT=3' } })).toBe('one-date')
    expect(await problem({ starts: '2026-01-05T10:00' })).toBe('in-the-past')
    expect(await problem({ of: tashi.person.id })).toBe('not-found')
    expect(await problem({})).toBe('room-changed')
  })
})
