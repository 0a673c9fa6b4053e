import type { Meeting } from '@marmot/contract/meetings'
import type { Scope } from '@marmot/core/entries'
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
  /** Of a series: whether they take part in the date that it is seen at, and whether they were asked to all of its dates. */
  readonly here: boolean
  readonly everyDate: boolean
  /** Asked to some dates alone until now, and from now on to all. */
  readonly toAll?: boolean
}

/** A time as it stands in the fields, in my own zone; a date without a year is the one nearest to the day `near`. */
export interface TimeFields {
  readonly day: string
  readonly from: string
  readonly until: string
  readonly near: Day
}

/** What can be changed of a meeting, as it stands in the fields. */
export interface Fields extends TimeFields {
  readonly title: string
  readonly note: string
  /** Whether those who are invited are asked for an answer. */
  readonly rsvp: boolean
  /** Whether one can join it from afar. */
  readonly conference: boolean
  readonly places: readonly string[]
  /** What a reservation is for, how many will be there, and whether it takes its person’s time. */
  readonly purpose: string
  readonly headCount: number | null
  /** At which site it is out of doors; null under a roof. */
  readonly outdoors: string | null
  readonly takesTime: boolean
  readonly members: readonly Member[]
}

/** A time as it is first written into the fields. */
export const timeFields = (start: Instant, end: Instant, zone: ZoneTable): TimeFields => ({
  ...typedTime(start, end, zone.zone, false),
  near: dayOf(toWall(zone, start)),
})

const memberOf =
  (here: boolean) =>
  (one: Meeting['participants'][number]): Member[] =>
    one.organizer ? [] : [{ ...one, key: one.personId ?? one.address, here }]

/** Everybody who takes part in any date of a meeting, beside the organizer. */
export const membersOf = (meeting: Meeting): Member[] => [
  ...meeting.participants.flatMap(memberOf(true)),
  ...meeting.elsewhere.flatMap(memberOf(false)),
]

/** Those of whom a change speaks: of one date who takes part in it, else everybody. */
export const inScope = (members: readonly Member[], scope: Scope): readonly Member[] =>
  scope === 'this' ? members.filter((one) => one.here) : members

/** People who were chosen elsewhere, as members of a meeting: who was known stays what they were, and other dates have theirs. */
export const asMembers = (
  chosen: readonly Omit<Member, 'here' | 'everyDate'>[],
  meeting: Meeting,
): Member[] => {
  const known = new Map(membersOf(meeting).map((one) => [one.key, one]))
  const keys = new Set(chosen.map((one) => one.key))
  return [
    ...chosen.map((one) => ({ ...one, here: true, everyDate: known.get(one.key)?.everyDate ?? true })),
    ...[...known.values()].filter((one) => !one.here && !keys.has(one.key)),
  ]
}

/** Those of whom a change is sent. Whether somebody must come holds for all dates of a series, and so is not changed for one. */
const settled = (members: readonly Member[], meeting: Meeting, scope: Scope): readonly Member[] => {
  if (scope !== 'this' || !meeting.repeats) return inScope(members, scope)
  const known = new Map(membersOf(meeting).map((one) => [one.key, one.required]))
  return inScope(members, scope).map((one) => ({ ...one, required: known.get(one.key) ?? one.required }))
}

/** The members with more of them: somebody of other dates takes part in this one, or from now on in all. */
export const withMore = (members: readonly Member[], fresh: readonly Member[], scope: Scope): Member[] => {
  const added = new Set(fresh.map((one) => one.key))
  const known = new Set(members.map((one) => one.key))
  const taken = (one: Member): Member =>
    scope === 'this' ? { ...one, here: true } : { ...one, toAll: !one.everyDate }
  return [
    ...members.map((one) => (added.has(one.key) ? taken(one) : one)),
    ...fresh.filter((one) => !known.has(one.key)),
  ]
}

/** The members without somebody: of one date they may still be in others. */
export const without = (members: readonly Member[], key: string, scope: Scope): Member[] =>
  scope === 'this'
    ? members.map((one) => (one.key === key ? { ...one, here: false } : one))
    : members.filter((one) => one.key !== key)

/** How many somebody means by what they type; null for nothing. */
export const headCountIn = (text: string): number | null => {
  const count = Number.parseInt(text, 10)
  return Number.isNaN(count) ? null : Math.max(1, Math.min(10_000, count))
}

/** A meeting's fields as they are. */
export const fieldsOf = (meeting: Meeting, zone: ZoneTable): Fields => ({
  title: meeting.title,
  note: meeting.note,
  rsvp: meeting.rsvp,
  conference: meeting.conference !== null,
  ...timeFields(Date.parse(meeting.start), Date.parse(meeting.end), zone),
  places: meeting.places.map((place) => place.id),
  purpose: meeting.purpose,
  headCount: meeting.headCount,
  outdoors: meeting.outdoorsSaid,
  takesTime: meeting.shows !== 'listed',
  members: membersOf(meeting),
})

/** The time that the fields mean, in milliseconds, and what is wrong with them. */
export const readTime = (
  fields: TimeFields,
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
  JSON.stringify(members.map(({ key, required, toAll = false }) => [key, required, toAll]).sort())

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
  const members = settled(fields.members, meeting, scope)
  const other: Partial<WantedBody> = {
    ...(fields.title.trim() === before.title ? {} : { title: fields.title.trim() }),
    ...(fields.note === before.note ? {} : { note: fields.note }),
    ...(fields.rsvp === before.rsvp ? {} : { rsvp: fields.rsvp }),
    ...(fields.conference === before.conference ? {} : { conference: fields.conference }),
    ...(start === wasStart ? {} : { starts: wallText(toWall(zoneTable(meeting.zone), start)) }),
    ...(end - start === wasEnd - wasStart ? {} : { minutes: minutesBetween(start, end) }),
    ...(fields.purpose.trim() === before.purpose ? {} : { purpose: fields.purpose.trim() }),
    ...(fields.headCount === before.headCount ? {} : { headCount: fields.headCount }),
    ...(fields.outdoors === before.outdoors ? {} : { outdoors: fields.outdoors }),
    ...(fields.takesTime === before.takesTime
      ? {}
      : { shows: fields.takesTime ? ('busy' as const) : ('listed' as const) }),
    ...(sorted(fields.places) === sorted(before.places) ? {} : { places: [...fields.places] }),
    ...(byKey(members) === byKey(inScope(before.members, scope)) ? {} : peopleOf(members)),
  }
  if (Object.keys(other).length === 0) return null
  return {
    ...other,
    version: meeting.version,
    ...(meeting.recurrence === null ? {} : { recurrence: meeting.recurrence, scope }),
  }
}

const EVERY_DATE = { everyDate: true } as const

const peopleOf = (members: readonly Member[]) => ({
  people: members.flatMap(({ personId, required, toAll }) =>
    personId ? [{ id: personId, required, ...(toAll ? EVERY_DATE : {}) }] : [],
  ),
  guests: members.flatMap(({ personId, address, name, required, toAll }) =>
    personId ? [] : [{ address, name: name === address ? '' : name, required, ...(toAll ? EVERY_DATE : {}) }],
  ),
})
