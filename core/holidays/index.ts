import type { BusySpan } from '../availability/index.ts'
import { type Day, instantOf, wallOf, type ZoneTable } from '../time/index.ts'

/** Days on which a site is off, from the first to the last: a public holiday, or days on which it is closed. */
export interface OffDays {
  readonly first: Day
  /** Counts, too. */
  readonly last: Day
  readonly name: string
}

/** A day off on a lane: it always says what it is called. */
export interface OffSpan extends BusySpan {
  readonly state: 'away'
  readonly title: string
  readonly dayOff: true
  /** The zone whose whole days these are. */
  readonly wholeDays: string
}

/** So many names stand beside one another; of more it is said how many. */
const MOST_NAMES = 2

const joined = (names: readonly string[]): string => {
  const some = names.slice(0, MOST_NAMES)
  return names.length > some.length
    ? `${some.join(', ')} and ${names.length - some.length} more`
    : some.join(' and ')
}

/** Days off with those that overlap as one: two holidays on one day are one day off, called by both. In order. */
const merged = (days: readonly OffDays[]): { first: Day; last: Day; names: string[] }[] => {
  const runs: { first: Day; last: Day; names: string[] }[] = []
  // Of two that begin together the longer names them first.
  for (const { first, last, name } of [...days].sort((a, b) => a.first - b.first || b.last - a.last)) {
    const run = runs.at(-1)
    if (!run || first > run.last) runs.push({ first, last, names: [name] })
    else {
      run.last = Math.max(run.last, last)
      if (!run.names.includes(name)) run.names.push(name)
    }
  }
  return runs
}

/**
 * A site's days off as they stand on a lane in a zone: whole days there, away, titled with their names. Days on which its
 * owner works all the same are left out.
 */
export const offSpans = (days: readonly OffDays[], worked: ReadonlySet<Day>, table: ZoneTable): OffSpan[] =>
  merged(days).flatMap(({ first, last, names }) => {
    const spans: OffSpan[] = []
    const title = joined(names)
    let from = first
    const close = (until: Day) => {
      if (until > from)
        spans.push({
          start: instantOf(table, wallOf(from)),
          end: instantOf(table, wallOf(until)),
          state: 'away',
          title,
          dayOff: true,
          wholeDays: table.zone,
        })
      from = until + 1
    }
    for (const day of [...worked].sort((a, b) => a - b)) if (day >= from && day <= last) close(day)
    close(last + 1)
    return spans
  })
