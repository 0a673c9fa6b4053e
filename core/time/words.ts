import { civilOf, clockText, type Day, dayOf, type Instant, MINUTE, minuteOf, weekdayOf } from './days.ts'
import { toWall, type ZoneTable } from './zones.ts'

export const WEEKDAYS = [
  'Monday',
  'Tuesday',
  'Wednesday',
  'Thursday',
  'Friday',
  'Saturday',
  'Sunday',
] as const
export const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
] as const

const weekdayName = (day: Day): string => WEEKDAYS[weekdayOf(day) - 1] ?? ''
const monthName = (day: Day): string => MONTHS[civilOf(day).month - 1] ?? ''

/** "Thursday 3 December", with the year when it is not that of `today`. */
export const dayInWords = (day: Day, today: Day): string => {
  const year = civilOf(day).year
  return `${weekdayName(day)} ${civilOf(day).date} ${monthName(day)}${year === civilOf(today).year ? '' : ` ${year}`}`
}

/** "Thu 3 Dec". */
export const shortDay = (day: Day): string =>
  `${weekdayName(day).slice(0, 3)} ${civilOf(day).date} ${monthName(day).slice(0, 3)}`

/** "today", "tomorrow", "in 10 days", "3 days ago". */
export const daysAway = (day: Day, today: Day): string => {
  const away = day - today
  if (away === 0) return 'today'
  if (away === 1) return 'tomorrow'
  if (away === -1) return 'yesterday'
  return away > 0 ? `in ${away} days` : `${-away} days ago`
}

/** "45 min", "1 h", "1 h 30", "2 days". */
export const lengthInWords = (minutes: number): string => {
  if (minutes < 60) return `${minutes} min`
  if (minutes % 1440 === 0) return `${minutes / 1440} ${minutes === 1440 ? 'day' : 'days'}`
  const hours = Math.floor(minutes / 60)
  return minutes % 60 ? `${hours} h ${String(minutes % 60).padStart(2, '0')}` : `${hours} h`
}

/** "14:00 to 15:00"; an end on another day carries its date: "23:30 to Fri 4 Dec 00:30". */
export const clocksInWords = (start: Instant, end: Instant, table: ZoneTable): string => {
  const from = toWall(table, start)
  const to = toWall(table, end)
  const other = dayOf(to) === dayOf(from) ? '' : `${shortDay(dayOf(to))} `
  return `${clockText(minuteOf(from))} to ${other}${clockText(minuteOf(to))}`
}

/** "Thursday 3 December, 14:00 to 15:00, in 10 days": how a time is said wherever something is about to be done. */
export const spanInWords = (start: Instant, end: Instant, table: ZoneTable, now: Instant): string => {
  const day = dayOf(toWall(table, start))
  const today = dayOf(toWall(table, now))
  return `${dayInWords(day, today)}, ${clocksInWords(start, end, table)}, ${daysAway(day, today)}`
}

/** "Thu 3 Dec 14:00". */
export const shortTime = (at: Instant, table: ZoneTable): string => {
  const wall = toWall(table, at)
  return `${shortDay(dayOf(wall))} ${clockText(minuteOf(wall))}`
}

/** Whole minutes between two instants. */
export const minutesBetween = (start: Instant, end: Instant): number => Math.round((end - start) / MINUTE)
