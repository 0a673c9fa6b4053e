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
  type ZoneTable,
} from '../time/index.ts'

/** A to-do as it was understood from one line. */
export interface ReadTodo {
  readonly title: string
  /** The day on which it is due; null where none was given. */
  readonly day: Day | null
  /** Minutes since midnight; null for the day as such. */
  readonly minute: number | null
  /** How long it takes; null where that was not said. */
  readonly minutes: number | null
  readonly urgent: boolean
}

const BEGINNING = /^\s*(?:to-?\s?do|todos)(?:\s*:|\s|$)/i

/** Whether a line is to be a to-do rather than an entry: it begins with "todo". */
export const isTodoLine = (text: string): boolean => BEGINNING.test(text)

/**
 * Reads a to-do from one line: "todo order saw blades fri", "to do: call the workshop tomorrow 15:00 10m !". Whatever is not
 * understood stays in the title. Null when there is no title.
 */
export const readTodoLine = (text: string, now: Instant, table: ZoneTable): ReadTodo | null => {
  const wall = toWall(table, now)
  const today = dayOf(wall)
  const { take, left } = lineReader(text.replace(BEGINNING, ''))
  const urgent = take(String.raw`\s?(!+)(?=\s)`) !== null
  const clock = take(String.raw`\s(?:by\s|at\s|until\s)?(${CLOCK_TYPED})(?=\s)`)?.[0]
  const length = take(String.raw`\s(?:for\s|takes\s)?(${LENGTH_TYPED})(?=\s)`)?.[0]
  const dayText = take(String.raw`\s(?:by\s|on\s|until\s|due\s)?(${DATE_TYPED})(?=\s)`)?.[0]
  const title = left().replace(/\s+/g, ' ').trim()
  if (!title) return null
  const minute = parseClock(clock ?? '')
  const given = dayText ? parseDay(dayText, today) : null
  // A time alone is its next one.
  const next = minute === null ? null : minute > minuteOf(wall) ? today : today + 1
  return {
    title: title.charAt(0).toUpperCase() + title.slice(1),
    day: given ?? next,
    minute,
    minutes: length ? parseLength(length.replace(/(h)\s?(\d{1,2})$/i, '$1$2m')) : null,
    urgent,
  }
}
