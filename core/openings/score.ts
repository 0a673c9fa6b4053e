import {
  type LaneTime,
  MOST_STRETCH,
  minutesIn,
  NEAR,
  type Span,
  workingDays,
} from '../availability/index.ts'
import { DAY, dayOf, type Instant, MINUTE, toWall, zoneTable } from '../time/index.ts'
import { type Expected, expectedIn, horizonOf, weatherCost } from '../weather/index.ts'
import type { Asked, Outdoors, Rules, SearchBrief } from './brief.ts'
import type { Pattern } from './patterns.ts'
import type { Assignment } from './places.ts'

/** Minutes that an opening costs one person. */
export interface Share {
  readonly id: string
  readonly minutes: number
}

/** Why an opening is as good as it is: each part in minutes or people, never one bare number. */
export interface Parts {
  /** Optional people, and members of groups, who are not free. */
  readonly missing: readonly string[]
  /** Tentative or held time that is used. */
  readonly tentative: readonly Share[]
  /** How far it lies outside the working hours of those who are required. */
  readonly stretch: readonly Share[]
  readonly lunch: readonly Share[]
  /** Minutes that are lacking to a quarter of an hour of air before and after. */
  readonly squeezed: readonly Share[]
  /** Minutes of pieces too short to be used, left over in people's days. */
  readonly scraps: number
  /** Whole days from the beginning of the window. */
  readonly days: number
  /**
   * Minutes by which the person who bears most, past meetings counted, would stand above the average of those asked;
   * `spared` are those who bore most lately and bear nothing now.
   */
  readonly fairness: number
  readonly spared: readonly string[]
  readonly places: Assignment | null
  /**
   * Of a time out of doors what is expected then, null where no forecast reaches it; until when one does, null where there is none;
   * and what that costs.
   */
  readonly weather: {
    readonly expected: Expected | null
    readonly until: Instant | null
    readonly cost: number
  } | null
}

/** What each part costs, in minutes of trouble. The order of the cards comes from their sum; nobody is shown it. */
const MISSING = 240
const SQUEEZED = 0.5
const SCRAPS = 0.25
const LUNCH = 1.5
const DAY_LATER = 4
/** Weighs more than the stretch itself, so that whoever bore most is spared even where another has to bear somewhat more. */
export const FAIRNESS = 3
/** An hour outside is a nuisance, four are a night: the cost grows with the square. */
export const stretchCost = (minutes: number): number => minutes + (minutes * minutes) / 60

const AIR = 15
/** A piece of free time shorter than this is of no use to anybody. */
const SCRAP = 30
/** Somebody is said to be spared when they bore at least this many minutes lately. */
const BORE = 60

export const costOf = (parts: Parts): number => {
  const sum = (shares: readonly Share[], of: (minutes: number) => number) =>
    shares.reduce((total, share) => total + of(share.minutes), 0)
  return (
    parts.missing.length * MISSING +
    sum(parts.tentative, (minutes) => minutes) +
    sum(parts.stretch, stretchCost) +
    sum(parts.lunch, (minutes) => minutes * LUNCH) +
    sum(parts.squeezed, (minutes) => minutes * SQUEEZED) +
    parts.scraps * SCRAPS +
    parts.days * DAY_LATER +
    parts.fairness * FAIRNESS +
    (parts.places?.cost ?? 0) +
    (parts.weather?.cost ?? 0)
  )
}

/** The index of the first span that ends after an instant, by bisection; spans sorted and apart. */
const firstEndingAfter = (spans: readonly Span[], at: Instant): number => {
  let low = 0
  let high = spans.length
  while (low < high) {
    const middle = (low + high) >> 1
    if ((spans[middle]?.end ?? 0) > at) high = middle
    else low = middle + 1
  }
  return low
}

/** `stretchOf` by bisection: the nearest working day is one of the two around the time, so three are looked at. */
export const stretchIn = (pattern: Pick<Pattern, 'days'>, start: Instant, end: Instant): number => {
  const { spans } = pattern.days
  const near = firstEndingAfter(spans, start)
  let least = MOST_STRETCH * MINUTE
  for (let i = Math.max(0, near - 1); i <= near + 1 && i < spans.length; i++) {
    const day = spans[i]
    if (day) least = Math.min(least, Math.max(0, day.start - start) + Math.max(0, end - day.end))
  }
  return Math.round(least / MINUTE)
}

/** Minutes that meetings stretched somebody, in all. */
export const stretchedBy = (time: Pick<LaneTime, 'zone' | 'hours'>, meetings: readonly Span[]): number => {
  const first = meetings.reduce((least, span) => Math.min(least, span.start), Number.POSITIVE_INFINITY)
  const last = meetings.reduce((most, span) => Math.max(most, span.end), 0)
  if (meetings.length === 0 || time.hours.length === 0) return 0
  const days = workingDays(time.hours, zoneTable(time.zone), first - NEAR, last + NEAR)
  return meetings.reduce((sum, span) => sum + stretchIn({ days }, span.start, span.end), 0)
}

const lunchIn = (pattern: Pick<Pattern, 'days'>, chosen: Span): number => {
  const { breaks } = pattern.days
  const near = firstEndingAfter(breaks, chosen.start)
  return minutesIn(breaks.slice(near, near + 3), chosen)
}

