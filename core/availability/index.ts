import type { SpanState } from '../sharing/index.ts'
import {
  clockText,
  DAY,
  type Day,
  dayOf,
  type Instant,
  lengthInWords,
  MINUTE,
  minuteOf,
  shortDay,
  wallOf,
  weekdayOf,
} from '../time/index.ts'
import { instantOf, offsetAt, toWall, type ZoneTable } from '../time/zones.ts'

/** A half-open span of time `[start, end)`, in milliseconds. */
export interface Span {
  readonly start: Instant
  readonly end: Instant
}

/** Working hours of one weekday (1 is Monday), in minutes since its midnight; `to` may pass 1440 for a night shift. */
export interface WorkingHours {
  readonly weekday: number
  readonly from: number
  readonly to: number
}

/** The weekday on which working hours overlap or end before they begin; null when they are fine. */
export const hoursTrouble = (hours: readonly WorkingHours[]): number | null => {
  const sorted = [...hours].sort((a, b) => a.weekday - b.weekday || a.from - b.from)
  const wrong = sorted.find((part, i) => {
    const next = sorted[i + 1]
    return part.to <= part.from || (next?.weekday === part.weekday && next.from < part.to)
  })
  return wrong?.weekday ?? null
}

export interface BusySpan extends Span {
  readonly state: SpanState
  readonly title?: string
  readonly entryId?: string
  /** Whether it is nothing but a reservation of places. */
  readonly reserved?: boolean
  /** Whether it is only kept free before or after a meeting: taken, but nothing that others have to keep their distance from. */
  readonly gap?: boolean
  /** Whether it is a day off of the whole site: a public holiday, or one on which it is closed. */
  readonly dayOff?: boolean
}

export interface ClosedSpan extends Span {
  readonly reason: string
}

/** One lane's time: a person's or a place's. `known` is false for somebody who shares nothing: never free. */
export interface LaneTime {
  readonly zone: string
  readonly known: boolean
  readonly hours: readonly WorkingHours[]
  readonly spans: readonly BusySpan[]
  /** Times of which nothing is known, though the rest is: never free. */
  readonly unknown?: readonly Span[]
  /** Times when there is no lane at all: a place in repair. */
  readonly closed?: readonly ClosedSpan[]
  /** Places are closed outside their hours; people can stretch theirs. */
  readonly outside: 'outside' | 'closed'
}

/** Sorts spans and joins those that touch or overlap. */
export const mergeSpans = (spans: readonly Span[]): Span[] => {
  const inOrder = spans.every((span, i) => i === 0 || (spans[i - 1]?.start ?? 0) <= span.start)
  const sorted = inOrder ? spans : [...spans].sort((a, b) => a.start - b.start)
  const merged: { start: Instant; end: Instant }[] = []
  for (const span of sorted) {
    const last = merged[merged.length - 1]
    if (last && span.start <= last.end) last.end = Math.max(last.end, span.end)
    else if (span.end > span.start) merged.push({ start: span.start, end: span.end })
  }
  return merged
}

/** Working hours as instants inside `[from, to)`, merged; each edge is read by the zone's own rules of that day. */
export const workingSpans = (
  hours: readonly WorkingHours[],
  table: ZoneTable,
  from: Instant,
  to: Instant,
): Span[] => {
  const spans: Span[] = []
  const first = dayOf(toWall(table, from)) - 2
  const last = dayOf(toWall(table, to))
  const byWeekday: WorkingHours[][] = [[], [], [], [], [], [], [], []]
  for (const part of [...hours].sort((a, b) => a.from - b.from)) byWeekday[part.weekday]?.push(part)
  for (let day: Day = first; day <= last; day++) {
    const parts = byWeekday[weekdayOf(day)] ?? []
    if (parts.length === 0) continue
    const midnight = wallOf(day)
    // Where no clock changes around a day, all its hours have one offset: most days are such.
    const offset = offsetAt(table, midnight - DAY)
    const steady = offsetAt(table, midnight + 3 * DAY) === offset
    for (const part of parts) {
      const [opens, closes] = [midnight + part.from * MINUTE, midnight + part.to * MINUTE]
      const start = Math.max(from, steady ? opens - offset : instantOf(table, opens))
      const end = Math.min(to, steady ? closes - offset : instantOf(table, closes))
      if (end > start) spans.push({ start, end })
    }
  }
  return mergeSpans(spans)
}

export type GroundState = 'open' | 'outside' | 'unknown' | 'closed'

export interface Ground extends Span {
  readonly state: GroundState
  readonly reason?: string
}

