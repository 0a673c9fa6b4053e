import type { Room } from '@marmot/contract/exchanges'
import { type Resource, reservableOf } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import { makeRoom, type Room as Plan, type RoomPlace, type Standing, suits } from '@marmot/core/reservations'
import { DAY, instantText } from '@marmot/core/time'
import type { Sql } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
import type { ThreadWork } from '../platform/threads.ts'
import { readReservations, type StandingReservation, standingAt } from '../reservations/index.ts'
import { barredFrom, likeOnes } from '../resources/index.ts'

/** For what room is wanted: one of some places during a span, with seats for so many; `ownerId` would have it. */
export interface Wanted {
  readonly placeIds: readonly string[]
  readonly span: Span
  readonly seats: number
  readonly ownerId: string
  readonly now: number
}

/** Room that could be made, with the places and reservations that it speaks of. */
export interface FoundRoom extends Plan {
  readonly places: ReadonlyMap<string, Resource>
  readonly standing: ReadonlyMap<string, StandingReservation>
}

/** Those that would do as well as the wanted one, itself first, then the tightest. */
const wouldDo = (wanted: RoomPlace, places: readonly RoomPlace[], seats: number): RoomPlace[] => [
  wanted,
  ...places
    .filter((one) =>
      suits({ ...NOBODY, placeId: wanted.id, people: seats }, { ...wanted, seats: one.seats }, one),
    )
    .sort((a, b) => a.seats - b.seats || a.name.localeCompare(b.name)),
]
const NOBODY: Standing = { id: '', placeId: '', people: 0, movable: false, start: 0, end: 0 }

/** Room is made for as long at most: a longer time has too many in its way, and would hold up whoever else asks. */
const LONGEST = DAY

/** What one place after the other needs of its owner's side is asked of all places and people at once. */
const groundOf = async (sql: Sql, { placeIds, span, ownerId, now }: Wanted) => {
  const resources = (await likeOnes(sql, ownerId, now, placeIds)).filter((one) => one.mayNot !== 'retired')
  const around = { start: span.start - DAY, end: span.end + DAY }
  const ids = resources.map((one) => one.id)
  const standing = await standingAt(sql, ids, around, now)
  const restricted = resources.filter(({ rules }) => rules.trainedOnly || rules.teams.length > 0)
  const owners = [...new Set(standing.map((one) => one.ownerId))]
  const barred =
    restricted.length > 0 && owners.length > 0
      ? await barredFrom(
          sql,
          owners,
          restricted.map((one) => one.id),
          now,
        )
      : new Map<string, Set<string>>()
  return {
    resources,
    standing,
    judged: standing.map((one): Standing => {
      const whole = one.start >= around.start && one.end <= around.end
      const its = barred.get(one.ownerId)
      return {
        id: one.id,
        placeId: one.resourceId,
        start: one.start,
        end: one.end,
        people: one.headCount ?? one.people,
        // One that has begun stays where it is.
        movable: one.taken && whole && one.start > now,
        ...(its ? { barred: its } : {}),
      }
    }),
  }
}

/**
 * The room that could be made in one of the places; where only one is wanted, in one like it, too. Null where nothing has to be
 * moved, or nothing would do. In a thread, since thousands of ways may have to be tried. Throws where there is no such place.
 */
export const findRoom: ThreadWork<Wanted, FoundRoom | null> = async (wanted, { pool }) => {
  const { placeIds, span, seats, now } = wanted
  if (span.end - span.start > LONGEST) return null
  const { resources, standing, judged } = await groundOf(pool, wanted)
  const places = resources.map((one): RoomPlace => ({ ...one, ...reservableOf(one) }))
  const those = placeIds.flatMap((id) => places.find((one) => one.id === id) ?? [])
  const [first] = those
  if (!first) throw notFound('place')
  const all = those.length === 1 ? wouldDo(first, places, seats) : those
  const ids = all.map((one) => one.id)
  const inAny = makeRoom(span, ids, places, judged, now)
  const plan =
    inAny?.moves.length === 0 && those.length === 1 ? makeRoom(span, [first.id], places, judged, now) : inAny
  if (!plan || plan.moves.length === 0) return null
  return {
    ...plan,
    places: new Map(resources.map((one) => [one.id, one])),
    standing: new Map(standing.map((one) => [one.id, one])),
  }
}

/** Found room as it travels: who has what, as far as whoever asks may know. */
export const roomOnWire = async (sql: Sql, room: FoundRoom, viewerId: string, now: number): Promise<Room> => {
  const moved = room.moves.flatMap(({ reservationId, to }) => {
    const one = room.standing.get(reservationId)
    return one ? [{ one, to }] : []
  })
  const seen = await readReservations(
    sql,
    viewerId,
    moved.map(({ one }) => ({ start: one.start, end: one.end })),
    now,
    moved.map(({ one }) => one.resourceId),
  )
  const nameOf = (id: string) => room.places.get(id)?.name ?? ''
  return {
    placeId: room.placeId,
    place: nameOf(room.placeId),
    moves: moved.map(({ one, to }) => ({
      reservationId: one.id,
      by: seen.find((each) => each.id === one.id)?.by ?? 'somebody',
      mine: one.ownerId === viewerId,
      from: nameOf(one.resourceId),
      to: nameOf(to),
      toId: to,
      start: instantText(one.start),
      end: instantText(one.end),
    })),
  }
}