interface Neighbours {
  /** Free minutes before and after, to the nearest entry or edge of the working day; null where neither is near. */
  readonly before: number | null
  readonly after: number | null
  /** The same to the nearest entry alone. */
  readonly airBefore: number | null
  readonly airAfter: number | null
}

const neighbours = (person: Asked, day: Span | undefined, chosen: Span): Neighbours => {
  let last = Number.NEGATIVE_INFINITY
  let next = Number.POSITIVE_INFINITY
  for (const span of person.time.spans) {
    if (span.state === 'listed') continue
    if (span.end <= chosen.start && span.end > last) last = span.end
    if (span.start >= chosen.end && span.start < next) next = span.start
  }
  const minutes = (ms: number): number | null => (Number.isFinite(ms) ? Math.round(ms / MINUTE) : null)
  const dayStart = day && day.start <= chosen.start ? day.start : Number.NEGATIVE_INFINITY
  const dayEnd = day && day.end >= chosen.end ? day.end : Number.POSITIVE_INFINITY
  return {
    before: minutes(chosen.start - Math.max(last, dayStart)),
    after: minutes(Math.min(next, dayEnd) - chosen.end),
    airBefore: minutes(chosen.start - last),
    airAfter: minutes(next - chosen.end),
  }
}

const lackingAir = (free: number | null): number => (free === null ? 0 : Math.max(0, AIR - free))
const scrapOf = (free: number | null): number => (free !== null && free > 0 && free < SCRAP ? free : 0)

/** How evenly the bad hours are shared when this opening is taken: see `Parts.fairness`. */
export const fairnessOf = (
  ids: readonly string[],
  stretch: readonly Share[],
  past: Readonly<Record<string, number>>,
): Pick<Parts, 'fairness' | 'spared'> => {
  const now = new Map(stretch.map((share) => [share.id, share.minutes]))
  const after = ids.map((id) => (past[id] ?? 0) + (now.get(id) ?? 0))
  const most = Math.max(0, ...after)
  const mean = after.reduce((sum, each) => sum + each, 0) / Math.max(1, after.length)
  const bore = Math.max(0, ...ids.map((id) => past[id] ?? 0))
  return {
    fairness: Math.round(most - mean),
    spared:
      bore >= BORE && stretch.length > 0 ? ids.filter((id) => (past[id] ?? 0) === bore && !now.has(id)) : [],
  }
}

/** Whether somebody can come at a time, rules and all; see `PersonRow.blocked`. */
export interface Standing {
  readonly asked: Asked
  readonly pattern: Pick<Pattern, 'days'>
  readonly blocked: boolean
}

const shares = (people: readonly Standing[], minutesOf: (person: Standing) => number): Share[] =>
  people.flatMap((person) => {
    const minutes = minutesOf(person)
    return minutes > 0 ? [{ id: person.asked.id, minutes }] : []
  })

/** The minutes of tentative or held time that a person has in a time. */
const softMinutes = (person: Asked, chosen: Span): number =>
  minutesIn(
    person.time.spans.filter((span) => span.state === 'tentative' || span.state === 'held'),
    chosen,
  )

/** What is expected at a time out of doors, and what it costs. */
export const weatherAt = ({ forecast, avoid }: Outdoors, chosen: Span): NonNullable<Parts['weather']> => {
  const expected = forecast && expectedIn(forecast, chosen)
  return { expected, until: forecast && horizonOf(forecast), cost: weatherCost(expected, avoid) }
}

/** The parts of one opening. Only those who can come bear anything; people whose time is unknown bear nothing known. */
export const partsOf = (
  brief: Pick<SearchBrief, 'zone' | 'from' | 'past' | 'outdoors'> & {
    readonly rules: Pick<Rules, 'tentative'>
  },
  people: readonly Standing[],
  chosen: Span,
  places: Assignment | null,
): Parts => {
  const known = people.filter((person) => person.asked.time.known)
  const coming = known.filter((person) => !person.blocked)
  const bearing = coming.filter((person) => person.asked.required || person.asked.group)
  const stretch = shares(bearing, (person) => stretchIn(person.pattern, chosen.start, chosen.end))
  const around = bearing.map((person) => {
    const { spans } = person.pattern.days
    return { person, near: neighbours(person.asked, spans[firstEndingAfter(spans, chosen.start)], chosen) }
  })
  const table = zoneTable(brief.zone)
  return {
    missing: known
      .filter((person) => person.blocked && (!person.asked.required || person.asked.group))
      .map((person) => person.asked.id),
    tentative: brief.rules.tentative ? shares(bearing, (person) => softMinutes(person.asked, chosen)) : [],
    stretch,
    lunch: shares(bearing, (person) => lunchIn(person.pattern, chosen)),
    squeezed: around.flatMap(({ person, near }) => {
      const minutes = lackingAir(near.airBefore) + lackingAir(near.airAfter)
      return minutes > 0 ? [{ id: person.asked.id, minutes }] : []
    }),
    scraps: around.reduce((sum, { near }) => sum + scrapOf(near.before) + scrapOf(near.after), 0),
    days: Math.max(0, dayOf(toWall(table, chosen.start)) - Math.floor(toWall(table, brief.from) / DAY)),
    ...fairnessOf(
      bearing.map((person) => person.asked.id),
      stretch,
      brief.past ?? {},
    ),
    places,
    weather: brief.outdoors ? weatherAt(brief.outdoors, chosen) : null,
  }
}
