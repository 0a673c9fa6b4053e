import type { Joining } from '../conferences/index.ts'
import { endsSooner, lastOf, nextDates, type Series } from '../recurrence/index.ts'
import {
  DAY,
  type Instant,
  instantOf,
  MINUTE,
  toWall,
  type Wall,
  wallFromText,
  wallText,
  zoneTable,
} from '../time/index.ts'

/** One date of a series that differs from the others; null is as they are. Walls as `YYYY-MM-DDTHH:mm`. */
export interface ToldDate {
  readonly recurrence: string
  readonly starts: string | null
  readonly minutes: number | null
  readonly title: string | null
  readonly note: string | null
  readonly place: string | null
}

/**
 * What somebody knows of a meeting that they take part in: all that a letter can tell them. Walls in `zone`. It travels
 * and is kept as JSON.
 */
export interface Told {
  readonly title: string
  readonly note: string
  readonly place: string
  readonly zone: string
  readonly starts: string
  readonly minutes: number
  readonly rule: string | null
  readonly added: readonly string[]
  readonly excepted: readonly string[]
  readonly changes: readonly ToldDate[]
  /** Dates that were called off. */
  readonly cancelled: readonly string[]
  /** Whether they must come, or may. */
  readonly required: boolean
  /** Whether they are asked for an answer (RFC 5545 RSVP). */
  readonly rsvp: boolean
  /** How they join it from afar, where they can. */
  readonly conference: Joining | null
}

/** In which dates of a series somebody takes part: in all but `otherwise`, or in none but those. Walls that name the dates. */
export interface Part {
  readonly everyDate: boolean
  readonly otherwise: readonly string[]
}

/**
 * What somebody who takes part in some dates of a series is told of it, from all that there is to tell; null where no date
 * is theirs. Dates that they are let off are off for them. Who is asked to some dates alone is told of those, one as a
 * meeting by itself and several by their dates (RFC 5545 section 3.8.5.2, RDATE), and nothing of how the series goes on.
 */
export const partOf = (whole: Told, { everyDate, otherwise }: Part): Told | null => {
  if (everyDate)
    return otherwise.length === 0
      ? whole
      : {
          ...whole,
          changes: whole.changes.filter((one) => !otherwise.includes(one.recurrence)),
          cancelled: [...new Set([...whole.cancelled, ...otherwise])].sort(),
        }
  const [first, ...rest] = otherwise.filter((one) => !whole.cancelled.includes(one)).sort()
  if (first === undefined) return null
  const set = { ...whole, rule: null, excepted: [], cancelled: [] }
  if (rest.length > 0)
    return {
      ...set,
      starts: first,
      added: rest,
      changes: whole.changes.filter((one) => otherwise.includes(one.recurrence)),
    }
  const own = whole.changes.find((one) => one.recurrence === first)
  return {
    ...set,
    added: [],
    changes: [],
    starts: own?.starts ?? first,
    minutes: own?.minutes ?? whole.minutes,
    title: own?.title ?? whole.title,
    note: own?.note ?? whole.note,
    place: own?.place ?? whole.place,
  }
}

/** What has to be written to somebody, so that they know what is true. */
export interface Owed {
  readonly method: 'REQUEST' | 'CANCEL'
  /** The one date of a series that it is about; null for the meeting, or all of its dates. */
  readonly recurrence: string | null
  /** The dates at which, or at whose place, they were not expected before: what they said of those holds no more. */
  readonly askAgain: 'all' | readonly string[]
}

const ALL_TIME = ['zone', 'starts', 'minutes', 'rule', 'added', 'excepted', 'place'] as const
const ALL_WORDS = ['title', 'note', 'required', 'rsvp', 'conference'] as const
const DATE_TIME = ['starts', 'minutes', 'place'] as const

/** Objects by their names in order: what comes from the database has them in another. */
const inOrder = (_name: string, value: unknown): unknown =>
  value !== null && typeof value === 'object' && !Array.isArray(value)
    ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
    : value

