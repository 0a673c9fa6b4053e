import ICAL from 'ical.js'
import { DAY, type Instant, MINUTE, type Wall, wallFromText, wallText } from '../time/days.ts'
import { instantOf, toWall, type ZoneTable } from '../time/zones.ts'

/**
 * A series as it is kept: the wall time of its first date, its length in minutes and its RFC 5545 recurrence. A
 * single entry is a series with no rule, so that there is one model for both.
 */
export interface Series {
  readonly starts: Wall
  readonly minutes: number
  /** The value of an RRULE, as `FREQ=WEEKLY;BYDAY=TH`; null for a single entry. */
  readonly rule: string | null
  /** Wall times added to the rule (RDATE) and left out of it (EXDATE). */
  readonly added: readonly Wall[]
  readonly excepted: readonly Wall[]
}

/** One date of a series that differs from its rule: moved, renamed, or cancelled. */
export interface Override {
  /** The wall time that the rule gave for this date (RECURRENCE-ID). */
  readonly recurrence: Wall
  readonly cancelled: boolean
  readonly starts: Wall | null
  readonly minutes: number | null
}

/** One date of a series, as instants `[start, end)`. */
export interface Occurrence {
  readonly recurrence: Wall
  readonly start: Instant
  readonly end: Instant
}

/** A rule that cannot be read, or that never gives a date. */
export class BadRule extends Error {}

/** A rule with more dates than this before the asked range is refused: nobody meant it. */
const MOST_STEPS = 50_000

const icalTime = (wall: Wall): ICAL.Time => ICAL.Time.fromDateTimeString(`${wallText(wall)}:00`)

const wallOfIcal = (time: ICAL.Time): Wall =>
  Date.UTC(time.year, time.month - 1, time.day, time.hour, time.minute, time.second)

/** Reads the value of an RRULE. Throws `BadRule` when it is none. */
export const readRule = (rule: string): ICAL.Recur => {
  try {
    const read = ICAL.Recur.fromString(rule)
    if (!read.freq) throw new Error('it has no FREQ')
    return read
  } catch (error) {
    throw new BadRule(
      `"${rule}" is not a repetition rule: ${error instanceof Error ? error.message : 'unreadable'}.`,
    )
  }
}

/**
 * The wall times of a series inside `[from, to)`, in order, each once: its rule and added dates less the excepted
 * ones. RFC 5545 section 3.8.5: the first date counts even when it does not fit the rule, and UNTIL in UTC is turned
 * to the series' own wall time, for which its zone is needed.
 */
export const datesWithin = (series: Series, table: ZoneTable, from: Wall, to: Wall): Wall[] => {
  const excepted = new Set(series.excepted)
  const found = new Set<Wall>()
  const keep = (wall: Wall) => {
    if (wall >= from && wall < to && !excepted.has(wall)) found.add(wall)
  }
  keep(series.starts)
  for (const wall of series.added) keep(wall)
  if (series.rule !== null) {
    const rule = readRule(series.rule)
    const until = rule.until
    if (until && until.zone === ICAL.Timezone.utcTimezone) {
      const local = toWall(table, wallOfIcal(until))
      rule.until = icalTime(local)
    }
    const dates = rule.iterator(icalTime(series.starts))
    for (let step = 0; ; step++) {
      const next = dates.next()
      if (!next) break
      const wall = wallOfIcal(next)
      if (wall >= to) break
      if (step > MOST_STEPS) throw new BadRule(`"${series.rule}" gives too many dates.`)
      keep(wall)
    }
  }
  return [...found].sort((a, b) => a - b)
}

/**
 * The occurrences of a series that touch `[from, to)`, overrides applied. The length is kept in elapsed minutes, and
 * each start is read in the zone's own rules, so the clock on the wall stays through daylight-saving changes.
 */
export const occurrencesWithin = (
  series: Series,
  overrides: readonly Override[],
  table: ZoneTable,
  from: Instant,
  to: Instant,
): Occurrence[] => {
  const changed = new Map(overrides.map((override) => [override.recurrence, override]))
  const reach = Math.max(series.minutes * MINUTE, DAY) + DAY
  const dates = datesWithin(series, table, from - reach, to + DAY)
  // A changed date may have been moved into the range from far outside it.
  for (const override of overrides) if (!dates.includes(override.recurrence)) dates.push(override.recurrence)
  const found: Occurrence[] = []
  for (const recurrence of dates) {
    const override = changed.get(recurrence)
    if (override?.cancelled) continue
    const start = instantOf(table, override?.starts ?? recurrence)
    const end = start + (override?.minutes ?? series.minutes) * MINUTE
    if (end > from && start < to) found.push({ recurrence, start, end })
  }
  return found.sort((a, b) => a.start - b.start)
}

/** Reads a list of wall times, `YYYY-MM-DDTHH:mm`; throws `BadRule` at one that is none. */
export const readWalls = (texts: readonly string[]): Wall[] =>
  texts.map((text) => {
    const wall = wallFromText(text)
    if (wall === null) throw new BadRule(`"${text}" is not a time like 2026-12-03T14:00.`)
    return wall
  })
