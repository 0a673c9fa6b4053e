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

/** Whom whoever looks after a place can ask about a reservation. */
export interface AskWhom {
  readonly name: string
  readonly address: string
  readonly telephone: string
}

/** The span that a reservation keeps others out of: its own and the turnaround after it. */
export const blockedSpan = (reserved: Span, turnaround: number): Span => ({
  start: reserved.start,
  end: reserved.end + turnaround * MINUTE,
})

/**
 * The reservation that keeps a place from being had during a span, or null. `reservations` are those of the place, in
 * order; none reaches into another, turnaround counted, which is what makes halving right.
 */
export const holderDuring = <Reserved extends Span>(
  reservations: readonly Reserved[],
  chosen: Span,
  turnaround: number,
): Reserved | null => {
  const blocked = blockedSpan(chosen, turnaround)
  let [low, high] = [0, reservations.length]
  while (low < high) {
    const middle = (low + high) >> 1
    const reserved = reservations[middle]
    if (reserved && blockedSpan(reserved, turnaround).end <= blocked.start) low = middle + 1
    else high = middle
  }
  const first = reservations[low]
  return first && first.start < blocked.end ? first : null
}

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
      (place) =>
        place.mayTake &&
        // A camera has no seats: nobody sits on what is not a place.
        (place.seats === 0 || place.seats >= seats(place.siteId)) &&
        isFree(place, chosen),
    )
    .sort(
      (a, b) =>
        Number(b.siteId === siteId) - Number(a.siteId === siteId) ||
        a.seats - b.seats ||
        a.name.localeCompare(b.name),
    )

/** "Col (12 seats), Moraine (8)", "Camera 2": what is offered when the wanted one was taken. */
export const placesInWords = (places: readonly { name: string; seats: number }[]): string =>
  places
    .map(({ name, seats }, i) =>
      seats === 0 ? name : i === 0 ? `${name} (${seats} seats)` : `${name} (${seats})`,
    )
    .join(', ')

/**
 * Where something is, in words: "Serac, Innsbruck; by the ropeway". The places that are reserved come first; what else
 * was said of where it is follows, without what is among them already.
 */
export const whereInWords = (
  places: readonly { readonly name: string; readonly site: string }[],
  said: string,
): string => {
  const reserved = places.map(({ name, site }) => `${name}, ${site}`)
  const known = new Set([...reserved, ...places.map((place) => place.name)])
  const others = said.split(';').filter((part) => part.trim() !== '' && !known.has(part.trim()))
  return [...reserved, ...others.map((part) => part.trim())].join('; ')
}

/** A place as it is reserved for a date, or is to be. */
export interface PlaceOnDate extends Span {
  readonly resourceId: string
  /** The date, by its name for good. */
  readonly occurrenceId: string
}

/** What becomes of reservations when their dates or places change: each that goes on keeps its own id. */
export interface Exchange<R extends PlaceOnDate, W extends PlaceOnDate> {
  readonly released: readonly R[]
  readonly moved: readonly { readonly reservation: R; readonly to: Span }[]
  readonly taken: readonly W[]
}

/** What has to be done so that exactly the wanted places are reserved: what stays as it is is in none of the lists. */
export const exchangeOf = <R extends PlaceOnDate, W extends PlaceOnDate>(
  reserved: readonly R[],
  wanted: readonly W[],
): Exchange<R, W> => {
  const keyOf = ({ resourceId, occurrenceId }: PlaceOnDate) => `${resourceId} ${occurrenceId}`
  const left = new Map(reserved.map((one) => [keyOf(one), one]))
  const moved: { reservation: R; to: Span }[] = []
  const taken: W[] = []
  for (const one of wanted) {
    const before = left.get(keyOf(one))
    left.delete(keyOf(one))
    if (!before) taken.push(one)
    else if (before.start !== one.start || before.end !== one.end)
      moved.push({ reservation: before, to: { start: one.start, end: one.end } })
  }
  return { released: [...left.values()], moved, taken }
}

/**
 * Where the dates of a series are: where most of them are, the first of those that are as many; and, by the name of the
 * date, those that are elsewhere.
 */
export const whereAreThey = <Name>(
  where: ReadonlyMap<Name, string>,
): { readonly usual: string | null; readonly otherwise: ReadonlyMap<Name, string> } => {
  const counts = new Map<string, number>()
  for (const words of where.values()) counts.set(words, (counts.get(words) ?? 0) + 1)
  const most = Math.max(...counts.values())
  const usual = [...counts].find(([, count]) => count === most)?.[0] ?? null
  return { usual, otherwise: new Map([...where].filter(([, words]) => words !== usual)) }
}

/** A feature with how many there are of it, in words, however its name was typed: "camera", "2 cameras", "step-free access". */
export const featureInWords = (name: string, count: number): string => {
  const one = name.replace(/([^s])s$/, '$1')
  return count === 1 ? one : `${count} ${one}${/(?:s|x|z|ch|sh)$/.test(one) ? 'es' : 's'}`
}