const same = (one: unknown, other: unknown): boolean =>
  JSON.stringify(one, inOrder) === JSON.stringify(other, inOrder)

const DATE_FIELDS = ['starts', 'minutes', 'title', 'note', 'place'] as const

const OFF = 'off'
type HowIsDate = ToldDate | typeof OFF | undefined

/** Each date of which something is known beyond the rule: how it differs, or that it is off. */
const datesOf = ({ changes, cancelled }: Told): Map<string, HowIsDate> =>
  new Map<string, HowIsDate>([
    ...changes.map((one): [string, HowIsDate] => [one.recurrence, one]),
    ...cancelled.map((recurrence): [string, HowIsDate] => [recurrence, OFF]),
  ])

const EXTENT = ['rule', 'added', 'excepted'] as const

/** Whether a series goes as it did and only ends sooner: no date of it is at another time or place. */
const isCut = (told: Told, now: Told): boolean =>
  ALL_TIME.every((name) => EXTENT.some((one) => one === name) || same(told[name], now[name])) &&
  endsSooner(told.rule, now.rule) &&
  now.added.every((wall) => told.added.includes(wall)) &&
  now.excepted.every((wall) => told.excepted.includes(wall))

const sameDate = (one: HowIsDate, other: HowIsDate): boolean =>
  one === OFF || other === OFF || one === undefined || other === undefined
    ? one === other
    : DATE_FIELDS.every((name) => one[name] === other[name])

const isElsewhere = (before: HowIsDate, now: HowIsDate): boolean => {
  if (now === OFF) return false
  if (before === OFF) return true
  return DATE_TIME.some((name) => (before?.[name] ?? null) !== (now?.[name] ?? null))
}

/** Whether it is a number of dates, each by itself, or a single one. */
const isSet = ({ rule, cancelled }: Told): boolean => rule === null && cancelled.length === 0

const datesOfSet = (set: Told) =>
  [set.starts, ...set.added].map((recurrence) => ({ recurrence, ...toldOf(set, recurrence) }))

/** Those dates of a set at whose time or place there was none of another. */
const newIn = (now: Told, told: Told) => {
  const timeOf = ({ start, end, place }: ToldTime) => JSON.stringify([start, end, place])
  const known = new Set(datesOfSet(told).map(timeOf))
  return datesOfSet(now).filter((one) => !known.has(timeOf(one)))
}

/** What has to be told of dates that follow no rule: all of them in one, and asked again is for those that are new. */
const owedOfSets = (told: Told, now: Told): Owed | null => {
  const [before, after] = [datesOfSet(told), datesOfSet(now)]
  const fresh = newIn(now, told)
  const wordsOf = ({ recurrence: _, ...words }: (typeof after)[number]) => words
  if (same(before.map(wordsOf), after.map(wordsOf)) && ALL_WORDS.every((name) => same(told[name], now[name])))
    return null
  const askAgain = fresh.length === after.length ? 'all' : fresh.map((one) => one.recurrence)
  return { method: 'REQUEST', recurrence: null, askAgain }
}

/**
 * What somebody has to be told: the difference between what they were told last and what is true now; null where there
 * is none. Nothing told before is an invitation, nothing left is a cancellation, and where one date alone differs the
 * letter is about that date (RFC 5546 sections 3.2.2 and 3.2.5).
 */
