import { type Span, workingSpans } from '../availability/index.ts'
import { DAY, dayOf, type Instant, instantOf, MINUTE, toWall, wallOf, zoneTable } from '../time/index.ts'
import { areUnitsOfOne } from './counted.ts'
import { holderDuring } from './place.ts'
import { type Holding, type Refusal, type Reservable, refusalOf, turnaroundOf } from './refusal.ts'

/** A place that may be had, or do in another's place, with what is reserved of it over the whole run, in order. */
export interface RunPlace extends Reservable {
  readonly kind: string
  readonly siteId: string
  readonly seats: number
  readonly features: Readonly<Record<string, number>>
  readonly taken: readonly Holding[]
}

/** One date of a run as it is wanted. */
export interface RunDate {
  readonly recurrence: string
  readonly span: Span
  readonly placeIds: readonly string[]
}

/** Another way for a date that clashes. Every date can be left out, besides. */
export type DateRepair =
  | {
      readonly kind: 'place'
      readonly placeIds: readonly string[]
      /** Features that what is taken instead has not. */
      readonly lacks: readonly string[]
    }
  | { readonly kind: 'time'; readonly start: Instant }

/** A date with what stands in its way, place by place, and what else there is. */
export interface SeenDate extends RunDate {
  readonly clashes: readonly {
    readonly placeId: string
    /** Null where another date of the same run has it then. */
    readonly refusal: Refusal | null
  }[]
  readonly repairs: readonly DateRepair[]
}

/** Other times are looked for on this grid. */
const STEP = 15 * MINUTE
/** What is had by another date of the run is nobody else's. */
const OWN = 'this run'

/** Whether a place may do for another: of its kind and site, another unit of the same thing, with as many seats as are needed. */
const mayDoFor = (wanted: RunPlace, other: RunPlace, seats: number): boolean =>
  other.id !== wanted.id &&
  other.kind === wanted.kind &&
  other.siteId === wanted.siteId &&
  (other.kind === 'equipment' ? areUnitsOfOne(other, wanted) : other.seats >= Math.min(seats, wanted.seats))

/** The features of a place of which another has not as many. */
const lacking = (wanted: RunPlace, other: RunPlace): string[] =>
  Object.keys(wanted.features).filter((name) => (other.features[name] ?? 0) < (wanted.features[name] ?? 0))

/** How far another place is from the wanted one: first by what it lacks, then in seats, which one does not want to waste. */
const unlike = (wanted: RunPlace, other: RunPlace): number =>
  lacking(wanted, other).length * 10_000 + Math.abs(other.seats - wanted.seats)

/** So many are offered; more are no help. */
const MOST_LIKES = 8

/** Other places that can be had in place of one during a span, what lacks least first, then what is nearest in seats. */
export const likes = (
  wanted: RunPlace,
  places: readonly RunPlace[],
  span: Span,
  { seats, now }: { readonly seats: number; readonly now: Instant },
): { readonly place: RunPlace; readonly lacks: readonly string[] }[] =>
  places
    .filter(
      (other) =>
        mayDoFor(wanted, other, seats) &&
        !other.rules.asksApproval &&
        refusalOf(other, other.taken, span, { now }) === null,
    )
    .sort((a, b) => unlike(wanted, a) - unlike(wanted, b) || a.name.localeCompare(b.name))
    .slice(0, MOST_LIKES)
    .map((place) => ({ place, lacks: lacking(wanted, place) }))

/**
 * Whether places are open at all during a span, read once for a whole run: reading a place's hours anew at each of hundreds of
 * starts took a tenth of a millisecond each.
 */
const openings = (from: Instant, to: Instant) => {
  const known = new Map<string, readonly Span[]>()
  return ({ id, open, zone }: RunPlace, span: Span): boolean => {
    const spans = known.get(id) ?? workingSpans(open.hours, zoneTable(zone), from - DAY, to + 2 * DAY)
    known.set(id, spans)
    let [low, high] = [0, spans.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((spans[middle]?.end ?? 0) < span.end) low = middle + 1
      else high = middle
    }
    const covering = spans[low]
    return covering !== undefined && covering.start <= span.start
  }
}

