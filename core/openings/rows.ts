import { type Span, type WorkingDays, workingDays } from '../availability/index.ts'
import type { SpanState } from '../sharing/index.ts'
import {
  DAY,
  dayOf,
  type Instant,
  instantOf,
  MINUTE,
  offsetAt,
  toWall,
  wallOf,
  weekdayOf,
  type ZoneTable,
  zoneTable,
} from '../time/index.ts'
import { addBits, allBits, type Bits, bitsFor, clearBits, setRange } from './bits.ts'
import type { Asked, Rules, SearchBrief } from './brief.ts'

/** Every start that is tried: `first + i * stepMs` for `i` from 0 up to `count`; instants and lengths in milliseconds. */
export interface Grid {
  readonly first: Instant
  readonly stepMs: number
  readonly count: number
  readonly lengthMs: number
}

/** The starts of a brief's window, on the clock of the organizer's zone as it stands when the window begins. */
export const gridOf = (brief: Pick<SearchBrief, 'from' | 'to' | 'step' | 'minutes' | 'zone'>): Grid => {
  const stepMs = brief.step * MINUTE
  const lengthMs = brief.minutes * MINUTE
  const offset = offsetAt(zoneTable(brief.zone), brief.from)
  const first = Math.ceil((brief.from + offset) / stepMs) * stepMs - offset
  const count = Math.max(0, Math.floor((brief.to - lengthMs - first) / stepMs) + 1)
  return { first, stepMs, count, lengthMs }
}

export const startOf = (grid: Grid, i: number): Instant => grid.first + i * grid.stepMs

/** The first start at or after an instant, within `[0, count]`. */
export const indexFrom = (grid: Grid, at: Instant): number =>
  Math.max(0, Math.min(grid.count, Math.ceil((at - grid.first) / grid.stepMs)))

/** Marks the starts at which a meeting would touch `[start, end)`: `start - length < s < end`. */
const markTouching = (bits: Bits, grid: Grid, start: Instant, end: Instant): void => {
  const low = Math.max(0, Math.floor((start - grid.lengthMs - grid.first) / grid.stepMs) + 1)
  setRange(bits, low, indexFrom(grid, end))
}

/** Marks the starts `s` with `from <= s <= last`. */
const markStarts = (bits: Bits, grid: Grid, from: Instant, last: Instant): void =>
  setRange(
    bits,
    indexFrom(grid, from),
    Math.min(grid.count, Math.floor((last - grid.first) / grid.stepMs) + 1),
  )

/** Working hours around a window: working days reach somewhat beyond it, so that its edges see their neighbours. */
const AROUND = 5 * DAY

/**
 * What people of one zone and one working pattern have in common. Each row has a bit where a start is *not* to be had.
 */
export interface Pattern {
  readonly table: ZoneTable
  readonly days: WorkingDays
  /** Outside the allowed stretch. */
  readonly hours: Bits
  /** In the lunch break. */
  readonly lunch: Bits
  /** Before the earliest or past the latest local hour. */
  readonly bounds: Bits
}

/** Starts that stretch somebody by more than `most` minutes (null: none is too far). */
const outsideHours = (grid: Grid, days: WorkingDays, most: number | null): Bits => {
  if (most === null) return bitsFor(grid.count)
  const allowed = bitsFor(grid.count)
  const slack = most * MINUTE
  for (const day of days.spans)
    if (day.end - day.start + slack >= grid.lengthMs)
      markStarts(allowed, grid, day.start - slack, day.end - grid.lengthMs + slack)
  const bits = allBits(grid.count)
  clearBits(bits, allowed)
  return bits
}

const inBreaks = (grid: Grid, days: WorkingDays): Bits => {
  const bits = bitsFor(grid.count)
  for (const pause of days.breaks) markTouching(bits, grid, pause.start, pause.end)
  return bits
}

/** Starts that do not lie, whole, between two hours of the same local day. */
const outsideBounds = (grid: Grid, table: ZoneTable, rules: Pick<Rules, 'earliest' | 'latest'>): Bits => {
  if (rules.earliest === null && rules.latest === null) return bitsFor(grid.count)
  const allowed = bitsFor(grid.count)
  const last = dayOf(toWall(table, startOf(grid, grid.count)))
  for (let day = dayOf(toWall(table, grid.first)); day <= last; day++) {
    const from = instantOf(table, wallOf(day, rules.earliest ?? 0))
    // Without a latest hour a meeting may run past midnight, as long as it begins before.
    const until =
      rules.latest === null
        ? instantOf(table, wallOf(day + 1)) - 1
        : instantOf(table, wallOf(day, rules.latest)) - grid.lengthMs
    markStarts(allowed, grid, from, until)
  }
  const bits = allBits(grid.count)
  clearBits(bits, allowed)
  return bits
}

const patternKey = (person: Asked): string =>
  `${person.time.zone} ${person.time.hours.map((part) => `${part.weekday}:${part.from}-${part.to}`).join(' ')}`

/** One person's time on the grid: rows with a bit where a start is not to be had. */
export interface PersonRow {
  readonly asked: Asked
  readonly pattern: Pattern
  /** Busy or away, gaps and the limit a day counted; also tentative and held time unless that may be used. */
  readonly taken: Bits
  /** Tentative or held time. */
  readonly soft: Bits | null
  /** All of it. Empty for somebody whose time is unknown. */
  readonly blocked: Bits
}

const isSoft = (state: SpanState): boolean => state === 'tentative' || state === 'held'

