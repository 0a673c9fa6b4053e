import { readRule, writeRule } from '../recurrence/index.ts'
import type { SpanState } from '../sharing/index.ts'
import { dayOf, type Instant, toWall, type Wall, wallOf, zoneTable } from '../time/index.ts'

/** One date of an imported or exported series that differs from its rule. What is null is as in the series. */
export interface CalendarOverride {
  readonly recurrence: Wall
  readonly cancelled: boolean
  readonly starts: Wall | null
  readonly minutes: number | null
  readonly title: string | null
  readonly place: string | null
  readonly note: string | null
  readonly shows: SpanState | null
  readonly private: boolean | null
}

/** Somebody named in an entry from elsewhere. */
export interface Contact {
  readonly name: string
  readonly address: string
  readonly organizer: boolean
  readonly required: boolean
  /** RFC 5545 PARTSTAT, in lower case. */
  readonly answer: string
}

/** Says at which site an entry is out of doors; iCalendar has no word for it. */
export const OUTDOORS = 'x-marmot-outdoors'

/** An entry as it goes out to, or comes in from, iCalendar. Walls are in `zone`; `note` is HTML. */
export interface CalendarEntry {
  readonly uid: string
  readonly zone: string
  readonly starts: Wall
  readonly minutes: number
  readonly allDay: boolean
  readonly rule: string | null
  readonly added: readonly Wall[]
  readonly excepted: readonly Wall[]
  readonly overrides: readonly CalendarOverride[]
  readonly title: string
  readonly place: string
  readonly note: string
  readonly shows: SpanState
  readonly private: boolean
  /** At which site it is out of doors, by its name; left out where nothing is said of it. */
  readonly outdoors?: string | null
  readonly category: string | null
  /** Minutes before the start. */
  readonly reminders: readonly number[]
  readonly contacts: readonly Contact[]
  /** RFC 5545 SEQUENCE and DTSTAMP: of two with one UID, the later counts. Null where it was not said. */
  readonly sequence: number
  readonly stamp: Instant | null
}

/** An entry of one date, of which no more is said than is given. */
export const entryOf = (
  said: Pick<CalendarEntry, 'uid' | 'zone' | 'starts' | 'minutes'> & Partial<CalendarEntry>,
): CalendarEntry => ({
  allDay: false,
  rule: null,
  added: [],
  excepted: [],
  overrides: [],
  title: '',
  place: '',
  note: '',
  shows: 'busy',
  private: false,
  category: null,
  reminders: [],
  contacts: [],
  sequence: 0,
  stamp: null,
  ...said,
})

/**
 * A series as it goes out for somebody who takes part in all of its dates but `otherwise`, or in none but those; null where
 * no date is theirs.
 */
export const partOfEntry = (
  whole: CalendarEntry,
  { everyDate, otherwise }: { readonly everyDate: boolean; readonly otherwise: readonly Wall[] },
): CalendarEntry | null => {
  const listed = new Set(otherwise)
  if (everyDate)
    return {
      ...whole,
      excepted: [...new Set([...whole.excepted, ...otherwise])],
      overrides: whole.overrides.filter((one) => !listed.has(one.recurrence)),
    }
  const [first, ...rest] = otherwise.toSorted((a, b) => a - b)
  if (first === undefined) return null
  const overrides = whole.overrides.filter((one) => listed.has(one.recurrence))
  const set = { ...whole, rule: null, excepted: [], starts: first, added: rest, overrides }
  const [own] = overrides
  if (rest.length > 0 || !own) return set
  return {
    ...set,
    overrides: [],
    starts: own.starts ?? first,
    minutes: own.minutes ?? whole.minutes,
    title: own.title ?? whole.title,
    place: own.place ?? whole.place,
    note: own.note ?? whole.note,
    shows: own.shows ?? whole.shows,
    private: own.private ?? whole.private,
  }
}

/** What tells an older version of an entry from a newer one (RFC 5546 section 2.1.5). */
export type Revision = Pick<CalendarEntry, 'sequence' | 'stamp'>

/** Whether `one` was written after `other`; false for the same, and where nothing tells. */
export const isNewer = (one: Revision, other: Revision): boolean =>
  one.sequence !== other.sequence
    ? one.sequence > other.sequence
    : one.stamp !== null && other.stamp !== null && one.stamp > other.stamp

/** A rule as it is meant in its zone, so that UNTIL in UTC and in wall time are the same, and a date is its whole day. */
const meantRule = ({ rule, zone, allDay }: CalendarEntry): string | null => {
  if (rule === null) return null
  const read = readRule(rule)
  if (!read.until) return writeRule(read)
  const wall = read.until.utc ? toWall(zoneTable(zone), read.until.wall) : read.until.wall
  return writeRule({ ...read, until: { wall: allDay ? wallOf(dayOf(wall)) : wall, utc: false } })
}

const ordered = (entry: CalendarEntry) => ({
  zone: entry.zone,
  starts: entry.starts,
  minutes: entry.minutes,
  allDay: entry.allDay,
  rule: meantRule(entry),
  added: [...entry.added].sort((a, b) => a - b),
  // A date that was called off is one that is left out, however it is written.
  excepted: [
    ...new Set([
      ...entry.excepted,
      ...entry.overrides.flatMap((one) => (one.cancelled ? one.recurrence : [])),
    ]),
  ].sort((a, b) => a - b),
  overrides: entry.overrides
    .filter((one) => !one.cancelled)
    .sort((a, b) => a.recurrence - b.recurrence)
    .map((one) => [
      one.recurrence,
      one.starts,
      one.minutes,
      one.title,
      one.place,
      one.note,
      one.shows,
      one.private,
    ]),
  title: entry.title,
  place: entry.place,
  note: entry.note,
  shows: entry.shows,
  private: entry.private,
  outdoors: entry.outdoors ?? null,
  category: entry.category,
  reminders: [...entry.reminders].sort((a, b) => a - b),
  contacts: entry.contacts.map((one) => [one.name, one.address, one.organizer, one.required, one.answer]),
})

/** Whether two entries mean the same, whatever order their parts are in. */
export const sameEntry = (one: CalendarEntry, other: CalendarEntry): boolean =>
  JSON.stringify(ordered(one)) === JSON.stringify(ordered(other))
