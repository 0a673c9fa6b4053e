import { DAY, type Instant, MINUTE, type Wall, wallFromText } from '../time/days.ts'
import { instantOf, toWall, type ZoneTable } from '../time/zones.ts'
import { ruleDates } from './dates.ts'
import { BadRule, type Rule, readRule } from './rule.ts'

export * from './rule.ts'
export * from './words.ts'

/**
 * A series as it is kept: the wall time of its first date, its length in minutes and its RFC 5545 recurrence. A
 * single entry is a series with no rule, so that there is one model for both.
 */
export interface Series {
  readonly starts: Wall
  readonly minutes: number
  /** Its length is days on the calendar rather than elapsed time: a day of 23 or 25 hours is still a day. */
  readonly allDay?: boolean
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

/** More dates than this in one reading are refused: nobody meant them. */
const MOST_DATES = 50_000

/** True when something repeats: by its rule, or by dates of its own. */
export const repeats = (series: Pick<Series, 'rule' | 'added'>): boolean =>
  series.rule !== null || series.added.length > 0

/** A rule with its UNTIL as the series' own wall time (RFC 5545 writes it in UTC). */
const inOwnTime = (rule: Rule, table: ZoneTable): Rule =>
  rule.until?.utc ? { ...rule, until: { wall: toWall(table, rule.until.wall), utc: false } } : rule

/**
 * The wall times of a series inside `[from, to)`, in order, each once: its rule and added dates less the excepted
 * ones. RFC 5545 section 3.8.5: the first date counts even when it does not fit the rule. Throws `BadRule` when there are
 * more than `most`.
 */
export const datesWithin = (
  series: Series,
  table: ZoneTable,
  from: Wall,
  to: Wall,
  most = MOST_DATES,
): Wall[] => {
  const excepted = new Set(series.excepted)
  const found = new Set<Wall>()
  const keep = (wall: Wall) => {
    if (wall >= from && wall < to && !excepted.has(wall)) found.add(wall)
  }
  keep(series.starts)
  for (const wall of series.added) keep(wall)
  if (series.rule !== null) {
    for (const wall of ruleDates(inOwnTime(readRule(series.rule), table), series.starts, from, to)) {
      keep(wall)
      if (found.size > most) throw new BadRule('This rule gives too many dates.')
    }
  }
  return [...found].sort((a, b) => a - b)
}

/** The first `many` dates of a series from a wall time on, at most forty years ahead. */
export const nextDates = (series: Series, table: ZoneTable, from: Wall, many: number): Wall[] => {
  const found: Wall[] = []
  for (let years = 1; years <= 40 && found.length < many; years *= 3) {
    found.length = 0
    found.push(...datesWithin(series, table, from, from + years * 366 * DAY).slice(0, many))
  }
  return found
}

/** How long after a wall time, in milliseconds, a series is looked at to see whether somebody can have meant it. */
const TRIAL = 366 * DAY
const MOST_A_YEAR = 400
const MOST_COUNT = 5000

/**
 * Whether somebody can have meant this repetition; null when so, else what is wrong in words. Marmot repeats entries by
 * day at the most often; its core expands all of RFC 5545, for what comes in from elsewhere.
 */
export const seriesTrouble = (series: Series, table: ZoneTable): string | null => {
  const [added, excepted] = [series.added.length, series.excepted.length]
  if (added > MOST_COUNT) return `It has ${added} dates of its own. The most is ${MOST_COUNT}.`
  if (excepted > MOST_COUNT) return `It leaves out ${excepted} dates. The most is ${MOST_COUNT}.`
  if (series.rule === null) return null
  let rule: Rule
  try {
    rule = inOwnTime(readRule(series.rule), table)
  } catch (error) {
    return error instanceof BadRule ? error.message : 'This rule cannot be read.'
  }
  const often = 'It would repeat more than once a day. Make an entry for each time of the day.'
  if (['SECONDLY', 'MINUTELY', 'HOURLY'].includes(rule.frequency)) return often
  if (rule.until && rule.until.wall < series.starts)
    return 'It would end before it begins. Choose a later end.'
  if ((rule.count ?? 0) > MOST_COUNT) return `It would repeat ${rule.count} times. The most is ${MOST_COUNT}.`
  // Only a rule that names several times of the day can give more than one date a day.
  const several = [rule.hours, rule.minutes, rule.seconds].some((list) => list.length > 1)
  const dates = new Set<Wall>()
  for (const wall of ruleDates(rule, series.starts, series.starts, series.starts + TRIAL)) {
    dates.add(wall)
    if (!several) break
    if (dates.size > MOST_A_YEAR) return often
  }
  if (dates.size > 0) return null
  const [first] = ruleDates(rule, series.starts, series.starts, series.starts + 40 * TRIAL)
  return first === undefined ? 'No date fits this rule. Look at its days and months.' : null
}

const endOf = (series: Series, table: ZoneTable, start: Wall, minutes: number): Instant =>
  series.allDay ? instantOf(table, start + minutes * MINUTE) : instantOf(table, start) + minutes * MINUTE

/**
 * The occurrences of a series that touch `[from, to)`, overrides applied. The length is kept in elapsed minutes (of an
 * all-day series in calendar days), and each start is read in the zone's own rules, so the clock on the wall stays
 * through daylight-saving changes. Throws `BadRule` when there are more than `most`.
 */
export const occurrencesWithin = (
  series: Series,
  overrides: readonly Override[],
  table: ZoneTable,
  from: Instant,
  to: Instant,
  most = MOST_DATES,
): Occurrence[] => {
  const changed = new Map(overrides.map((override) => [override.recurrence, override]))
  const reach = Math.max(series.minutes * MINUTE, DAY) + DAY
  const dates = new Set(datesWithin(series, table, from - reach, to + DAY, most))
  // A changed date may have been moved into the range from far outside it.
  for (const override of overrides) dates.add(override.recurrence)
  const found: Occurrence[] = []
  for (const recurrence of dates) {
    const override = changed.get(recurrence)
    if (override?.cancelled) continue
    const wall = override?.starts ?? recurrence
    const start = instantOf(table, wall)
    const end = endOf(series, table, wall, override?.minutes ?? series.minutes)
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