/** What lies under a lane's blocks: every moment of `[from, to)` once, in order. */
export const groundOf = (time: LaneTime, table: ZoneTable, from: Instant, to: Instant): Ground[] => {
  if (!time.known) return [{ start: from, end: to, state: 'unknown' }]
  const open = workingSpans(time.hours, table, from, to)
  const ground: Ground[] = []
  const cover = (start: Instant, end: Instant, state: GroundState) => {
    if (end > start) ground.push({ start, end, state, ...(state === 'closed' ? { reason: 'closed' } : {}) })
  }
  let at = from
  for (const span of open) {
    cover(at, span.start, time.outside)
    cover(span.start, span.end, 'open')
    at = span.end
  }
  cover(at, to, time.outside)
  const over: Ground[] = [
    ...(time.unknown ?? []).map((span) => ({ ...span, state: 'unknown' as const })),
    ...(time.closed ?? []).map((shut) => ({ ...shut, state: 'closed' as const })),
  ]
  return over.reduce((parts, part) => laidOver(parts, part, from, to), ground)
}

const laidOver = (ground: Ground[], over: Ground, from: Instant, to: Instant): Ground[] => {
  const start = Math.max(from, over.start)
  const end = Math.min(to, over.end)
  if (end <= start) return ground
  const kept = ground.flatMap((part): Ground[] => {
    const before = { ...part, end: Math.min(part.end, start) }
    const after = { ...part, start: Math.max(part.start, end) }
    return [before, after].filter((piece) => piece.end > piece.start)
  })
  return [...kept, { ...over, start, end }].sort((a, b) => a.start - b.start)
}

const overlap = (a: Span, b: Span): number => Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start))

/** A pause between two parts of one day's hours, up to this many minutes, is a break: lunch, not the end of the day. */
export const LONGEST_BREAK = 120

/** Working days with their breaks filled, and the breaks; both sorted, as instants. */
export interface WorkingDays {
  readonly spans: readonly Span[]
  readonly breaks: readonly Span[]
}

/** Working hours as days with breaks in `[from, to)`: what stretch and lunch are measured by. */
export const workingDays = (
  hours: readonly WorkingHours[],
  table: ZoneTable,
  from: Instant,
  to: Instant,
): WorkingDays => {
  const sorted = [...hours].sort((a, b) => a.weekday - b.weekday || a.from - b.from)
  const pauses = sorted.flatMap((part, i): WorkingHours[] => {
    const next = sorted[i + 1]
    const short =
      next?.weekday === part.weekday && next.from > part.to && next.from - part.to <= LONGEST_BREAK
    return short ? [{ weekday: part.weekday, from: part.to, to: next.from }] : []
  })
  return {
    spans: workingSpans([...hours, ...pauses], table, from, to),
    breaks: pauses.length ? workingSpans(pauses, table, from, to) : [],
  }
}

/**
 * How far, in minutes, `[start, end)` sticks out of the nearest working day (spans sorted, breaks filled): before its
 * beginning and past its end. Half an hour at 05:30 for somebody who starts at 09:30 is 240, not 30. Infinity when
 * there are no spans.
 */
export const stretchOf = (days: readonly Span[], chosen: Span): number => {
  let least = Number.POSITIVE_INFINITY
  for (const day of days)
    least = Math.min(least, Math.max(0, day.start - chosen.start) + Math.max(0, chosen.end - day.end))
  return Math.round(least / MINUTE)
}

/** How many minutes of sorted spans lie in `[start, end)`. */
export const minutesIn = (spans: readonly Span[], chosen: Span): number =>
  Math.round(spans.reduce((sum, span) => sum + overlap(span, chosen), 0) / MINUTE)

/** How a lane stands during a chosen time. */
export interface During {
  /** `free` inside hours, `stretch` free but partly outside them or in a break, else what blocks. */
  readonly state: 'free' | 'stretch' | 'busy' | 'tentative' | 'held' | 'away' | 'unknown' | 'closed'
  /** Minutes by which the chosen time lies outside working hours: see `stretchOf`. */
  readonly stretch: number
  /** Minutes of their break that it takes. */
  readonly lunch: number
  /** The first span in the way, or the closure. */
  readonly blocker: (Span & { title?: string; reason?: string }) | null
}

/** Working hours are looked for this far around a time; beyond it everything is equally far outside. */
export const NEAR = 4 * DAY
export const MOST_STRETCH = NEAR / MINUTE

const BLOCKING: readonly SpanState[] = ['away', 'busy', 'held', 'tentative']

