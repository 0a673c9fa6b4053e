/**
 * Days and wall time as plain numbers.
 *
 * A `Wall` is what a clock on the wall shows, kept as the milliseconds that the same reading would have in UTC.
 * A `Day` is the count of days since 1970-01-01. Neither knows a zone; `zones.ts` joins them to instants.
 */
export type Instant = number
export type Wall = number
export type Day = number

export const MINUTE = 60_000
export const HOUR = 3_600_000
export const DAY = 86_400_000

/** The day a wall time falls on. */
export const dayOf = (wall: Wall): Day => Math.floor(wall / DAY)

/** Midnight at the start of a day. */
export const wallOf = (day: Day, minutes = 0): Wall => day * DAY + minutes * MINUTE

/** Minutes since midnight of a wall time, 0 to 1439, seconds dropped. */
export const minuteOf = (wall: Wall): number => Math.floor((wall - dayOf(wall) * DAY) / MINUTE)

/** ISO weekday of a day: 1 is Monday, 7 is Sunday. */
export const weekdayOf = (day: Day): number => ((((day + 3) % 7) + 7) % 7) + 1

/** The first day of the week a day is in; weeks begin on a Monday unless another weekday is given. */
export const weekStart = (day: Day, firstWeekday = 1): Day => day - ((weekdayOf(day) - firstWeekday + 7) % 7)

/** Year, month (1 to 12) and date (1 to 31) of a day in the Gregorian calendar. */
export const civilOf = (day: Day): { year: number; month: number; date: number } => {
  const at = new Date(day * DAY)
  return { year: at.getUTCFullYear(), month: at.getUTCMonth() + 1, date: at.getUTCDate() }
}

/** The day of a civil date, or null when there is none such, as 30 February. */
export const dayFromCivil = (year: number, month: number, date: number): Day | null => {
  // Date.UTC takes the years 0 to 99 for those of the twentieth century; 400 years are always as many days.
  const day = Math.round(Date.UTC(year + 400, month - 1, date) / DAY) - 146_097
  const back = civilOf(day)
  return back.year === year && back.month === month && back.date === date ? day : null
}

/** A wall time as `YYYY-MM-DDTHH:mm`, the form the contract and the database use. */
export const wallText = (wall: Wall): string => new Date(wall).toISOString().slice(0, 16)

const [HYPHEN, COLON, LETTER_T, SPACE, ZERO] = [0x2d, 0x3a, 0x54, 0x20, 0x30]

/** Two digits as a number; NaN where there are no two. */
const twoDigits = (text: string, at: number): number => {
  const [tens, ones] = [text.charCodeAt(at) - ZERO, text.charCodeAt(at + 1) - ZERO]
  return tens >= 0 && tens <= 9 && ones >= 0 && ones <= 9 ? tens * 10 + ones : Number.NaN
}

/** Reads `YYYY-MM-DDTHH:mm[:ss]`; null when it is no such time. */
export const wallFromText = (text: string): Wall | null => {
  // Read sign by sign: a year of somebody has four thousand of them, and a pattern took ten times as long.
  const gap = text.charCodeAt(10)
  if (gap !== LETTER_T && gap !== SPACE) return null
  if (text.charCodeAt(4) !== HYPHEN || text.charCodeAt(7) !== HYPHEN || text.charCodeAt(13) !== COLON)
    return null
  const [year, month, date] = [
    twoDigits(text, 0) * 100 + twoDigits(text, 2),
    twoDigits(text, 5),
    twoDigits(text, 8),
  ]
  const [hour, minute] = [twoDigits(text, 11), twoDigits(text, 14)]
  const second = text.charCodeAt(16) === COLON ? twoDigits(text, 17) : 0
  if (!(hour <= 23 && minute <= 59)) return null
  const start = Date.UTC(year, month - 1, date)
  const back = new Date(start)
  if (back.getUTCMonth() !== month - 1 || back.getUTCDate() !== date || back.getUTCFullYear() !== year)
    return null
  return start + (hour * 60 + minute) * MINUTE + Math.max(0, second || 0) * 1000
}

/** A day as `YYYY-MM-DD`. */
export const dayText = (day: Day): string => new Date(day * DAY).toISOString().slice(0, 10)

const sixty = Array.from({ length: 60 }, (_, i) => String(i).padStart(2, '0'))
let textOfDay = { day: 0, text: dayText(0) }

/** Years of four digits, whatever the day. */
const FOUR_DIGITS = Date.UTC(9999, 0, 1)

/**
 * An instant in UTC as `toISOString` writes it, for the thousands of a year that come in order: the day's text is kept
 * from one to the next. What is not on a whole second, or far away, is written as usual.
 */
export const instantText = (instant: Instant): string => {
  if (instant % 1000 !== 0 || instant < 0 || instant > FOUR_DIGITS) return new Date(instant).toISOString()
  const day = dayOf(instant)
  if (day !== textOfDay.day) textOfDay = { day, text: dayText(day) }
  const second = (instant - day * DAY) / 1000
  const [hours, minutes] = [Math.floor(second / 3600), Math.floor(second / 60) % 60]
  return `${textOfDay.text}T${sixty[hours]}:${sixty[minutes]}:${sixty[second % 60]}.000Z`
}
