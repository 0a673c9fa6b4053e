import { type During, during, type Span } from '../availability/index.ts'
import { DAY, type Day, dayOf, HOUR, type Instant, toWall, zoneTable } from '../time/index.ts'
import type { Asked } from './brief.ts'
import type { Band, Opening } from './search.ts'

export * from './brief.ts'
export * from './help.ts'
export { type Assignment, headcount, mayBeNeeded, placesAt, type Slot, slotsOf } from './places.ts'
export { costOf, type Parts, type Share, stretchedBy } from './score.ts'
export {
  type Band,
  type Found,
  fitOf,
  minutesOf,
  type Opening,
  openingsOf,
  rankOpenings,
  searchOpenings,
  startsThatFit,
} from './search.ts'
export * from './series.ts'
export * from './steps.ts'
export { type Blocker, type Hindrance, type Judged, judge, type WhyNot, whyNotIn } from './why-not.ts'

/** The nearest opening after (`way` 1) or before (-1) a start, or null. */
export const nextOpening = (openings: readonly Opening[], start: Instant, way: 1 | -1): Opening | null => {
  const ahead = openings.filter((opening) => (way === 1 ? opening.start > start : opening.start < start))
  return ahead.reduce<Opening | null>(
    (near, opening) => (near === null || (opening.start - near.start) * way < 0 ? opening : near),
    null,
  )
}

/** The best opening of the next (or previous) day that has one, in a zone, or null. */
export const nextDayWithOpening = (
  openings: readonly Opening[],
  zone: string,
  start: Instant,
  way: 1 | -1,
): Opening | null => {
  const table = zoneTable(zone)
  const day = (at: Instant): Day => dayOf(toWall(table, at))
  const ahead = openings.filter((opening) => (day(opening.start) - day(start)) * way > 0)
  const near = ahead.reduce(
    (least, opening) => Math.min(least, Math.abs(day(opening.start) - day(start))),
    Number.POSITIVE_INFINITY,
  )
  // Openings come best first, so the first of that day is its best.
  return ahead.find((opening) => Math.abs(day(opening.start) - day(start)) === near) ?? null
}

/** How each asked person stands at a chosen time, in the order asked. */
export const reasonsFor = (
  people: readonly Asked[],
  chosen: Span,
): { id: string; required: boolean; how: During }[] =>
  people.map((person) => ({
    id: person.id,
    required: person.required,
    how: during(person.time, zoneTable(person.time.zone), chosen),
  }))

/** The openings of one day: what one card shows, with its alternatives. */
export interface DayOfOpenings {
  readonly best: Opening
  readonly others: readonly Opening[]
}

/** One card for each day in a zone, the day with the best opening first, at most `most`. */
export const openingsByDay = (openings: readonly Opening[], zone: string, most: number): DayOfOpenings[] => {
  const table = zoneTable(zone)
  const days = new Map<Day, { best: Opening; others: Opening[] }>()
  for (const opening of openings) {
    const day = dayOf(toWall(table, opening.start))
    const card = days.get(day)
    if (card) card.others.push(opening)
    else if (days.size < most) days.set(day, { best: opening, others: [] })
  }
  return [...days.values()]
}

const FULL_DAY = 8 * HOUR

/** For each day from `firstDay`, the share of its hours (0 to 1, of eight) that openings cover: the ribbon's fill. */
export const ribbonFill = (
  bands: readonly Pick<Band, 'start' | 'end'>[],
  zone: string,
  firstDay: Day,
  days: number,
): Float32Array => {
  const table = zoneTable(zone)
  const fill = new Float32Array(days)
  for (const band of bands) {
    let at = toWall(table, band.start)
    const end = toWall(table, band.end)
    while (at < end) {
      const day = dayOf(at)
      const until = Math.min(end, (day + 1) * DAY)
      const index = day - firstDay
      if (index >= 0 && index < days) fill[index] = (fill[index] ?? 0) + (until - at) / FULL_DAY
      at = until
    }
  }
  return fill.map((part) => Math.min(1, part))
}