/** Days of somebody that are full, as instants: `most` or more entries begin on them. */
const fullDays = (person: Asked, most: number): Span[] => {
  const table = zoneTable(person.time.zone)
  const counts = new Map<number, number>()
  for (const span of person.time.spans) {
    if (span.state === 'listed' || span.state === 'away' || span.end - span.start >= DAY) continue
    const day = dayOf(toWall(table, span.start))
    counts.set(day, (counts.get(day) ?? 0) + 1)
  }
  return [...counts]
    .filter(([, count]) => count >= most)
    .map(([day]) => ({ start: instantOf(table, wallOf(day)), end: instantOf(table, wallOf(day + 1)) }))
}

const takenRow = (grid: Grid, person: Asked, rules: Rules): Pick<PersonRow, 'taken' | 'soft'> => {
  const taken = bitsFor(grid.count)
  const before = rules.before * MINUTE
  const after = rules.after * MINUTE
  let soft: Bits | null = null
  const first = grid.first - before - after
  const last = startOf(grid, grid.count) + grid.lengthMs + before + after
  for (const span of person.time.spans) {
    if (span.end <= first || span.start >= last || span.state === 'listed') continue
    if (isSoft(span.state)) {
      soft ??= bitsFor(grid.count)
      markTouching(soft, grid, span.start, span.end)
      if (rules.tentative) continue
    }
    markTouching(taken, grid, span.start - after, span.end + before)
  }
  if (rules.mostADay !== null)
    for (const day of fullDays(person, rules.mostADay)) markStarts(taken, grid, day.start, day.end - 1)
  return { taken, soft }
}

/** Everything that is known of a brief's people on its grid. */
export interface Rows {
  readonly brief: SearchBrief
  readonly grid: Grid
  /** Starts that the organizer's own rules allow: weekdays, notice. */
  readonly asked: Bits
  readonly people: readonly PersonRow[]
}

const askedStarts = (grid: Grid, brief: SearchBrief): Bits => {
  const table = zoneTable(brief.zone)
  const bits = bitsFor(grid.count)
  const last = dayOf(toWall(table, startOf(grid, grid.count)))
  for (let day = dayOf(toWall(table, grid.first)); day <= last; day++) {
    if (!brief.rules.weekdays.includes(weekdayOf(day))) continue
    markStarts(bits, grid, instantOf(table, wallOf(day)), instantOf(table, wallOf(day + 1)) - 1)
  }
  const tooSoon = bitsFor(grid.count)
  setRange(tooSoon, 0, indexFrom(grid, brief.now + brief.rules.notice * MINUTE))
  clearBits(bits, tooSoon)
  return bits
}

/**
 * Reads a brief into rows. Cost: a few operations for each busy span and each working day of each different pattern
 * (people of one site mostly share theirs); none for each start and person.
 */
export const rowsOf = (brief: SearchBrief, grid: Grid = gridOf(brief)): Rows => {
  const end = startOf(grid, grid.count) + grid.lengthMs
  const patterns = new Map<string, Pattern>()
  const patternOf = (person: Asked): Pattern => {
    const key = patternKey(person)
    const known = patterns.get(key)
    if (known) return known
    const table = zoneTable(person.time.zone)
    const days = workingDays(person.time.hours, table, grid.first - AROUND, end + AROUND)
    const made = {
      table,
      days,
      hours: outsideHours(grid, days, brief.rules.stretch),
      lunch: inBreaks(grid, days),
      bounds: outsideBounds(grid, table, brief.rules),
    }
    patterns.set(key, made)
    return made
  }
  const nothing = bitsFor(grid.count)
  const people = brief.people.map((asked): PersonRow => {
    const pattern = patternOf(asked)
    if (!asked.time.known) return { asked, pattern, taken: nothing, soft: null, blocked: nothing }
    const { taken, soft } = takenRow(grid, asked, brief.rules)
    return { asked, pattern, taken, soft, blocked: blockedBy(taken, pattern, brief.rules) }
  })
  return { brief, grid, asked: askedStarts(grid, brief), people }
}

const blockedBy = (taken: Bits, pattern: Pattern, rules: Rules): Bits => {
  const blocked = taken.slice()
  addBits(blocked, pattern.hours)
  addBits(blocked, pattern.bounds)
  if (rules.lunch) addBits(blocked, pattern.lunch)
  return blocked
}

const sameTaking = (a: Rules, b: Rules): boolean =>
  a.before === b.before && a.after === b.after && a.mostADay === b.mostADay && a.tentative === b.tentative

/** The same people on the same grid under other rules: what the rules do not touch is kept. */
export const withRules = (rows: Rows, rules: Rules): Rows => {
  const { grid } = rows
  const brief = { ...rows.brief, rules }
  const before = rows.brief.rules
  const patterns = new Map<Pattern, Pattern>()
  const patternOf = (old: Pattern): Pattern => {
    const known = patterns.get(old)
    if (known) return known
    const sameBounds = rules.earliest === before.earliest && rules.latest === before.latest
    const made = {
      ...old,
      hours: rules.stretch === before.stretch ? old.hours : outsideHours(grid, old.days, rules.stretch),
      bounds: sameBounds ? old.bounds : outsideBounds(grid, old.table, rules),
    }
    patterns.set(old, made)
    return made
  }
  const people = rows.people.map((row): PersonRow => {
    const pattern = patternOf(row.pattern)
    if (!row.asked.time.known) return { ...row, pattern }
    const { taken, soft } = sameTaking(rules, before) ? row : takenRow(grid, row.asked, rules)
    return { asked: row.asked, pattern, taken, soft, blocked: blockedBy(taken, pattern, rules) }
  })
  const sameStarts = rules.notice === before.notice && rules.weekdays.join() === before.weekdays.join()
  return { brief, grid, asked: sameStarts ? rows.asked : askedStarts(grid, brief), people }
}
