import { BadRule, occurrencesWithin } from '../recurrence/index.ts'
import type { SpanState } from '../sharing/index.ts'
import { DAY, type Instant, instantOf, MINUTE, zoneTable } from '../time/index.ts'
import type { CalendarEntry } from './entry.ts'
import type { ReadCalendar, Refused } from './read.ts'
import type { CalendarTodo } from './todo.ts'

/** One date of a calendar, or one of its busy times. `unknown` is a time of which the calendar says what we cannot read. */
export interface CalendarSpan {
  readonly start: Instant
  readonly end: Instant
  readonly state: SpanState | 'unknown'
  readonly title: string
  readonly place: string
}

export interface CalendarSpans {
  readonly spans: readonly CalendarSpan[]
  /** What was not understood, and so makes its time unknown. */
  readonly unread: readonly Refused[]
}

/** A calendar that gives more dates than are kept. */
export class TooManyDates extends Error {}

/** So many dates of one series are looked at before it is taken to be nobody's calendar: four an hour for a year. */
const MOST_OF_ONE = 40_000

const datesOf = (entry: CalendarEntry, from: Instant, to: Instant, doubtful: boolean): CalendarSpan[] => {
  const own = new Map(entry.overrides.map((one) => [one.recurrence, one]))
  return occurrencesWithin(entry, entry.overrides, zoneTable(entry.zone), from, to, MOST_OF_ONE).map(
    (date) => {
      const words = own.get(date.recurrence)
      return {
        start: date.start,
        end: date.end,
        state: doubtful ? 'unknown' : (words?.shows ?? entry.shows),
        title: words?.title ?? entry.title,
        place: words?.place ?? entry.place,
      }
    },
  )
}

/** What is to be done, on the day or at the time it is due: it takes no time. Nothing of what is done, or due at no time. */
const dueSpan = (todo: CalendarTodo, from: Instant, to: Instant): CalendarSpan[] => {
  if (todo.due === null || todo.done) return []
  const table = zoneTable(todo.zone)
  const start = instantOf(table, todo.due)
  const end = todo.dueAllDay ? instantOf(table, todo.due + DAY) : start + DUE_MINUTES * MINUTE
  return end > from && start < to
    ? [{ start, end, state: 'listed', title: `To do: ${todo.title || '(no title)'}`, place: '' }]
    : []
}

/** What is due at a time is drawn so long: long enough to be seen. */
const DUE_MINUTES = 15

/**
 * What stands in a calendar in `[from, to)`: its entries date by date, its busy times, and as unknown whatever could
 * not be understood: never free. Throws `TooManyDates` before it makes more than `most` of them.
 */
export const calendarSpans = (
  read: ReadCalendar,
  from: Instant,
  to: Instant,
  most: number,
): CalendarSpans => {
  const spans: CalendarSpan[] = []
  const unread = read.refused.filter((one) => one.unknown !== null)
  const keep = (more: readonly CalendarSpan[]) => {
    if (spans.length + more.length > most) throw new TooManyDates(`It has more than ${most} dates.`)
    for (const span of more) spans.push(span)
  }
  const all = [...read.entries.map((entry) => ({ entry, doubtful: false })), ...read.beyond]
  for (const { entry, doubtful } of all) {
    try {
      keep(datesOf(entry, from, to, doubtful))
    } catch (error) {
      if (!(error instanceof BadRule)) throw error
      // So many dates that they are as good as always: from its first day on nothing is known.
      const start = Math.max(from, entry.starts - DAY)
      keep([{ start, end: to, state: 'unknown', title: entry.title, place: '' }])
      unread.push({ line: 0, title: entry.title, reason: error.message, unknown: { from: start, to } })
    }
  }
  keep(
    read.busy
      .filter((span) => span.end > span.start && span.end > from && span.start < to)
      .map((span) => ({ ...span, title: '', place: '' })),
  )
  keep(
    read.refused.flatMap(({ title, unknown }) => {
      // Doubtful dates stand among the others already; their time here is empty.
      if (!unknown || unknown.to <= Math.max(from, unknown.from) || unknown.from >= to) return []
      const [start, end] = [Math.max(from, unknown.from), Math.min(to, unknown.to)]
      return [{ start, end, state: 'unknown' as const, title, place: '' }]
    }),
  )
  keep(read.todos.flatMap((todo) => dueSpan(todo, from, to)))
  const { covers } = read
  if (covers)
    keep(
      [
        { start: from, end: Math.min(to, covers.from) },
        { start: Math.max(from, covers.to), end: to },
      ]
        .filter((part) => part.end > part.start)
        .map((part) => ({ ...part, state: 'unknown' as const, title: '', place: '' })),
    )
  return { spans, unread }
}
