import { civilOf, DAY, type Day, dayOf, type Instant, MINUTE, minuteOf, weekdayOf } from './days.ts'
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

/** The ways of wording a date that can be chosen, as BCP 47 language tags. */
export const LOCALES = ['en-GB', 'en-US', 'de-AT', 'es-CL', 'fr-FR', 'ne-NP', 'sw-KE', 'sv-SE'] as const
export type Locale = (typeof LOCALES)[number]

/** How dates and times are worded. */
export interface Wording {
  readonly locale: Locale
  readonly halfDayClock: boolean
}

const USUAL: Wording = { locale: 'en-GB', halfDayClock: false }
let wording: Wording = USUAL
const formats = new Map<string, Intl.DateTimeFormat>()

/**
 * Words dates and times from now on as one person wants them. For the page of a signed-in person alone: letters and
 * everything on the server keep to the usual wording.
 */
export const speak = (wanted: Wording): void => {
  wording = wanted
}

const formatted = (day: Day, options: Intl.DateTimeFormatOptions): string => {
  const key = `${wording.locale} ${JSON.stringify(options)}`
  const format = formats.get(key) ?? new Intl.DateTimeFormat(wording.locale, { ...options, timeZone: 'UTC' })
  formats.set(key, format)
  return format.format(day * DAY)
}

const two = (n: number): string => String(n).padStart(2, '0')

/** Minutes since midnight as `HH:mm`, or as `2:30 pm` for those who want that; minutes past a day wrap round. */
export const clockText = (minutes: number): string => {
  const within = ((minutes % 1440) + 1440) % 1440
  const [hour, minute] = [Math.floor(within / 60), Math.floor(within % 60)]
  if (!wording.halfDayClock) return `${two(hour)}:${two(minute)}`
  return `${hour % 12 || 12}:${two(minute)} ${hour < 12 ? 'am' : 'pm'}`
}

const weekdayName = (day: Day): string => WEEKDAYS[weekdayOf(day) - 1] ?? ''
const monthName = (day: Day): string => MONTHS[civilOf(day).month - 1] ?? ''

/** "Thursday 3 December", with the year when it is not that of `today`. */
export const dayInWords = (day: Day, today: Day): string => {
  const year = civilOf(day).year
  if (wording.locale !== USUAL.locale) {
    const withYear = year === civilOf(today).year ? {} : { year: 'numeric' as const }
    return formatted(day, { weekday: 'long', day: 'numeric', month: 'long', ...withYear })
  }
  return `${weekdayName(day)} ${civilOf(day).date} ${monthName(day)}${year === civilOf(today).year ? '' : ` ${year}`}`
}

/** "3 Dec": where the weekday is said elsewhere, or there is no room for it. */
export const dateAlone = (day: Day): string =>
  wording.locale !== USUAL.locale
    ? formatted(day, { day: 'numeric', month: 'short' })
    : `${civilOf(day).date} ${monthName(day).slice(0, 3)}`

/** "Thu 3 Dec". */
export const shortDay = (day: Day): string =>
  wording.locale !== USUAL.locale
    ? formatted(day, { weekday: 'short', day: 'numeric', month: 'short' })
    : `${weekdayName(day).slice(0, 3)} ${civilOf(day).date} ${monthName(day).slice(0, 3)}`

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

/** The same as it is elsewhere: "01:15 to 01:45", with its day where that is another than at home: "Tue 24 Nov 01:15 to 01:45". */
export const clocksThere = (start: Instant, end: Instant, there: ZoneTable, home: ZoneTable): string => {
  const day = dayOf(toWall(there, start))
  const other = day === dayOf(toWall(home, start)) ? '' : `${shortDay(day)} `
  return `${other}${clocksInWords(start, end, there)}`
}

/**
 * "Thursday 3 December, 14:00 to 15:00, in 10 days": how a time is said wherever something is about to be done. Whole days are
 * "Thursday 3 December, all day, in 10 days" and "Thursday 3 December to Saturday 5 December, in 10 days".
 */
export const spanInWords = (start: Instant, end: Instant, table: ZoneTable, now: Instant): string => {
  const [from, to] = [toWall(table, start), toWall(table, end)]
  const day = dayOf(from)
  const today = dayOf(toWall(table, now))
  const wholeDays = end > start && minuteOf(from) === 0 && minuteOf(to) === 0
  const last = dayOf(to) - 1
  const words = wholeDays
    ? `${dayInWords(day, today)}${last > day ? ` to ${dayInWords(last, today)}` : ', all day'}`
    : `${dayInWords(day, today)}, ${clocksInWords(start, end, table)}`
  return `${words}, ${daysAway(day, today)}`
}

/** "Thu 3 Dec 14:00". */
export const shortTime = (at: Instant, table: ZoneTable): string => {
  const wall = toWall(table, at)
  return `${shortDay(dayOf(wall))} ${clockText(minuteOf(wall))}`
}

/** Whole minutes between two instants. */
export const minutesBetween = (start: Instant, end: Instant): number => Math.round((end - start) / MINUTE)
