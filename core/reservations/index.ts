import { during, type LaneTime, type Span } from '../availability/index.ts'
import { MINUTE, zoneTable } from '../time/index.ts'

/** What of a resource decides whether it fits. `turnaround` in minutes, kept free after each reservation. */
export interface Place {
  readonly id: string
  readonly name: string
  readonly siteId: string
  readonly seats: number
  readonly turnaround: number
  /** False for places only trained people may take, when the asker is not one of them. */
  readonly mayTake: boolean
  readonly time: LaneTime
}

/** The span that a reservation keeps others out of: its own and the turnaround after it. */
export const blockedSpan = (reserved: Span, turnaround: number): Span => ({
  start: reserved.start,
  end: reserved.end + turnaround * MINUTE,
})

/** Whether a place can be had during a span, its own turnaround counted. */
export const isFree = (place: Place, chosen: Span): boolean => {
  const table = zoneTable(place.time.zone)
  const now = during(place.time, table, chosen)
  if (now.state !== 'free') return false
  return (
    during({ ...place.time, hours: ALWAYS }, table, blockedSpan(chosen, place.turnaround)).state === 'free'
  )
}

/** Turnaround may run past the closing hour: hours do not count for it. */
const ALWAYS = Array.from({ length: 7 }, (_, i) => ({ weekday: i + 1, from: 0, to: 1440 }))

/**
 * The places that are free and seat `seats` people, the tightest fit first, so that a pair does not take the hall.
 * Places of `siteId` come before those elsewhere.
 */
export const placesThatFit = (
  places: readonly Place[],
  chosen: Span,
  seats: (siteId: string) => number,
  siteId: string,
): Place[] =>
  places
    .filter(
      (place) => place.mayTake && place.seats >= Math.max(1, seats(place.siteId)) && isFree(place, chosen),
    )
    .sort(
      (a, b) =>
        Number(b.siteId === siteId) - Number(a.siteId === siteId) ||
        a.seats - b.seats ||
        a.name.localeCompare(b.name),
    )

/** "Col (12 seats), Moraine (8)": what is offered when the wanted place was taken. */
export const placesInWords = (places: readonly { name: string; seats: number }[]): string =>
  places
    .map((place, i) => (i === 0 ? `${place.name} (${place.seats} seats)` : `${place.name} (${place.seats})`))
    .join(', ')
