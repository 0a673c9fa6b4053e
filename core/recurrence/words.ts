import { civilOf, type Day, dayOf, type Wall, weekdayOf } from '../time/days.ts'
import { MONTHS, shortDay, WEEKDAYS } from '../time/words.ts'
import { type NthDay, type Rule, readRule } from './rule.ts'

const list = (words: readonly string[]): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`

/** "1st", "2nd", "11th", "22nd". */
export const ordinal = (n: number): string => {
  const tens = n % 100
  const ending = tens > 10 && tens < 14 ? 'th' : (['th', 'st', 'nd', 'rd'][n % 10] ?? 'th')
  return `${n}${ending}`
}

/** "first", "third", "last", "second to last", "20th": which of the weekdays. */
const whichOf = (nth: number): string => {
  if (nth === -1) return 'last'
  if (nth < 0) return `${whichOf(-nth)} to last`
  return ['first', 'second', 'third', 'fourth', 'fifth'][nth - 1] ?? ordinal(nth)
}

const weekdayName = (weekday: number): string => WEEKDAYS[weekday - 1] ?? ''
const WORKING = [1, 2, 3, 4, 5]

const isWorkingDays = (days: readonly NthDay[]): boolean =>
  days.length === 5 && WORKING.every((each) => days.some((day) => day.weekday === each && day.nth === null))

const dayWords = (days: readonly NthDay[]): string =>
  isWorkingDays(days)
    ? 'Monday to Friday'
    : list(
        days.map(({ nth, weekday }) =>
          nth === null ? weekdayName(weekday) : `the ${whichOf(nth)} ${weekdayName(weekday)}`,
        ),
      )

const UNITS = {
  SECONDLY: 'second',
  MINUTELY: 'minute',
  HOURLY: 'hour',
  DAILY: 'day',
  WEEKLY: 'week',
  MONTHLY: 'month',
  YEARLY: 'year',
} as const

const every = (rule: Rule): string => {
  const unit = UNITS[rule.frequency]
  return rule.interval === 1 ? `Every ${unit}` : `Every ${rule.interval} ${unit}s`
}

const monthDayWords = (days: readonly number[]): string =>
  `the ${list(days.map((day) => (day > 0 ? ordinal(day) : day === -1 ? 'last day' : `${whichOf(day)} day`)))}`

const monthWords = (months: readonly number[]): string => list(months.map((month) => MONTHS[month - 1] ?? ''))

/** On which days, with what DTSTART fills in said too. */
const onWords = (rule: Rule, start: Day): string => {
  const { month, date } = civilOf(start)
  const months = rule.months.length ? ` of ${monthWords(rule.months)}` : ''
  if (rule.positions.length && rule.days.length) {
    const which = list(rule.positions.map((position) => whichOf(position)))
    const set = isWorkingDays(rule.days) ? 'working day' : `of ${dayWords(rule.days)}`
    return ` on the ${which} ${set}${months}`
  }
  if (rule.yearDays.length)
    return ` on the ${list(rule.yearDays.map((day) => (day > 0 ? ordinal(day) : `${whichOf(day)}`)))} day of the year`
  if (rule.weekNumbers.length) {
    const days = rule.days.length ? dayWords(rule.days) : weekdayName(weekdayOf(start))
    return ` on ${days} of week ${list(rule.weekNumbers.map(String))}`
  }
  if (rule.days.length && rule.monthDays.length)
    return ` on ${dayWords(rule.days)} when it is ${monthDayWords(rule.monthDays)}${months}`
  if (rule.days.length) return ` on ${dayWords(rule.days)}${months && ` in ${monthWords(rule.months)}`}`
  if (rule.monthDays.length) return ` on ${monthDayWords(rule.monthDays)}${months}`
  switch (rule.frequency) {
    case 'WEEKLY':
      return ` on ${weekdayName(weekdayOf(start))}`
    case 'MONTHLY':
      return ` on the ${ordinal(date)}`
    case 'YEARLY':
      return ` on ${date} ${rule.months.length ? monthWords(rule.months) : MONTHS[month - 1]}`
    default:
      return rule.months.length ? ` in ${monthWords(rule.months)}` : ''
  }
}

const endWords = (rule: Rule): string => {
  if (rule.count !== null) return rule.count === 1 ? ', once' : `, ${rule.count} times`
  if (rule.until === null) return ''
  const day = dayOf(rule.until.wall)
  return `, until ${shortDay(day)} ${civilOf(day).year}`
}

/**
 * A rule in words, as "Every 2 weeks on Thursday, until Fri 26 Mar 2027". `start` is the wall time of the first date,
 * from which the rule takes what it does not say.
 */
export const ruleInWords = (rule: string | Rule, start: Wall): string => {
  const read = typeof rule === 'string' ? readRule(rule) : rule
  return `${every(read)}${onWords(read, dayOf(start))}${endWords(read)}`
}
