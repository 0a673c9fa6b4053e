import type { listEntries } from '@marmot/contract/entries'
import { DAY, type Instant } from '@marmot/core/time'
import type { z } from 'zod'

type Entries = z.output<typeof listEntries.answer>

/** My own entries over the weeks that are kept for when there is no network. */
export interface Weeks {
  readonly from: Instant
  readonly to: Instant
  readonly entries: Entries
}

const BEFORE = 7 * DAY
const AFTER = 49 * DAY

/** Which weeks are kept, seen from an instant: the same all day long, so that they are not fetched anew at every step. */
export const weeksAround = (now: Instant): { from: Instant; to: Instant } => {
  const day = Math.floor(now / DAY) * DAY
  return { from: day - BEFORE, to: day + AFTER }
}

/** The entries of a range as the weeks that were kept know them. Of what lies outside of those nothing is known: never free. */
export const entriesFrom = ({ entries, ...weeks }: Weeks, range: { from: Instant; to: Instant }): Entries => {
  const within = <T extends { start: string; end: string }>(list: readonly T[]): T[] =>
    list.filter((one) => Date.parse(one.end) > range.from && Date.parse(one.start) < range.to)
  const text = (at: Instant) => new Date(at).toISOString()
  return {
    ...entries,
    occurrences: within(entries.occurrences),
    gaps: within(entries.gaps),
    elsewhere: within(entries.elsewhere),
    daysOff: within(entries.daysOff),
    unknown: [
      ...within(entries.unknown).map((part) => ({
        start: Date.parse(part.start),
        end: Date.parse(part.end),
      })),
      { start: range.from, end: Math.min(range.to, weeks.from) },
      { start: Math.max(range.from, weeks.to), end: range.to },
    ]
      .filter((part) => part.end > part.start)
      .map((part) => ({ start: text(part.start), end: text(part.end) })),
    due: entries.due.filter((todo) => {
      const due = todo.due === null ? Number.NaN : Date.parse(`${todo.due}Z`)
      return due > range.from - DAY && due < range.to + DAY
    }),
    mayChange: false,
  }
}
