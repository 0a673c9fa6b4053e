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
  const day = Math.round(Date.UTC(year, month - 1, date) / DAY)
  const back = civilOf(day)
  return back.year === year && back.month === month && back.date === date ? day : null
}

/** A wall time as `YYYY-MM-DDTHH:mm`, the form the contract and the database use. */
export const wallText = (wall: Wall): string => new Date(wall).toISOString().slice(0, 16)

/** Reads `YYYY-MM-DDTHH:mm[:ss]`; null when it is no such time. */
export const wallFromText = (text: string): Wall | null => {
  const found = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d)(?::(\d\d))?/.exec(text)
  if (!found) return null
  const [year, month, date, hour, minute, second] = found.slice(1).map((part) => Number(part ?? 0))
  const day = dayFromCivil(year ?? 0, month ?? 0, date ?? 0)
  if (day === null || (hour ?? 24) > 23 || (minute ?? 60) > 59) return null
  return wallOf(day, (hour ?? 0) * 60 + (minute ?? 0)) + (second ?? 0) * 1000
}

/** A day as `YYYY-MM-DD`. */
export const dayText = (day: Day): string => new Date(day * DAY).toISOString().slice(0, 10)
