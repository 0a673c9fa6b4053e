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
import { instantOf, toWall, type ZoneTable } from '../time/zones.ts'

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
  /** Times when there is no lane at all: a place in repair. */
  readonly closed?: readonly ClosedSpan[]
  /** Places are closed outside their hours; people can stretch theirs. */
  readonly outside: 'outside' | 'closed'
}

/** Sorts spans and joins those that touch or overlap. */
export const mergeSpans = (spans: readonly Span[]): Span[] => {
  const sorted = [...spans].sort((a, b) => a.start - b.start)
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
  for (let day: Day = first; day <= last; day++) {
    const weekday = weekdayOf(day)
    for (const part of hours) {
      if (part.weekday !== weekday) continue
      const start = Math.max(from, instantOf(table, wallOf(day, part.from)))
      const end = Math.min(to, instantOf(table, wallOf(day, part.to)))
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
  return (time.closed ?? []).reduce((parts, shut) => cutOut(parts, shut, from, to), ground)
}

const cutOut = (ground: Ground[], shut: ClosedSpan, from: Instant, to: Instant): Ground[] => {
  const start = Math.max(from, shut.start)
  const end = Math.min(to, shut.end)
  if (end <= start) return ground
  const kept = ground.flatMap((part): Ground[] => {
    const before = { ...part, end: Math.min(part.end, start) }
    const after = { ...part, start: Math.max(part.start, end) }
    return [before, after].filter((piece) => piece.end > piece.start)
  })
  return [...kept, { start, end, state: 'closed' as const, reason: shut.reason }].sort(
    (a, b) => a.start - b.start,
  )
}

const overlap = (a: Span, b: Span): number => Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start))

/**
 * How far, in minutes, `[start, end)` lies outside working spans (sorted, merged): the minutes of it that are not
 * worked, and, when none of it is, the way to the nearest worked minute as well. Half an hour at 05:30 for somebody who
 * starts at 09:30 is 240, not 30. Infinity when there are no spans.
 */
export const stretchOf = (working: readonly Span[], chosen: Span): number => {
  let worked = 0
  let away = Number.POSITIVE_INFINITY
  for (const span of working) {
    worked += overlap(span, chosen)
    away = Math.min(away, Math.max(0, span.start - chosen.end, chosen.start - span.end))
  }
  return Math.round((chosen.end - chosen.start - worked + away) / MINUTE)
}

/** How a lane stands during a chosen time. */
export interface During {
  /** `free` inside hours, `stretch` free but partly outside them, else what blocks. */
  readonly state: 'free' | 'stretch' | 'busy' | 'tentative' | 'held' | 'away' | 'unknown' | 'closed'
  /** Minutes by which the chosen time lies outside working hours: see `stretchOf`. */
  readonly stretch: number
  /** The first span in the way, or the closure. */
  readonly blocker: (Span & { title?: string; reason?: string }) | null
}

/** Working hours are looked for this far around a time; beyond it everything is equally far outside. */
export const NEAR = 4 * DAY
export const MOST_STRETCH = NEAR / MINUTE

const BLOCKING: readonly SpanState[] = ['away', 'busy', 'held', 'tentative']

/** How a lane stands during `[start, end)`. What blocks most is told: away before busy before held before tentative. */
export const during = (time: LaneTime, table: ZoneTable, chosen: Span): During => {
  if (!time.known) return { state: 'unknown', stretch: 0, blocker: null }
  const ground = groundOf(time, table, chosen.start, chosen.end)
  const shut = ground.find((part) => part.state === 'closed')
  if (shut)
    return {
      state: 'closed',
      stretch: 0,
      blocker: { start: shut.start, end: shut.end, reason: shut.reason ?? 'closed' },
    }
  const near = workingSpans(time.hours, table, chosen.start - NEAR, chosen.end + NEAR)
  const stretch = time.outside === 'closed' ? 0 : Math.min(MOST_STRETCH, stretchOf(near, chosen))
  const touching = time.spans.filter((span) => overlap(span, chosen) > 0)
  for (const state of BLOCKING) {
    const blocker = touching.find((span) => span.state === state)
    if (blocker) return { state: state === 'listed' ? 'busy' : state, stretch, blocker }
  }
  return { state: stretch > 0 ? 'stretch' : 'free', stretch, blocker: null }
}

/** `During` in a few words: "free, 45 minutes outside hours", "busy until 15:00", "shares nothing: unknown". */
export const duringInWords = (how: During, table: ZoneTable): string => {
  const until = how.blocker ? `until ${endInWords(how.blocker, table)}` : ''
  switch (how.state) {
    case 'free':
      return 'free'
    case 'stretch':
      return how.stretch >= MOST_STRETCH
        ? 'free, far outside hours'
        : `free, ${lengthInWords(how.stretch)} outside hours`
    case 'unknown':
      return 'unknown: shares no times'
    case 'closed':
      return how.blocker?.reason === 'closed' ? 'closed' : `closed: ${how.blocker?.reason ?? ''}`
    case 'tentative':
      return `tentative ${until}`
    default:
      return `${how.state} ${until}`
  }
}

const endInWords = (span: Span, table: ZoneTable): string => {
  const end = toWall(table, span.end)
  const sameDay = dayOf(toWall(table, span.start)) === dayOf(end - MINUTE)
  if (span.end - span.start >= DAY || !sameDay) return `${shortDay(dayOf(end))} ${clockText(minuteOf(end))}`
  return clockText(minuteOf(end))
}