/** How a lane stands during `[start, end)`. What blocks most is told: away before busy before held before tentative. */
export const during = (time: LaneTime, table: ZoneTable, chosen: Span): During => {
  if (!time.known) return { state: 'unknown', stretch: 0, lunch: 0, blocker: null }
  const shut = time.outside === 'closed' && closureIn(time, table, chosen)
  if (shut) return { state: 'closed', stretch: 0, lunch: 0, blocker: shut }
  const { stretch, lunch } = time.outside === 'closed' ? NO_STRETCH : outsideOf(time, table, chosen)
  for (const state of BLOCKING) {
    const blocker = time.spans.find((span) => span.state === state && overlap(span, chosen) > 0)
    if (blocker) return { state: state === 'listed' ? 'busy' : state, stretch, lunch, blocker }
  }
  if (time.unknown?.some((span) => overlap(span, chosen) > 0))
    return { state: 'unknown', stretch: 0, lunch: 0, blocker: null }
  return { state: stretch > 0 || lunch > 0 ? 'stretch' : 'free', stretch, lunch, blocker: null }
}

const NO_STRETCH = { stretch: 0, lunch: 0 }

const closureIn = (time: LaneTime, table: ZoneTable, chosen: Span) => {
  const shut = groundOf(time, table, chosen.start, chosen.end).find((part) => part.state === 'closed')
  return shut ? { start: shut.start, end: shut.end, reason: shut.reason ?? 'closed' } : null
}

/** The stretch and the minutes of lunch that a time costs somebody. */
export const outsideOf = (time: LaneTime, table: ZoneTable, chosen: Span) => {
  const { spans, breaks } = workingDays(time.hours, table, chosen.start - NEAR, chosen.end + NEAR)
  return { stretch: Math.min(MOST_STRETCH, stretchOf(spans, chosen)), lunch: minutesIn(breaks, chosen) }
}

/** The state alone, in a word or two. */
export const stateInWords = ({ state }: Pick<During, 'state'>): string =>
  state === 'tentative' ? STATE_WORDS.tentative : state === 'stretch' ? 'free' : state

/** `During` in a few words: "free, 45 minutes outside hours", "busy until 15:00", "shares nothing: unknown". */
export const duringInWords = (how: During, table: ZoneTable): string => {
  const until = how.blocker ? untilInWords(how.blocker, table) : ''
  switch (how.state) {
    case 'free':
      return 'free'
    case 'stretch':
      if (how.stretch >= MOST_STRETCH) return 'free, far outside hours'
      return [
        'free',
        how.stretch > 0 ? `${lengthInWords(how.stretch)} outside hours` : '',
        how.lunch > 0 ? `${lengthInWords(how.lunch)} of lunch` : '',
      ]
        .filter(Boolean)
        .join(', ')
    case 'unknown':
      return 'unknown: shares no times'
    case 'closed':
      return how.blocker?.reason === 'closed' ? 'closed' : `closed: ${how.blocker?.reason ?? ''}`
    default:
      return `${STATE_WORDS[how.state]} ${until}`
  }
}

/** Until when, as one says it: "until 15:00", "all day", "until Mon 30 Nov", "until Tue 1 Dec 08:00". */
const untilInWords = (span: Span, table: ZoneTable): string => {
  const [start, end] = [toWall(table, span.start), toWall(table, span.end)]
  const lastDay = dayOf(end - MINUTE)
  // A day that is taken to its end is lost; midnight belongs to nobody.
  if (minuteOf(end) === 0 && span.end - span.start >= DAY)
    return dayOf(start) === lastDay ? 'all day' : `until ${shortDay(lastDay)}`
  if (span.end - span.start >= DAY || dayOf(start) !== lastDay)
    return `until ${shortDay(dayOf(end))} ${clockText(minuteOf(end))}`
  return `until ${clockText(minuteOf(end))}`
}

/** How something takes somebody's time, in a word or two. */
export const STATE_WORDS: Record<SpanState, string> = {
  busy: 'busy',
  tentative: 'perhaps busy',
  held: 'held',
  away: 'away',
  listed: 'takes no time',
}

/**
 * The first time from `from` on, and before `to`, at which somebody is free inside their working hours for so many minutes; null
 * where there is none, or nobody knows.
 */
export const nextFree = (
  time: LaneTime,
  table: ZoneTable,
  from: Instant,
  to: Instant,
  minutes: number,
): Instant | null => {
  if (!time.known) return null
  const taken = mergeSpans([...time.spans.filter((span) => span.state !== 'listed'), ...(time.unknown ?? [])])
  for (const open of workingSpans(time.hours, table, from, to)) {
    let at = Math.max(open.start, from)
    for (const span of taken) {
      if (span.end <= at) continue
      if (span.start - at >= minutes * MINUTE) break
      at = span.end
    }
    if (Math.min(open.end, to) - at >= minutes * MINUTE) return at
  }
  return null
}