/**
 * A run of dates with its places, looked at before it is taken: each date that clashes with who or what is in the way, and
 * up to two repairs: other places like those that are taken, and another time that day (by the clock of `zone`) at which all
 * of them can be had, after `now`. `places` are those that are wanted and all that might do for them; `seats` is for how many
 * they are, 0 where nobody said.
 */
export const lookAtRun = (
  dates: readonly RunDate[],
  places: readonly RunPlace[],
  { zone, seats, now }: { readonly zone: string; readonly seats: number; readonly now: Instant },
): SeenDate[] => {
  const byId = new Map(places.map((place) => [place.id, place]))
  const isOpen = openings(
    dates.reduce((least, date) => Math.min(least, date.span.start), Number.POSITIVE_INFINITY),
    dates.reduce((most, date) => Math.max(most, date.span.end), Number.NEGATIVE_INFINITY),
  )
  const table = zoneTable(zone)
  /** Of each place, what the dates that were looked at so far have of it. */
  const had = new Map<string, Holding[]>()
  const clashOf = (place: RunPlace, span: Span): Refusal | null | 'own' => {
    const own = [...(had.get(place.id) ?? [])].sort((a, b) => a.start - b.start)
    const refusal = refusalOf(place, place.taken, span, { now, had: own.length })
    if (refusal) return refusal
    return holderDuring(own, span, turnaroundOf(place.rules)) ? 'own' : null
  }
  const instead = (date: RunDate, clashing: ReadonlySet<string>) => {
    const chosen: string[] = []
    const lacks: string[] = []
    for (const id of date.placeIds) {
      const wanted = byId.get(id)
      if (!wanted || !clashing.has(id)) {
        chosen.push(id)
        continue
      }
      const [best] = places
        .filter(
          (other) =>
            mayDoFor(wanted, other, seats) &&
            !date.placeIds.includes(other.id) &&
            !chosen.includes(other.id) &&
            isOpen(other, date.span) &&
            clashOf(other, date.span) === null,
        )
        .sort((a, b) => unlike(wanted, a) - unlike(wanted, b) || a.name.localeCompare(b.name))
      if (!best) return null
      chosen.push(best.id)
      lacks.push(...lacking(wanted, best))
    }
    return { placeIds: chosen, lacks: [...new Set(lacks)] }
  }
  const otherTime = (date: RunDate, wanted: readonly RunPlace[]): Instant | null => {
    const length = date.span.end - date.span.start
    const day = dayOf(toWall(table, date.span.start))
    const [first, last] = [instantOf(table, wallOf(day)), instantOf(table, wallOf(day + 1))]
    // The nearest first, the earlier of two that are as near.
    for (let by = STEP; by < DAY; by += STEP)
      for (const start of [date.span.start - by, date.span.start + by]) {
        if (start < Math.max(first, now) || start + length > last) continue
        const span = { start, end: start + length }
        if (wanted.every((place) => isOpen(place, span) && clashOf(place, span) === null)) return start
      }
    return null
  }
  return dates.map((date) => {
    const wanted = date.placeIds.flatMap((id) => byId.get(id) ?? [])
    const clashes = wanted.flatMap((place) => {
      const clash = clashOf(place, date.span)
      return clash === null ? [] : [{ placeId: place.id, refusal: clash === 'own' ? null : clash }]
    })
    if (clashes.length === 0) {
      for (const { id } of wanted) had.set(id, [...(had.get(id) ?? []), { ...date.span, by: OWN }])
      return { ...date, clashes, repairs: [] }
    }
    const others = instead(date, new Set(clashes.map((one) => one.placeId)))
    const time = otherTime(date, wanted)
    const repairs: DateRepair[] = [
      ...(others ? [{ kind: 'place' as const, ...others }] : []),
      ...(time === null ? [] : [{ kind: 'time' as const, start: time }]),
    ]
    return { ...date, clashes, repairs }
  })
}
