import type { Meeting } from '@marmot/contract/meetings'
import { type Scope, textOfNote } from '@marmot/core/entries'
import {
  clockText,
  type Day,
  dayOf,
  type Instant,
  instantOf,
  MINUTE,
  minutesBetween,
  parseClock,
  toWall,
  wallFromText,
  wallText,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import { readTyped, typedTime } from '../entries/typed.ts'
import type { WantedBody } from './writes.ts'

/** Somebody who is to take part, beside the organizer. */
export interface Member {
  /** A person's id, or a guest's address. */
  readonly key: string
  readonly personId: string | null
  readonly address: string
  readonly name: string
  /** Where they are; null for a guest. */
  readonly zone: string | null
  readonly required: boolean
}

/** A time as it stands in the fields, in my own zone; a date without a year is the one nearest to the day `near`. */
interface TimeFields {
  readonly day: string
  readonly from: string
  readonly until: string
  readonly near: Day
}

/** What can be changed of a meeting, as it stands in the fields. */
export interface Fields extends TimeFields {
  readonly title: string
  readonly note: string
  readonly places: readonly string[]
  readonly members: readonly Member[]
}

/** A time as it is first written into the fields. */
export const timeFields = (start: Instant, end: Instant, zone: ZoneTable): TimeFields => ({
  ...typedTime(start, end, zone.zone, false),
  near: dayOf(toWall(zone, start)),
})

/** A meeting's fields as they are. */
export const fieldsOf = (meeting: Meeting, zone: ZoneTable): Fields => ({
  title: meeting.title,
  note: textOfNote(meeting.note),
  ...timeFields(Date.parse(meeting.start), Date.parse(meeting.end), zone),
  places: meeting.places.map((place) => place.id),
  members: meeting.participants.flatMap((one): Member[] =>
    one.organizer ? [] : [{ ...one, key: one.personId ?? one.address }],
  ),
})

/** The time that the fields mean, in milliseconds, and what is wrong with them. */
export const readTime = (
  fields: Fields,
  zone: ZoneTable,
  today: Day,
): { start: Instant; end: Instant; errors: ReturnType<typeof readTyped>['errors'] } => {
  const { starts, minutes, errors } = readTyped({ ...fields, allDay: false }, fields.near, today)
  const start = instantOf(zone, wallFromText(starts) ?? 0)
  return { start, end: start + minutes * MINUTE, errors }
}

/** The end that keeps a length, in minutes, when something begins at another clock; as it was where that is not one. */
export const endFor = (fields: Pick<Fields, 'until'>, from: string, minutes: number): string => {
  const begins = parseClock(from)
  const isClock = parseClock(fields.until) !== null
  return begins === null || !isClock || minutes >= 1440 ? fields.until : clockText((begins + minutes) % 1440)
}

const byKey = (members: readonly Member[]): string =>
  JSON.stringify(members.map(({ key, required }) => [key, required]).sort())

const sorted = (ids: readonly string[]): string => [...ids].sort().join()

/** What of the fields is another than in the meeting, as it is sent; null where nothing is. */
export const wantedOf = (
  meeting: Meeting,
  fields: Fields,
  scope: Scope,
  zone: ZoneTable,
  today: Day,
): WantedBody | null => {
  const before = fieldsOf(meeting, zone)
  const [wasStart, wasEnd] = [Date.parse(meeting.start), Date.parse(meeting.end)]
  const { start, end } = readTime(fields, zone, today)
  const other: Partial<WantedBody> = {
    ...(fields.title.trim() === before.title ? {} : { title: fields.title.trim() }),
    ...(fields.note === before.note ? {} : { note: fields.note }),
    ...(start === wasStart ? {} : { starts: wallText(toWall(zoneTable(meeting.zone), start)) }),
    ...(end - start === wasEnd - wasStart ? {} : { minutes: minutesBetween(start, end) }),
    ...(sorted(fields.places) === sorted(before.places) ? {} : { places: [...fields.places] }),
    ...(byKey(fields.members) === byKey(before.members) ? {} : peopleOf(fields.members)),
  }
  if (Object.keys(other).length === 0) return null
  return {
    ...other,
    version: meeting.version,
    ...(meeting.recurrence === null ? {} : { recurrence: meeting.recurrence, scope }),
  }
}

const peopleOf = (members: readonly Member[]) => ({
  people: members.flatMap(({ personId, required }) => (personId ? [{ id: personId, required }] : [])),
  guests: members.flatMap(({ personId, address, name, required }) =>
    personId ? [] : [{ address, name: name === address ? '' : name, required }],
  ),
})
