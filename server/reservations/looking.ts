import type { SeenDate } from '@marmot/contract/reservations'
import { type ReservationOnWire, reservableOf } from '@marmot/contract/resources'
import { type Holding, lookAtRun, type RunPlace, refusalInWords } from '@marmot/core/reservations'
import { DAY, instantText, toWall, wallText, zoneTable } from '@marmot/core/time'
import type { DateToMake } from '../entries/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import type { ThreadWork } from '../platform/threads.ts'
import { likeOnes } from '../resources/index.ts'
import { instantsOf } from './holding.ts'
import { readReservations } from './store.ts'

/** What is looked at; plain data, since many dates are looked at in a thread. */
export interface Looked {
  readonly dates: readonly DateToMake[]
  /** Whose reservations they would be, and who looks. */
  readonly ownerId: string
  readonly viewerId: string
  readonly zone: string
  /** For how many; 0 where nobody said. */
  readonly seats: number
  readonly now: number
}

/** More dates with a place than this are looked at in a thread: each takes up to half a millisecond. */
export const MOST_HERE = 50

/** How many times something is to be had of a place. */
export const timesOf = ({ dates }: Pick<Looked, 'dates'>): number =>
  dates.reduce((sum, date) => sum + date.placeIds.length, 0)

const byPlace = (reservations: readonly ReservationOnWire[]): Map<string, Holding[]> => {
  const found = new Map<string, Holding[]>()
  for (const one of reservations) {
    const list = found.get(one.resourceId)
    if (list) list.push(instantsOf(one))
    else found.set(one.resourceId, [instantsOf(one)])
  }
  return found
}

/**
 * Looks at dates with their places before anything is taken: what is in the way of each, in words as far as the viewer may
 * know, and what else there is then (`lookAtRun`). Throws when a place does not exist.
 */
export const lookAtDates = async (
  sql: Sql,
  { dates, ownerId, viewerId, zone, seats, now }: Looked,
): Promise<SeenDate[]> => {
  const wanted = [...new Set(dates.flatMap((date) => date.placeIds))]
  const resources = await likeOnes(sql, ownerId, now, wanted)
  if (wanted.some((id) => !resources.some((one) => one.id === id)))
    throw new ProblemError(422, 'no-such-place', 'One of the places does not exist any more.', {
      fields: [{ path: 'places', message: 'names a place that does not exist' }],
    })
  const ids = resources.map((one) => one.id)
  const around = dates.map(({ span }) => ({ start: span.start - DAY, end: span.end + DAY }))
  const [reserved] = await together([readReservations(sql, viewerId, around, now, ids)])
  const taken = byPlace(reserved)
  const places = resources.map(
    (one): RunPlace => ({ ...one, ...reservableOf(one), taken: taken.get(one.id) ?? [] }),
  )
  const named = new Map(places.map((place) => [place.id, place]))
  const table = zoneTable(zone)
  return lookAtRun(dates, places, { zone, seats, now }).map(
    ({ recurrence, span, placeIds, clashes, repairs }) => ({
      recurrence,
      start: instantText(span.start),
      end: instantText(span.end),
      places: [...placeIds],
      clashes: clashes.flatMap(({ placeId, refusal }) => {
        const place = named.get(placeId)
        if (!place) return []
        const words = refusal
          ? refusalInWords(refusal, place, span, zone)
          : 'is had by another of these dates then.'
        return [{ placeId, words: `${place.name} ${words}`, taken: refusal?.rule === 'place-taken' }]
      }),
      repairs: repairs.map((repair) => {
        const start = repair.kind === 'time' ? repair.start : span.start
        return {
          recurrence,
          starts: wallText(toWall(table, start)),
          start: instantText(start),
          places: repair.kind === 'place' ? [...repair.placeIds] : [...placeIds],
          lacks: repair.kind === 'place' ? [...repair.lacks] : [],
        }
      }),
    }),
  )
}

/** The same in a thread. */
export const lookInThread: ThreadWork<Looked, SeenDate[]> = (looked, { pool }) => lookAtDates(pool, looked)
