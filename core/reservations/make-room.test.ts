import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { HOUR } from '../time/index.ts'
import {
  holderDuring,
  MOST_MOVES,
  type Move,
  makeRoom,
  type PlaceRules,
  type RoomPlace,
  type Standing,
  suits,
  turnaroundOf,
} from './index.ts'

const ALWAYS = Array.from({ length: 7 }, (_, i) => ({ weekday: i + 1, from: 0, to: 1440 }))
const RULES: PlaceRules = {
  trainedOnly: false,
  teams: [],
  asksApproval: false,
  approvalHours: 48,
  hours: ALWAYS,
  before: 0,
  after: 0,
  shortest: null,
  longest: null,
  aheadDays: null,
  notice: null,
  atOnce: null,
}
const DAY = Date.UTC(2026, 11, 3)
const NOW = DAY - 10 * 24 * HOUR
const room = (id: string, seats: number, more: Partial<RoomPlace> = {}): RoomPlace => ({
  id,
  name: id,
  kind: 'room',
  site: 'Innsbruck',
  siteId: 'innsbruck',
  zone: 'UTC',
  seats,
  features: {},
  rules: RULES,
  mayNot: null,
  mine: 0,
  open: { zone: 'UTC', known: true, hours: ALWAYS, outside: 'closed', spans: [] },
  ...more,
})
const span = (from: number, to: number) => ({ start: DAY + from * HOUR, end: DAY + to * HOUR })
const has = (
  id: string,
  placeId: string,
  from: number,
  to: number,
  people: number,
  movable = true,
): Standing => ({
  id,
  placeId,
  people,
  movable,
  ...span(from, to),
})

describe('making room', () => {
  const hall = room('Névé Hall', 60)
  const [col, serac] = [room('Col', 12), room('Serac', 8)]

  it('moves a meeting of six out of the hall, into a room that fits it better', () => {
    const six = has('six', hall.id, 9, 10, 6)
    expect(makeRoom(span(9, 11), [hall.id], [hall, col, serac], [six], NOW)).toEqual({
      placeId: hall.id,
      moves: [{ reservationId: 'six', to: col.id }],
    })
  })

  it('moves two in a chain where the first has nowhere else to go, and never three', () => {
    const [ten, six] = [has('ten', hall.id, 9, 10, 10), has('six', col.id, 9, 10, 6)]
    expect(makeRoom(span(9, 10), [hall.id], [hall, col, serac], [ten, six], NOW)?.moves).toEqual([
      { reservationId: 'ten', to: col.id },
      { reservationId: 'six', to: serac.id },
    ])
    const five = has('five', serac.id, 9, 10, 5)
    expect(
      makeRoom(span(9, 10), [hall.id], [hall, col, serac, room('Tarn', 5)], [ten, six, five], NOW),
    ).toBeNull()
  })

  it('moves nobody to where they are served worse, or where their place lets nobody move them', () => {
    const camera = { ...hall, features: { camera: 1 } }
    expect(makeRoom(span(9, 10), [hall.id], [camera, col], [has('six', hall.id, 9, 10, 6)], NOW)).toBeNull()
    expect(
      makeRoom(span(9, 10), [hall.id], [hall, col], [has('six', hall.id, 9, 10, 6, false)], NOW),
    ).toBeNull()
    expect(makeRoom(span(9, 10), [col.id], [col, hall], [has('six', col.id, 9, 10, 6)], NOW)).toBeNull()
  })

  it('moves nobody to where they may not go; that whoever asks may not go there is nothing to them', () => {
    const six = has('six', hall.id, 9, 10, 6)
    const barred = { ...six, barred: new Set([col.id]) }
    expect(makeRoom(span(9, 10), [hall.id], [hall, col], [barred], NOW)).toBeNull()
    const trained = { ...col, mayNot: 'not-trained' as const }
    expect(makeRoom(span(9, 10), [hall.id], [hall, trained], [six], NOW)?.moves).toHaveLength(1)
    expect(makeRoom(span(9, 10), [col.id], [hall, trained], [], NOW)).toBeNull()
  })

  it('asks for nothing where a place is free, and takes the least that it has to', () => {
    const [six, other] = [has('six', hall.id, 9, 10, 6), has('other', col.id, 9, 10, 4)]
    expect(makeRoom(span(9, 10), [hall.id, serac.id], [hall, col, serac], [six, other], NOW)).toEqual({
      placeId: serac.id,
      moves: [],
    })
  })

  /** Every way to move at most so many, one after the other, in the plainest way. */
  const fewest = (
    wanted: { start: number; end: number },
    ids: readonly string[],
    places: readonly RoomPlace[],
    standing: readonly Standing[],
  ): number | null => {
    const placeOf = (id: string) => places.find((one) => one.id === id) ?? hall
    const stands = (all: readonly { placeId: string; start: number; end: number }[]) =>
      all.every((one, i) =>
        all.every(
          (other, k) =>
            k <= i ||
            one.placeId !== other.placeId ||
            holderDuring([one], other, turnaroundOf(placeOf(one.placeId).rules)) === null,
        ),
      )
    const works = (moves: readonly Move[]) =>
      ids.some((placeId) =>
        stands([
          { placeId, ...wanted },
          ...standing.map((one) => ({
            ...one,
            placeId: moves.find((move) => move.reservationId === one.id)?.to ?? one.placeId,
          })),
        ]),
      )
    const single = standing.flatMap((one) =>
      one.movable
        ? places
            .filter((to) => suits(one, placeOf(one.placeId), to))
            .map((to): Move => ({ reservationId: one.id, to: to.id }))
        : [],
    )
    if (works([])) return 0
    if (single.some((move) => works([move]))) return 1
    const pairs = single.some((one) =>
      single.some((other) => one.reservationId !== other.reservationId && works([one, other])),
    )
    return pairs ? MOST_MOVES : null
  }

  it('finds a way wherever trying all finds one, with as few moves, and none where there is none', () => {
    const seats = fc.constantFrom(4, 6, 8, 12)
    const places = fc.array(fc.tuple(seats, fc.constantFrom(0, 30)), { minLength: 2, maxLength: 4 })
    const taken = fc.array(
      fc.record({
        place: fc.nat(3),
        from: fc.integer({ min: 8, max: 13 }),
        length: fc.constantFrom(1, 2),
        people: fc.constantFrom(2, 4, 6, 8),
        movable: fc.integer({ min: 0, max: 4 }).map((n) => n > 0),
      }),
      { maxLength: 7 },
    )
    fc.assert(
      fc.property(
        places,
        taken,
        fc.integer({ min: 8, max: 13 }),
        fc.constantFrom(4, 6, 8),
        (sizes, given, from, needed) => {
          const all = sizes.map(([size, after], i) => room(`R${i}`, size, { rules: { ...RULES, after } }))
          const standing: Standing[] = []
          for (const [i, one] of given.entries()) {
            const place = all[one.place % all.length]
            if (!place || place.seats < one.people) continue
            const next = has(`s${i}`, place.id, one.from, one.from + one.length, one.people, one.movable)
            const free = standing.every(
              (other) =>
                other.placeId !== place.id || holderDuring([other], next, turnaroundOf(place.rules)) === null,
            )
            if (free) standing.push(next)
          }
          const wanted = all.filter((place) => place.seats >= needed).map((place) => place.id)
          const asked = span(from, from + 1)
          const found = makeRoom(asked, wanted, all, standing, NOW)
          expect(found?.moves.length ?? null).toBe(fewest(asked, wanted, all, standing))
        },
      ),
      { numRuns: runs(2000) },
    )
  })
})
