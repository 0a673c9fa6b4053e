import {
  civilOf,
  clockText,
  type Day,
  dayInWords,
  dayOf,
  daysAway,
  type Instant,
  instantOf,
  minuteOf,
  shortDay,
  toWall,
  type Wall,
  wallOf,
  type ZoneTable,
} from '../time/index.ts'

/** When a to-do is due: on a day, wherever one is; or at a time on the clock of a zone. */
export type Due = { readonly day: Day } | { readonly wall: Wall; readonly zone: ZoneTable }

/** How urgent it is (RFC 5545 PRIORITY: 1 to 4 high, 5 usual, 6 to 9 low, 0 not said). */
export const PRIORITIES = ['high', 'usual', 'low'] as const
export type Priority = (typeof PRIORITIES)[number]

/** RFC 5545 section 3.8.1.9. */
export const priorityOf = (number: number): Priority =>
  number >= 1 && number <= 4 ? 'high' : number >= 6 ? 'low' : 'usual'

/** The day on which it is due, on the calendar of whoever looks. */
export const dueDay = (due: Due, home: ZoneTable): Day =>
  'day' in due ? due.day : dayOf(toWall(home, instantOf(due.zone, due.wall)))

/** From when on it is late: the end of its day where one looks, or its time. */
export const lateFrom = (due: Due, home: ZoneTable): Instant =>
  'day' in due ? instantOf(home, wallOf(due.day + 1)) : instantOf(due.zone, due.wall)

/** How a to-do that is not done stands. */
export type Standing = 'late' | 'today' | 'week' | 'later' | 'no-day'

/** The order in which they are shown, each with its heading. */
export const STANDINGS: readonly { readonly id: Standing; readonly words: string }[] = [
  { id: 'late', words: 'Was due' },
  { id: 'today', words: 'Today' },
  { id: 'week', words: 'In the next 7 days' },
  { id: 'later', words: 'Later' },
  { id: 'no-day', words: 'No day' },
]

export const standingOf = (due: Due | null, now: Instant, home: ZoneTable): Standing => {
  if (!due) return 'no-day'
  if (lateFrom(due, home) <= now) return 'late'
  const ahead = dueDay(due, home) - dayOf(toWall(home, now))
  return ahead <= 0 ? 'today' : ahead <= 7 ? 'week' : 'later'
}

/** "today", "today at 15:00", "Fri 27 Nov", "Mon 16 Nov, 7 days ago"; the year where it is another. */
export const dueInWords = (due: Due, now: Instant, home: ZoneTable): string => {
  const today = dayOf(toWall(home, now))
  const day = dueDay(due, home)
  const clock = 'day' in due ? '' : ` at ${clockText(minuteOf(toWall(home, instantOf(due.zone, due.wall))))}`
  const near = Math.abs(day - today) <= 1
  const named = civilOf(day).year === civilOf(today).year ? shortDay(day) : dayInWords(day, today)
  const ago = day < today - 1 ? `, ${daysAway(day, today)}` : ''
  return `${near ? daysAway(day, today) : named}${clock}${ago}`
}

interface Ordered {
  readonly due: Due | null
  readonly priority: number
  readonly title: string
}

/** What is due first comes first, then what is more urgent, then by title; what has no day comes last. */
export const inDueOrder =
  (home: ZoneTable) =>
  (one: Ordered, other: Ordered): number => {
    const at = ({ due }: Ordered) => (due ? lateFrom(due, home) : Number.POSITIVE_INFINITY)
    const rank = ({ priority }: Ordered) => PRIORITIES.indexOf(priorityOf(priority))
    const [first, second] = [at(one), at(other)]
    if (first !== second) return first < second ? -1 : 1
    return rank(one) - rank(other) || one.title.localeCompare(other.title)
  }
