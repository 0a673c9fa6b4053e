import { DAY, HOUR, MINUTE } from '@marmot/core/time'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { aMeeting, type Client, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

/** How often it is raced; `MARMOT_RACES=2000` for a longer look. */
const RACES = Number(process.env.MARMOT_RACES ?? 12)
const MOVING = 32
const TAKING = 32
const MINUTES = 15
/** Beyond all that the demo has, on Mondays to Fridays; each race is for a quarter of an hour of its own. */
const FIRST = Date.parse('2027-05-03T08:00:00Z')
const A_DAY = 24
const SLOTS = Array.from({ length: RACES + MOVING }, (_, i) => {
  const day = Math.floor(i / A_DAY)
  return FIRST + Math.floor(day / 5) * 7 * DAY + (day % 5) * DAY + (i % A_DAY) * MINUTES * MINUTE
})

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let icefall: string
beforeAll(async () => {
  marmot = await startTestMarmot({ takeBackMs: 4 * HOUR })
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  icefall = await marmot.placeId('Icefall')
})
afterAll(() => marmot.stop())

const wall = (slot: number) => new Date(slot).toISOString().slice(0, 16)

const take = (who: Client, slot: number) =>
  who.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      title: 'Quicker',
      people: [{ id: (who === ilse ? tashi : ilse).person.id, required: true }],
      places: [icefall],
      starts: wall(slot),
      minutes: MINUTES,
      zone: 'UTC',
    }),
  )

/** What is reserved for some meetings: of each its place and when. */
const reserved = async (ids: readonly string[]) =>
  new Map(
    (
      await marmot.pool.query<{ id: string; start: Date }>(
        `select o.entry_id as id, lower(r.span) as start from reservation r join occurrence o on o.id = r.occurrence_id
          where o.entry_id = any($1) and r.resource_id = $2 and r.state = 'taken'`,
        [ids, icefall],
      )
    ).rows.map((row) => [row.id, row.start.getTime()]),
  )

it(
  `onto a room that somebody else takes in that moment: no room is had twice, none is lost, in ${RACES} races`,
  async () => {
    const movers: { id: string; version: number; at: number }[] = []
    for (const slot of SLOTS.slice(RACES)) {
      const made = await take(ilse, slot)
      expect([made.status, made.text]).toEqual([200, expect.anything()])
      movers.push({ id: made.body.entryId, version: 1, at: slot })
    }
    let [moved, taken] = [0, 0]
    for (const [round, slot] of SLOTS.slice(0, RACES).entries()) {
      const moving = () =>
        movers.map(async (mover) => ({
          mover,
          answer: await ilse.send<{ version: number }>('POST', `/api/meetings/${mover.id}/change`, {
            version: mover.version,
            starts: wall(slot),
          }),
        }))
      const takingIt = () =>
        Array.from({ length: TAKING }, async () => ({ mover: null, answer: await take(tashi, slot) }))
      // Whoever asks first has the better chance: by turns.
      const answers = await Promise.all(
        round % 2 ? [...moving(), ...takingIt()] : [...takingIt(), ...moving()],
      )
      const won = answers.filter(({ answer }) => answer.status === 200)
      expect(won).toHaveLength(1)
      expect(new Set(answers.map(({ answer }) => answer.status))).toEqual(new Set([200, 409]))
      const [first] = won
      if (first?.mover) {
        first.mover.at = slot
        first.mover.version += 1
        moved++
      } else taken++
      const has = await reserved(movers.map((mover) => mover.id))
      for (const mover of movers) expect(has.get(mover.id)).toBe(mover.at)
      const there = await marmot.pool.query(
        "select 1 from reservation where resource_id = $1 and state = 'taken' and span && tstzrange($2, $3)",
        [icefall, new Date(slot), new Date(slot + MINUTES * MINUTE)],
      )
      expect(there.rowCount).toBe(1)
    }
    expect(moved + taken).toBe(RACES)
  },
  60_000 + RACES * 4000,
)
