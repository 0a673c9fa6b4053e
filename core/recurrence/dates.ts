import {
  civilOf,
  type Day,
  dayFromCivil,
  dayOf,
  HOUR,
  MINUTE,
  type Wall,
  wallOf,
  weekdayOf,
} from '../time/days.ts'
import { BadRule, type Frequency, type Rule } from './rule.ts'

const SECOND = 1000
const LAST: Wall = Date.UTC(9000, 0, 1)

const monthsOf = (day: Day): number => {
  const { year, month } = civilOf(day)
  return year * 12 + month - 1
}
const firstOfMonth = (months: number): Day => dayFromCivil(Math.floor(months / 12), (months % 12) + 1, 1) ?? 0
const firstOfYear = (year: number): Day => dayFromCivil(year, 1, 1) ?? 0

/** The day on which the week of `day` begins, weeks beginning on `weekStart`. */
const weekBegin = (day: Day, weekStart: number): Day => day - ((weekdayOf(day) - weekStart + 7) % 7)

/** Week 1 is the first with four days of the year in it (RFC 5545 section 3.3.10, BYWEEKNO). */
const firstWeek = (year: number, weekStart: number): Day =>
  weekBegin(dayFromCivil(year, 1, 4) ?? 0, weekStart)

/** A week's number in the year it belongs to, and how many that year has. */
const weekNumber = (day: Day, weekStart: number): { week: number; of: number } => {
  const near = civilOf(weekBegin(day, weekStart) + 3).year
  const begin = firstWeek(near, weekStart)
  return {
    week: Math.floor((day - begin) / 7) + 1,
    of: Math.round((firstWeek(near + 1, weekStart) - begin) / 7),
  }
}

const has = (list: readonly number[], value: number, size: number): boolean =>
  list.includes(value) || list.includes(value - size - 1)

/** What DTSTART fills in where the rule names no day (RFC 5545 section 3.3.10, last paragraphs). */
const filledIn = (rule: Rule, start: Wall): Rule => {
  const { month, date } = civilOf(dayOf(start))
  const weekday = { nth: null, weekday: weekdayOf(dayOf(start)) }
  const named = rule.days.length + rule.monthDays.length + rule.yearDays.length > 0
  if (named) return rule
  if (rule.frequency === 'WEEKLY' || (rule.frequency === 'YEARLY' && rule.weekNumbers.length > 0))
    return { ...rule, days: [weekday] }
  if (rule.frequency === 'MONTHLY') return { ...rule, monthDays: [date] }
  if (rule.frequency === 'YEARLY')
    return { ...rule, monthDays: [date], months: rule.months.length ? rule.months : [month] }
  return rule
}

/** Whether a weekday is the asked one of its month or, by year with no month named, of its year. */
const isNth = (rule: Rule, day: Day, nth: number): boolean => {
  const byYear = rule.frequency === 'YEARLY' && rule.months.length === 0
  const begin = byYear ? firstOfYear(civilOf(day).year) : firstOfMonth(monthsOf(day))
  const end = byYear ? firstOfYear(civilOf(day).year + 1) : firstOfMonth(monthsOf(day) + 1)
  return nth > 0 ? Math.floor((day - begin) / 7) + 1 === nth : Math.floor((end - 1 - day) / 7) + 1 === -nth
}

/** Whether the rule's parts about days allow a day; the parts DTSTART fills in are there already. */
const allowsDay = (rule: Rule, day: Day): boolean => {
  const { year, month, date } = civilOf(day)
  if (rule.months.length && !rule.months.includes(month)) return false
  if (rule.monthDays.length) {
    const size = firstOfMonth(monthsOf(day) + 1) - firstOfMonth(monthsOf(day))
    if (!has(rule.monthDays, date, size)) return false
  }
  if (rule.yearDays.length) {
    const begin = firstOfYear(year)
    if (!has(rule.yearDays, day - begin + 1, firstOfYear(year + 1) - begin)) return false
  }
  if (rule.weekNumbers.length) {
    const { week, of } = weekNumber(day, rule.weekStart)
    if (!has(rule.weekNumbers, week, of)) return false
  }
  return (
    rule.days.length === 0 ||
    rule.days.some(
      ({ nth, weekday }) => weekdayOf(day) === weekday && (nth === null || isNth(rule, day, nth)),
    )
  )
}

/** The periods of a rule from its start: the n-th begins at `at(n)`, in days, and ends before `at(n) + size(n)`. */
const periodsOf = (rule: Rule, start: Wall) => {
  const day = dayOf(start)
  switch (rule.frequency) {
    case 'YEARLY': {
      const year = civilOf(day).year
      return {
        at: (n: number) => firstOfYear(year + n * rule.interval),
        end: (n: number) => firstOfYear(year + n * rule.interval + 1),
        longest: 366 * rule.interval,
      }
    }
    case 'MONTHLY': {
      const months = monthsOf(day)
      return {
        at: (n: number) => firstOfMonth(months + n * rule.interval),
        end: (n: number) => firstOfMonth(months + n * rule.interval + 1),
        longest: 31 * rule.interval,
      }
    }
    case 'WEEKLY': {
      const begin = weekBegin(day, rule.weekStart)
      return {
        at: (n: number) => begin + n * 7 * rule.interval,
        end: (n: number) => begin + n * 7 * rule.interval + 7,
        longest: 7 * rule.interval,
      }
    }
    default:
      return {
        at: (n: number) => day + n * rule.interval,
        end: (n: number) => day + n * rule.interval + 1,
        longest: rule.interval,
      }
  }
}

const sorted = (values: readonly number[]): number[] => [...new Set(values)].sort((a, b) => a - b)

