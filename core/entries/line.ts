import { type Frequency, plainRule, writeRule } from '../recurrence/index.ts'
import {
  CLOCK_TYPED,
  DATE_TYPED,
  type Day,
  dayOf,
  type Instant,
  LENGTH_TYPED,
  lineReader,
  minuteOf,
  parseClock,
  parseDay,
  parseLength,
  toWall,
  WEEKDAY_TYPED,
  WEEKDAYS,
  weekdayOf,
  type ZoneTable,
} from '../time/index.ts'

/** What was understood of one line of text. Times are wall time in the writer's zone. */
export interface ReadLine {
  readonly title: string
  readonly place: string
  readonly day: Day
  /** Minutes since midnight; 0 for a whole day. */
  readonly minute: number
  readonly minutes: number
  readonly allDay: boolean
  readonly rule: string | null
  /** What the line did not say and was taken as usual, in words. */
  readonly assumed: readonly string[]
}

const UNIT: Record<string, Frequency> = { day: 'DAILY', week: 'WEEKLY', month: 'MONTHLY', year: 'YEARLY' }
const ADVERB: Record<string, Frequency> = {
  daily: 'DAILY',
  weekly: 'WEEKLY',
  monthly: 'MONTHLY',
  yearly: 'YEARLY',
}

const weekdayNumber = (text: string): number =>
  WEEKDAYS.findIndex((name) => name.toLowerCase().startsWith(text.toLowerCase().slice(0, 3))) + 1

const NO_DAYS: readonly number[] = []

const readRepetition = (take: (pattern: string) => string[] | null) => {
  const weekdays = take(
    String.raw`\severy\s((?:${WEEKDAY_TYPED})(?:(?:,\s?|\sand\s|\s)(?:${WEEKDAY_TYPED}))*)(?=\s)`,
  )
  if (weekdays) {
    const days = [...new Set((weekdays[0] ?? '').match(new RegExp(WEEKDAY_TYPED, 'gi'))?.map(weekdayNumber))]
    return { frequency: 'WEEKLY' as const, interval: 1, days }
  }
  if (take(String.raw`\severy\s(?:weekday|working day)s?(?=\s)`))
    return { frequency: 'WEEKLY' as const, interval: 1, days: [1, 2, 3, 4, 5] }
  const units = take(String.raw`\severy\s(?:(\d{1,2}|other|second)\s)?(day|week|month|year)s?(?=\s)`)
  if (units) {
    const [number = '', unit = ''] = units
    const interval = /\d/.test(number) ? Math.max(1, Number(number)) : number ? 2 : 1
    return { frequency: UNIT[unit.toLowerCase()] ?? 'WEEKLY', interval, days: NO_DAYS }
  }
  const adverb = take(String.raw`\s(daily|weekly|monthly|yearly)(?=\s)`)
  return adverb
    ? { frequency: ADVERB[(adverb[0] ?? '').toLowerCase()] ?? 'WEEKLY', interval: 1, days: NO_DAYS }
    : null
}

const USUAL_MINUTES = 30

/**
 * Reads an entry from one line: "Core freezer defrost thu 10:45 45m at Firn", "Bulletin every weekday 8:00-8:30",
 * "Leave 3 dec 5 days". Whatever is not understood stays in the title. Null when there is no title.
 */
export const readLine = (text: string, now: Instant, table: ZoneTable): ReadLine | null => {
  const wall = toWall(table, now)
  const today = dayOf(wall)
  const { take, left } = lineReader(text)
  const assumed: string[] = []
  const repetition = readRepetition(take)
  const range = take(
    String.raw`\s(?:from\s|at\s)?(\d{1,2}(?:[:.]\d{2})?\s?(?:am|pm)?)\s?(?:-|–|to|until)\s?(${CLOCK_TYPED})(?=\s)`,
  )
  const clock = range
    ? null
    : (take(String.raw`\s(?:from\s|at\s)?(${CLOCK_TYPED})(?=\s)`) ?? take(String.raw`\sat\s(\d{1,2})(?=\s)`))
  const whole = take(String.raw`\s(all[\s-]day)(?=\s)`) !== null
  const lengthText = take(String.raw`\s(?:for\s)?(${LENGTH_TYPED})(?=\s)`)?.[0]
  const dayText = take(String.raw`\s(?:on\s)?(${DATE_TYPED})(?=\s)`)?.[0]
  const placeText = take(String.raw`\s(?:at|in|@)\s?([^\s].*)$`)?.[0] ?? ''
  const title = left().replace(/\s+/g, ' ').trim()
  if (!title) return null

  const from = parseClock(range?.[0] ?? clock?.[0] ?? '')
  const to = range ? parseClock(range[1] ?? '') : null
  const length = lengthText ? parseLength(lengthText.replace(/(h)\s?(\d{1,2})$/i, '$1$2m')) : null
  const wholeDays = length !== null && length % 1440 === 0 && from === null
  const allDay = whole || wholeDays || (from === null && length === null && dayText !== undefined)
  const minute = allDay ? 0 : (from ?? Math.min(23 * 60, Math.ceil((minuteOf(wall) + 1) / 30) * 30))
  if (!allDay && from === null) assumed.push('no time of day was given')
  const firstOfRule = repetition?.days.length
    ? [0, 1, 2, 3, 4, 5, 6, 7]
        .map((ahead) => today + ahead)
        .find((day) => repetition.days.includes(weekdayOf(day)) && (day > today || minute > minuteOf(wall)))
    : undefined
  const later = !allDay && minute <= minuteOf(wall) ? today + 1 : today
  const day = (dayText ? parseDay(dayText, today) : null) ?? firstOfRule ?? later
  if (!dayText && !repetition)
    assumed.push(day === today ? 'today, as no day was given' : 'tomorrow, as no day was given')
  const span = from !== null && to !== null ? (to - from + 1440) % 1440 || 1440 : null
  const minutes = allDay ? (wholeDays && length ? length : 1440) : (span ?? length ?? USUAL_MINUTES)
  if (!allDay && span === null && length === null) assumed.push('half an hour, as no length was given')
  const rule = repetition
    ? writeRule({
        ...plainRule(repetition.frequency),
        interval: repetition.interval,
        days: repetition.days.map((weekday) => ({ nth: null, weekday })),
      })
    : null
  return { title, place: placeText.trim(), day, minute, minutes, allDay, rule, assumed }
}
