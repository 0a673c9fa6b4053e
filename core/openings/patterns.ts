import { type LaneTime, type WorkingDays, type WorkingHours, workingDays } from '../availability/index.ts'
import { DAY, dayOf, instantOf, MINUTE, toWall, wallOf, type ZoneTable, zoneTable } from '../time/index.ts'
import { addBits, type Bits, bitsFor, turnBits } from './bits.ts'
import type { Rules } from './brief.ts'
import { type Grid, markStarts, markTouching, startOf } from './grid.ts'

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
  if (rules.earliest !== null || rules.latest !== null) addBits(closed, pattern.bounds)
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
  return turnBits(allowed, grid.count)
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
  return turnBits(allowed, grid.count)
}

const keys = new WeakMap<readonly WorkingHours[], string>()

/** Working hours as text, to find people who share them; made once for each lane, as long as it is in memory. */
const keyOf = (hours: readonly WorkingHours[]): string => {
  const known = keys.get(hours)
  if (known !== undefined) return known
  const key = hours.map(({ weekday, from, to }) => `${weekday} ${from} ${to}`).join()
  keys.set(hours, key)
  return key
}

/** Finds the pattern of somebody, making each only once: people of one site mostly share theirs. */
export const patternsOn = (
  grid: Grid,
  rules: Rules,
): ((time: Pick<LaneTime, 'zone' | 'hours'>) => Pattern) => {
  const zones = new Map<string, Map<string, Pattern>>()
  const end = startOf(grid, grid.count) + grid.lengthMs
  const make = ({ zone, hours }: Pick<LaneTime, 'zone' | 'hours'>): Pattern => {
    const table = zoneTable(zone)
    const days = workingDays(hours, table, grid.first - AROUND, end + AROUND)
    const parts = {
      table,
      days,
      hours: outsideHours(grid, days, rules.stretch),
      lunch: inBreaks(grid, days),
      bounds: outsideBounds(grid, table, rules),
    }
    return { ...parts, closed: closedBy(parts, rules) }
  }
  return (time) => {
    const key = keyOf(time.hours)
    const ofZone = zones.get(time.zone) ?? new Map<string, Pattern>()
    const pattern = ofZone.get(key) ?? make(time)
    zones.set(time.zone, ofZone.set(key, pattern))
    return pattern
  }
}

/** Finds what becomes of a pattern under other rules: what they do not touch is kept. */
export const patternsUnder = (grid: Grid, before: Rules, rules: Rules): ((old: Pattern) => Pattern) => {
  const made = new Map<Pattern, Pattern>()
  const sameBounds = rules.earliest === before.earliest && rules.latest === before.latest
  return (old) => {
    const known = made.get(old)
    if (known) return known
    const parts = {
      ...old,
      hours: rules.stretch === before.stretch ? old.hours : outsideHours(grid, old.days, rules.stretch),
      bounds: sameBounds ? old.bounds : outsideBounds(grid, old.table, rules),
    }
    const pattern = { ...parts, closed: closedBy(parts, rules) }
    made.set(old, pattern)
    return pattern
  }
}