/** The times of day that a rule by day or longer gives, in milliseconds since midnight. */
const timesOfDay = (rule: Rule, start: Wall): number[] => {
  const clock = start - wallOf(dayOf(start))
  const or = (list: readonly number[], otherwise: number) => (list.length ? sorted(list) : [otherwise])
  const times: number[] = []
  for (const hour of or(rule.hours, Math.floor(clock / HOUR)))
    for (const minute of or(rule.minutes, Math.floor((clock % HOUR) / MINUTE)))
      for (const second of or(rule.seconds, Math.floor((clock % MINUTE) / SECOND)))
        times.push(hour * HOUR + minute * MINUTE + Math.min(second, 59) * SECOND)
  return times
}

const atPositions = (set: readonly Wall[], positions: readonly number[]): Wall[] =>
  sorted(positions.flatMap((position) => set[position > 0 ? position - 1 : set.length + position] ?? []))

/** Dates of a rule by day, week, month or year, from its start on, before `to`. Dates before `from` may be left out. */
function* datesByDay(rule: Rule, start: Wall, from: Wall, to: Wall): Generator<Wall> {
  const filled = filledIn(rule, start)
  const times = timesOfDay(rule, start)
  const { at, end, longest } = periodsOf(rule, start)
  // Periods that are over may be passed by, unless the dates in them have to be counted.
  const away = dayOf(from) - dayOf(start)
  const first = rule.count === null && away > 0 ? Math.max(0, Math.floor(away / longest) - 1) : 0
  for (let n = first; ; n++) {
    const begin = at(n)
    if (wallOf(begin) >= to) return
    const set: Wall[] = []
    for (let day = begin; day < end(n); day++)
      if (allowsDay(filled, day)) for (const time of times) set.push(wallOf(day) + time)
    const kept = rule.positions.length ? atPositions(set, rule.positions) : set
    for (const wall of kept) if (wall >= start) yield wall
  }
}

const CLOCK_UNITS: ReadonlyMap<Frequency, number> = new Map([
  ['HOURLY', HOUR],
  ['MINUTELY', MINUTE],
  ['SECONDLY', SECOND],
])

const allowsClock = (rule: Rule, wall: Wall): boolean => {
  const clock = wall - wallOf(dayOf(wall))
  const fits = (list: readonly number[], value: number) => list.length === 0 || list.includes(value)
  return (
    fits(rule.hours, Math.floor(clock / HOUR)) &&
    (rule.frequency === 'HOURLY' || fits(rule.minutes, Math.floor((clock % HOUR) / MINUTE))) &&
    (rule.frequency !== 'SECONDLY' || fits(rule.seconds, Math.floor((clock % MINUTE) / SECOND)))
  )
}

/** More steps than this for one reading of one rule are refused: about a tenth of a second. */
const MOST_STEPS = 1_000_000

const stepCounter = () => {
  let steps = 0
  return (): void => {
    if (++steps > MOST_STEPS) throw new BadRule('This rule takes too long to work out.')
  }
}

/**
 * Dates of a rule by hour, minute or second, before `to`; dates before `from` may be left out. Days that it does not
 * allow are passed in one step.
 */
function* datesByClock(rule: Rule, start: Wall, from: Wall, to: Wall): Generator<Wall> {
  const unit = (CLOCK_UNITS.get(rule.frequency) ?? HOUR) * rule.interval
  const or = (list: readonly number[], otherwise: number) => (list.length ? sorted(list) : [otherwise])
  const inner = (wall: Wall): Wall[] => {
    if (rule.frequency === 'SECONDLY') return [wall]
    const seconds = or(rule.seconds, Math.floor((start % MINUTE) / SECOND))
    const base = wall - (wall % MINUTE)
    if (rule.frequency === 'MINUTELY') return seconds.map((second) => base + second * SECOND)
    const minutes = or(rule.minutes, Math.floor((start % HOUR) / MINUTE))
    return minutes.flatMap((minute) =>
      seconds.map((second) => wall - (wall % HOUR) + minute * MINUTE + second * SECOND),
    )
  }
  const step = stepCounter()
  // Times that are over may be passed by, unless they have to be counted.
  const away = rule.count === null ? Math.max(0, Math.floor((from - start) / unit) - 1) : 0
  for (let wall = start + away * unit; wall < to; ) {
    step()
    if (!allowsDay(rule, dayOf(wall))) {
      const midnight = wallOf(dayOf(wall) + 1)
      wall += Math.ceil((midnight - wall) / unit) * unit
      continue
    }
    if (allowsClock(rule, wall)) {
      const set = inner(wall)
      for (const each of rule.positions.length ? atPositions(set, rule.positions) : set)
        if (each >= start) yield each
    }
    wall += unit
  }
}

/**
 * The wall times that a rule gives from its start on, in order, before `to` and within its COUNT and UNTIL (whose wall
 * time must be the series' own). Dates before `from` may be left out, so that an old series costs no more than a new
 * one. The work is bounded by the days between: a rule that never gives a date gives none, and ends. Throws `BadRule` where that is too much.
 */
export function* ruleDates(rule: Rule, start: Wall, from: Wall, to: Wall): Generator<Wall> {
  const end = Math.min(to, LAST)
  const until = rule.until?.wall ?? Number.POSITIVE_INFINITY
  const dates = CLOCK_UNITS.has(rule.frequency)
    ? datesByClock(rule, start, from, end)
    : datesByDay(rule, start, from, end)
  const step = stepCounter()
  let given = 0
  for (const wall of dates) {
    step()
    if (wall > until || wall >= end) return
    yield wall
    if (++given === rule.count) return
  }
}
