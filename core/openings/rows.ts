import type { Span } from '../availability/index.ts'
import { DAY, dayOf, instantOf, MINUTE, toWall, wallOf, weekdayOf, zoneTable } from '../time/index.ts'
import { type Bits, bitsFor, clearBits, joinBits, setRange } from './bits.ts'
import { type Steps, toEnd } from './breath.ts'
import type { Asked, Rules, SearchBrief } from './brief.ts'
import { edgesOf, firstStart } from './edges.ts'
import { type Grid, gridOf, indexFrom, markStarts, startOf } from './grid.ts'
import { type Pattern, patternsOn, patternsUnder } from './patterns.ts'

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
    if (span.gap || span.state === 'listed' || span.state === 'away' || span.end - span.start >= DAY) continue
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
  const { starts, ends, soft, gap } = edges
  for (let i = firstStart(edges, first - rules.before - edges.longest); i < starts.length; i++) {
    const start = starts[i] ?? 0
    if (start >= last) break
    if (rules.tentative && soft[i] === 1) continue
    // A start `s` collides when `start - reach < s < end + before`; numbers of starts, from the first of the grid.
    const bare = gap[i] === 1
    const after = start - (bare ? reach - rules.after : reach) - first
    const before = Math.min((ends[i] ?? 0) + (bare ? 0 : rules.before), last) - first
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

/** So many people's rows are one step. */
const PEOPLE_A_STEP = 50

/**
 * Reads a brief into rows. Cost: a few operations for each busy span and each working day of each different pattern
 * (people of one site mostly share theirs); none for each start and person. A pattern is a step of its own: the first of
 * a zone has its changes of clocks found, which takes some 20 ms.
 */
export function* readingRows(brief: SearchBrief, grid: Grid = gridOf(brief)): Steps<Rows> {
  const patternOf = patternsOn(grid, brief.rules)
  const nextRow = rowRoom(grid, brief.people.length)
  const people: PersonRow[] = []
  const seen = new Set<Pattern>()
  for (const asked of brief.people) {
    const pattern = patternOf(asked.time)
    if (!seen.has(pattern) || people.length % PEOPLE_A_STEP === 0) yield null
    seen.add(pattern)
    const blocked = nextRow()
    if (asked.time.known) {
      blocked.set(pattern.closed)
      markTaken(blocked, grid, asked, brief.rules)
    }
    people.push({ asked, pattern, blocked, taken: once(() => takenRow(grid, asked, brief.rules)) })
  }
  return { brief, grid, asked: askedStarts(grid, brief), people }
}

/** `readingRows`, done at once. */
export const rowsOf = (brief: SearchBrief, grid: Grid = gridOf(brief)): Rows =>
  toEnd(readingRows(brief, grid))

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
  const patternOf = patternsUnder(grid, before, rules)
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