export const owedTo = (told: Told | null, now: Told | null): Owed | null => {
  if (told === null) return now && { method: 'REQUEST', recurrence: null, askAgain: [] }
  if (now === null) return { method: 'CANCEL', recurrence: null, askAgain: [] }
  if (isSet(told) && isSet(now) && (told.added.length > 0 || now.added.length > 0))
    return owedOfSets(told, now)
  const cut = isCut(told, now)
  if (!cut && ALL_TIME.some((name) => !same(told[name], now[name])))
    return { method: 'REQUEST', recurrence: null, askAgain: 'all' }
  const [before, after] = [datesOf(told), datesOf(now)]
  const last = cut ? (lastOf(now.rule) ?? now.starts) : null
  const differing = [...new Set([...before.keys(), ...after.keys()])]
    .filter((recurrence) => last === null || recurrence <= last)
    .filter((recurrence) => !sameDate(before.get(recurrence), after.get(recurrence)))
    .sort()
  const askAgain = differing.filter((recurrence) =>
    isElsewhere(before.get(recurrence), after.get(recurrence)),
  )
  const words = ALL_WORDS.some((name) => !same(told[name], now[name]))
  const [only, ...more] = differing
  if (words || cut || more.length > 0) return { method: 'REQUEST', recurrence: null, askAgain }
  if (only === undefined) return null
  return { method: after.get(only) === OFF ? 'CANCEL' : 'REQUEST', recurrence: only, askAgain }
}

/**
 * Of a series that goes on from a date on as one of its own: whether its first date is at another time or place than was
 * told of it, so that answers are asked again. `recurrence` is what that date was called before.
 */
export const goesOnElsewhere = (told: Told, recurrence: string, now: Told): boolean => {
  if (isSet(told) && isSet(now)) return newIn(now, told).length > 0
  const [was, is] = [toldOf(told, recurrence), toldOf(now, now.starts)]
  return was.start !== is.start || was.end !== is.end || was.place !== is.place
}

/** Whether a letter is one that older answers do not count for any more (RFC 5546 section 2.1.4, SEQUENCE). */
export const countsOn = ({ method, askAgain }: Owed): boolean =>
  method === 'CANCEL' || askAgain === 'all' || askAgain.length > 0

/** Enough dates to find one that is not over among those around an instant. */
const SEVERAL = 8

const wallOf = (text: string): Wall => wallFromText(text) ?? 0

const seriesOf = (told: Told): Series => ({
  starts: wallOf(told.starts),
  minutes: told.minutes,
  rule: told.rule,
  added: told.added.map(wallOf),
  excepted: [...told.excepted, ...told.cancelled].map(wallOf),
})

/** When and where somebody was told that a date is, and by which words it goes. */
export interface ToldTime {
  readonly start: Instant
  readonly end: Instant
  readonly place: string
  readonly title: string
  readonly note: string
}

/** What somebody was told of one date, named by its wall time; of a single meeting, of its only one. */
export const toldOf = (told: Told, recurrence: string): ToldTime => {
  const own = told.changes.find((one) => one.recurrence === recurrence)
  const start = instantOf(zoneTable(told.zone), wallOf(own?.starts ?? recurrence))
  return {
    start,
    end: start + (own?.minutes ?? told.minutes) * MINUTE,
    place: own?.place ?? told.place,
    title: own?.title ?? told.title,
    note: own?.note ?? told.note,
  }
}

/** The first date that is not over by what somebody was told; null where none is left. */
const comingTold = (told: Told, now: Instant): string | null => {
  const single = told.rule === null && told.added.length === 0 && told.cancelled.length === 0
  const table = zoneTable(told.zone)
  const from = toWall(table, now) - told.minutes * MINUTE - DAY
  const dates = single ? [told.starts] : nextDates(seriesOf(told), table, from, SEVERAL).map(wallText)
  return dates.find((recurrence) => toldOf(told, recurrence).end > now) ?? null
}

/**
 * The date that a letter about all of it names: the first that is not over by what somebody was told, the very first when
 * all are; of a single meeting its only one.
 */
export const nextTold = (told: Told, now: Instant): string => comingTold(told, now) ?? told.starts

/** Whether all that somebody was told of is over or off, so that no letter about it would be of use. */
export const isOver = (told: Told, now: Instant): boolean => comingTold(told, now) === null
