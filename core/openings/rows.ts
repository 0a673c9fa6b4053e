import { type Span, type WorkingDays, type WorkingHours, workingDays } from '../availability/index.ts'
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
import { addBits, allBits, type Bits, bitsFor, clearBits, joinBits, setRange } from './bits.ts'
import type { Asked, Rules, SearchBrief } from './brief.ts'
import { edgesOf, firstStart } from './edges.ts'

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
  /** All of it that the rules keep. */
  readonly closed: Bits
}

const closedBy = (pattern: Pick<Pattern, 'hours' | 'lunch' | 'bounds'>, rules: Rules): Bits => {
  const closed = pattern.hours.slice()
  addBits(closed, pattern.bounds)
  if (rules.lunch) addBits(closed, pattern.lunch)
  return closed
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

const sameHours = (a: readonly WorkingHours[], b: readonly WorkingHours[]): boolean => {
  if (a === b) return true
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) {
    const [x, y] = [a[i], b[i]]
    if (x?.weekday !== y?.weekday || x?.from !== y?.from || x?.to !== y?.to) return false
  }
  return true
}

/** One person's time on the grid: rows with a bit where a start is not to be had. */
export interface PersonRow {
  readonly asked: Asked
  readonly pattern: Pattern
  /** Taken or closed by the rules. Empty for somebody whose time is unknown. */
  readonly blocked: Bits
  /**
   * What is taken alone: busy or away, gaps and the limit a day counted; also tentative and held time unless that may be
   * used. Made when it is first asked for: finding openings does without.
   */
  readonly taken: () => Bits
}

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

/**
 * Marks the starts at which somebody is taken. The hottest loop of the search: in whole minutes, which the grid's starts
 * are, and with the number of a start found by multiplying, since a division for each edge would take half the time.
 * `(minutes + 0.5) / step` is never nearer to a whole number than `0.5 / step`, so no rounding can move it past one.
 */
const markTaken = (taken: Bits, grid: Grid, person: Asked, rules: Rules): void => {
  const { count } = grid
  const first = grid.first / MINUTE
  const step = grid.stepMs / MINUTE
  const each = 1 / step
  const reach = grid.lengthMs / MINUTE + rules.after
  const last = first + count * step + reach
  const edges = edgesOf(person.time.spans)
  const { starts, ends, soft } = edges
  for (let i = firstStart(edges, first - rules.before - edges.longest); i < starts.length; i++) {
    const start = starts[i] ?? 0
    if (start >= last) break
    if (rules.tentative && soft[i] === 1) continue
    // A start `s` collides when `start - reach < s < end + before`; numbers of starts, from the first of the grid.
    const after = start - reach - first
    const before = (ends[i] ?? 0) + rules.before - first
    if (before <= 0) continue
    const low = after < 0 ? 0 : (((after + 0.5) * each) | 0) + 1
    const high = (((before - 0.5) * each) | 0) + 1
    setRange(taken, low, Math.min(high, count))
  }
  if (rules.mostADay !== null)
    for (const day of fullDays(person, rules.mostADay)) markStarts(taken, grid, day.start, day.end - 1)
}

const takenRow = (grid: Grid, person: Asked, rules: Rules): Bits => {
  const taken = bitsFor(grid.count)
  if (person.time.known) markTaken(taken, grid, person, rules)
  return taken
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
  const known = new Map<string, { hours: readonly WorkingHours[]; pattern: Pattern }[]>()
  const patternOf = ({ time: { zone, hours } }: Asked): Pattern => {
    const ofZone = known.get(zone) ?? []
    const alike = ofZone.find((each) => sameHours(each.hours, hours))
    if (alike) return alike.pattern
    const table = zoneTable(zone)
    const days = workingDays(hours, table, grid.first - AROUND, end + AROUND)
    const parts = {
      table,
      days,
      hours: outsideHours(grid, days, brief.rules.stretch),
      lunch: inBreaks(grid, days),
      bounds: outsideBounds(grid, table, brief.rules),
    }
    const pattern = { ...parts, closed: closedBy(parts, brief.rules) }
    known.set(zone, [...ofZone, { hours, pattern }])
    return pattern
  }
  const nextRow = rowRoom(grid, brief.people.length)
  const people = brief.people.map((asked): PersonRow => {
    const pattern = patternOf(asked)
    const blocked = nextRow()
    if (asked.time.known) {
      blocked.set(pattern.closed)
      markTaken(blocked, grid, asked, brief.rules)
    }
    return { asked, pattern, blocked, taken: once(() => takenRow(grid, asked, brief.rules)) }
  })
  return { brief, grid, asked: askedStarts(grid, brief), people }
}

/** Rows of nothing out of one piece of memory: asking for a small one for each person would cost as much as filling it. */
const rowRoom = (grid: Grid, count: number): (() => Bits) => {
  const words = bitsFor(grid.count).length
  const room = new Uint32Array(words * count)
  let used = 0
  return () => {
    used += words
    return room.subarray(used - words, used)
  }
}

const once = <Made>(make: () => Made): (() => Made) => {
  let made: Made | null = null
  return () => {
    made ??= make()
    return made
  }
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
    const parts = {
      ...old,
      hours: rules.stretch === before.stretch ? old.hours : outsideHours(grid, old.days, rules.stretch),
      bounds: sameBounds ? old.bounds : outsideBounds(grid, old.table, rules),
    }
    const made = { ...parts, closed: closedBy(parts, rules) }
    patterns.set(old, made)
    return made
  }
  const nextRow = rowRoom(grid, rows.people.length)
  const kept = sameTaking(rules, before)
  const people = rows.people.map((row): PersonRow => {
    const { asked } = row
    const pattern = patternOf(row.pattern)
    const blocked = nextRow()
    const taken = kept ? row.taken : once(() => takenRow(grid, asked, rules))
    if (asked.time.known) joinBits(blocked, taken(), pattern.closed)
    return { asked, pattern, blocked, taken }
  })
  const sameStarts = rules.notice === before.notice && rules.weekdays.join() === before.weekdays.join()
  return { brief, grid, asked: sameStarts ? rows.asked : askedStarts(grid, brief), people }
}
