import { civilOf, type Day, dayFromCivil, weekdayOf } from './days.ts'
import { MONTHS, WEEKDAYS } from './words.ts'

/** Minutes since midnight from what a person types: "10:45", "1045", "9", "9.30", "2pm", "2:15 pm". Null if unclear. */
export const parseClock = (text: string): number | null => {
  const found = /^\s*(\d{1,2})(?:[:.h]?(\d{2}))?\s*(am|pm)?\s*$/i.exec(text)
  if (!found) return null
  let hour = Number(found[1])
  const minute = Number(found[2] ?? 0)
  const half = found[3]?.toLowerCase()
  if (half) {
    if (hour < 1 || hour > 12) return null
    hour = (hour % 12) + (half === 'pm' ? 12 : 0)
  }
  return hour > 23 || minute > 59 ? null : hour * 60 + minute
}

/** A length in minutes from "45", "45m", "1h", "1h30", "1:30", "1.5h", "2d". Null if unclear or nothing. */
export const parseLength = (text: string): number | null => {
  const clean = text.trim().toLowerCase().replace(/\s+/g, '')
  const units =
    /^(?:(\d+(?:\.\d+)?)(?:d|days?))?(?:(\d+(?:\.\d+)?)(?:h|hours?))?(?:(\d+)(?:m|min|minutes?)?)?$/.exec(
      clean,
    )
  const clock = /^(\d{1,2}):(\d{2})$/.exec(clean)
  const minutes = clock
    ? Number(clock[1]) * 60 + Number(clock[2])
    : units && clean
      ? Number(units[1] ?? 0) * 1440 + Number(units[2] ?? 0) * 60 + Number(units[3] ?? 0)
      : 0
  return minutes > 0 && Number.isFinite(minutes) ? Math.round(minutes) : null
}

const beginning = (names: readonly string[], text: string): number =>
  text.length < 3 ? -1 : names.findIndex((name) => name.toLowerCase().startsWith(text))

/**
 * A day from "3 dec", "dec 3", "3.12.", "2027-02-01", "today", "tomorrow", "thu", "next tue", "+10". A date without a
 * year is the next one from `today`, or, where something on a day is changed, the one nearest to that day (`near`). Null if
 * unclear.
 */
export const parseDay = (text: string, today: Day, near: Day | null = null): Day | null => {
  const clean = text.trim().toLowerCase().replace(/,/g, ' ').replace(/\s+/g, ' ')
  if (clean === 'today') return today
  if (clean === 'tomorrow') return today + 1
  const ahead = /^\+(\d{1,3})$/.exec(clean)
  if (ahead) return today + Number(ahead[1])
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(clean)
  if (iso) return dayFromCivil(Number(iso[1]), Number(iso[2]), Number(iso[3]))
  const named = /^(next )?([a-z]+)$/.exec(clean)
  const weekday = named ? beginning(WEEKDAYS, named[2] ?? '') : -1
  if (named && weekday >= 0) {
    const away = (weekday + 1 - weekdayOf(today) + 7) % 7 || 7
    const sameWeek = away < 8 - weekdayOf(today)
    return today + away + (named[1] && sameWeek ? 7 : 0)
  }
  const dated =
    /^(\d{1,2})\.? ([a-z]+)(?: (\d{4}))?$/.exec(clean) ??
    /^(\d{1,2})[./](\d{1,2})[./]?(?:(\d{4}))?$/.exec(clean) ??
    (() => {
      const turned = /^([a-z]+) (\d{1,2})(?: (\d{4}))?$/.exec(clean)
      return turned ? [turned[0], turned[2], turned[1], turned[3]] : null
    })()
  if (!dated) return null
  const monthText = dated[2] ?? ''
  const month = /^\d+$/.test(monthText) ? Number(monthText) : beginning(MONTHS, monthText) + 1
  if (month < 1) return null
  if (dated[3]) return dayFromCivil(Number(dated[3]), month, Number(dated[1]))
  const inYear = (year: number) => dayFromCivil(year, month, Number(dated[1]))
  const { year } = civilOf(near ?? today)
  if (near === null) {
    const thisYear = inYear(year)
    return thisYear !== null && thisYear >= today ? thisYear : inYear(year + 1)
  }
  const days = [year - 1, year, year + 1].flatMap((each) => inYear(each) ?? [])
  return days.reduce<Day | null>(
    (best, day) => (best === null || Math.abs(day - near) < Math.abs(best - near) ? day : best),
    null,
  )
}
