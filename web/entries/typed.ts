import type { EntryOnWire } from '@marmot/contract/entries'
import {
  clockText,
  type Day,
  dayOf,
  type Instant,
  lengthInWords,
  minuteOf,
  minutesBetween,
  parseClock,
  parseDay,
  parseLength,
  shortDay,
  toWall,
  wallOf,
  wallText,
  zoneTable,
} from '@marmot/core/time'

/** What stands in the sheet's fields, as typed. */
export interface Typed {
  readonly title: string
  readonly day: string
  readonly from: string
  readonly until: string
  readonly allDay: boolean
  readonly zone: string
  readonly place: string
  readonly note: string
  readonly shows: EntryOnWire['shows']
  readonly private: boolean
  /** At which site it is out of doors; null under a roof. */
  readonly outdoors: string | null
  readonly categoryId: string | null
  readonly reminders: number[] | null
}

type Complaints = Partial<Record<'day' | 'from' | 'until', string>>

const dayField = (day: Day): string => shortDay(day).replace(/^\S+ /, '')

/** A time as it is first written into the fields. */
export const typedTime = (start: Instant, end: Instant, zone: string, allDay: boolean) => {
  const table = zoneTable(zone)
  const wall = toWall(table, start)
  const length = minutesBetween(start, end)
  const days = Math.round((toWall(table, end) - wall) / 86_400_000)
  return {
    day: dayField(dayOf(wall)),
    from: clockText(minuteOf(wall)),
    until: allDay
      ? `${days} ${days === 1 ? 'day' : 'days'}`
      : length >= 1440
        ? lengthInWords(length).replace(/ /g, '')
        : clockText(minuteOf(toWall(table, end))),
  }
}

const wholeDays = (text: string, day: Day | null): number | null => {
  const length = /^\d+$/.test(text.trim()) ? Number(text) * 1440 : parseLength(text)
  if (length !== null) return length % 1440 === 0 ? length : null
  const last = day === null ? null : parseDay(text, day)
  return last === null || day === null || last < day ? null : (last - day + 1) * 1440
}

/**
 * Reads the typed day, start and end or length. The end may be a clock ("10:45") or a length ("45m"); of whole days a
 * number of days or the last of them. A date without a year is the one nearest to `near`, the day that was opened; "tomorrow"
 * is that of `today`.
 */
export const readTyped = (
  typed: Pick<Typed, 'day' | 'from' | 'until' | 'allDay'>,
  near: Day,
  today: Day,
): { starts: string; minutes: number; errors: Complaints } => {
  const day = parseDay(typed.day, today, near)
  const badDay = day === null ? { day: 'not a date: try 3 dec or next tue' } : {}
  if (typed.allDay) {
    const minutes = wholeDays(typed.until, day)
    return {
      starts: wallText(wallOf(day ?? near)),
      minutes: minutes ?? 0,
      errors: { ...badDay, ...(minutes === null ? { until: 'not a number of days: try 2 days' } : {}) },
    }
  }
  const from = parseClock(typed.from)
  const clock = parseClock(typed.until)
  // "1h30" is a length, "2:30 pm" a clock.
  const length =
    /\d\s*[hmd]/i.test(typed.until) && !/[ap]m/i.test(typed.until) ? parseLength(typed.until) : null
  const minutes =
    length ?? (clock === null || from === null ? null : clock > from ? clock - from : clock + 1440 - from)
  return {
    starts: wallText(wallOf(day ?? near, from ?? 0)),
    minutes: minutes ?? 0,
    errors: {
      ...badDay,
      ...(from === null ? { from: 'not a time: try 10:45' } : {}),
      ...(minutes === null ? { until: 'not a time or length: try 11:30 or 45m' } : {}),
    },
  }
}
