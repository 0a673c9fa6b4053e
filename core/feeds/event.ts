import ICAL from 'ical.js'
import { LONGEST_MINUTES, noteOfText } from '../entries/index.ts'
import { BadRule, readRule, type Series, seriesTrouble, writeRule } from '../recurrence/index.ts'
import type { SpanState } from '../sharing/index.ts'
import { manyLines, oneLine } from '../text/index.ts'
import {
  DAY,
  dayFromCivil,
  dayOf,
  HOUR,
  type Instant,
  instantOf,
  MINUTE,
  toWall,
  type Wall,
  wallOf,
  zoneTable,
} from '../time/index.ts'
import { type CalendarEntry, type CalendarOverride, type Contact, OUTDOORS } from './entry.ts'
import { type Block, linesOf } from './lines.ts'
import { wallOfTime, type zoneFinder } from './zones.ts'

const MOST_REMINDERS = 5
const MOST_REMINDER_MINUTES = 40_320
const MOST_UID = 500
/** Years that a calendar of ours can have; a start outside them is taken for a mistake. */
const [FIRST_YEAR, LAST_YEAR] = [1900, 2200]

/** Says in words why a component cannot be taken, and which time it may concern. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly unknown: { readonly from: Instant; readonly to: Instant } | null,
  ) {
    super(message)
  }
}

const [EVER_SINCE, FOR_EVER] = [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY]
const ALWAYS = { from: EVER_SINCE, to: FOR_EVER }

/** RFC 5545 section 3.3.4 has a date marked by VALUE=DATE; many files leave that out. */
const BARE_DATE =
  /^((?:DTSTART|DTEND|DUE|RECURRENCE-ID|EXDATE|RDATE)(?:;(?![^:]*VALUE=)[^:]*)?)(:\d{8}(?:,\d{8})*)\s*$/i

/** Rules are read by us, and from the text: the parser throws at some that are well. */
const OWN_LINE = /^(?:RRULE|EXRULE)[;:]/i
const PROPERTY_LINE = /^(?:(?:BEGIN|END):[\w-]+|[A-Za-z0-9-]+(?:;[^:]*)?:.*)\s*$/
const TIME_LINE =
  /^(?:(?:BEGIN|END):V(?:EVENT|TODO)|(?:UID|SUMMARY|DTSTART|DTEND|DUE|DURATION|STATUS|TRANSP|RECURRENCE-ID)[;:].*)\s*$/i

const TIMES_LINE = /^(?:DTSTART|DTEND|DUE|COMPLETED|RECURRENCE-ID|RDATE|EXDATE|FREEBUSY)\b.*:([^:]*)$/i
const WRITTEN_TIME = /(?<!\d)(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d)(\d\d))?(?!\d)/gi

/** Whether all times of these lines are on the calendar: the parser takes 31 February for 3 March without a word. */
const onCalendar = (lines: readonly string[]): boolean =>
  lines.every((line) => {
    for (const [, year, month, date, ...clock] of TIMES_LINE.exec(line)?.[1]?.matchAll(WRITTEN_TIME) ?? []) {
      const [hour = 0, minute = 0, second = 0] = clock.map((part) => Number(part ?? 0))
      if (dayFromCivil(Number(year), Number(month), Number(date)) === null) return false
      // RFC 5545 section 3.3.12 has a sixtieth second; 24:00 is the day's end wherever it is written.
      if (!(minute <= 59 && second <= 60 && (hour <= 23 || (hour === 24 && minute + second === 0))))
        return false
    }
    return true
  })

/** Whether a wall time is in a year that somebody can mean. */
export const inYears = (wall: Wall): boolean =>
  wall >= Date.UTC(FIRST_YEAR, 0, 1) && wall < Date.UTC(LAST_YEAR, 0, 1)

/** A VEVENT, or a VTODO, as far as it could be read. */
export interface Parsed {
  readonly block: Block
  readonly event: ICAL.Component
  readonly uid: string
  readonly title: string
  readonly sequence: number
  readonly stamp: Instant | null
  readonly cancelled: boolean
  readonly rules: readonly string[]
  /** True when it leaves out dates by a rule, which RFC 5545 no longer knows. */
  readonly exrule: boolean
  /** True when one of its times is on no calendar, as 31 February. */
  readonly misdated: boolean
  /** True when lines of it had to be left out to read it at all. */
  readonly broken: boolean
}

const component = (lines: readonly string[]): ICAL.Component =>
  new ICAL.Component(ICAL.parse(`${lines.join('\r\n')}\r\n`))

/** Any component's lines, read. Throws when they cannot be, or when a time is on no calendar. */
export const componentOf = (block: Block): ICAL.Component => {
  const lines = linesOf(block)
  if (!onCalendar(lines)) throw new Error('A time is on no calendar.')
  return component(lines)
}

export const isTime = (value: unknown): value is ICAL.Time => value instanceof ICAL.Time

export const textOf = (event: ICAL.Component, name: string): string => {
  const value = event.getFirstPropertyValue(name)
  return typeof value === 'string' ? value.trim() : ''
}

const firstReadable = (attempts: readonly (readonly string[])[]): { event: ICAL.Component; at: number } => {
  for (const [at, lines] of attempts.entries()) {
    try {
      return { event: component(lines), at }
    } catch {
      // The next attempt leaves out more.
    }
  }
  throw new Refusal('It cannot be read.', ALWAYS)
}

/** Reads a VEVENT or a VTODO, leaving out what cannot be read where that helps. Throws `Refusal`. */
export const parseEvent = (block: Block, method: string): Parsed => {
  const unfolded = linesOf(block)
  const own = unfolded.filter((line) => OWN_LINE.test(line))
  const rules = own.filter((line) => /^RRULE/i.test(line)).map((line) => line.slice(line.indexOf(':') + 1))
  const lines = unfolded
    .filter((line) => line.trim() !== '' && !OWN_LINE.test(line))
    .map((line) => line.replace(BARE_DATE, '$1;VALUE=DATE$2'))
  const whole = lines.filter((line) => PROPERTY_LINE.test(line))
  const { event, at } = firstReadable([lines, whole, whole.filter((line) => TIME_LINE.test(line))])
  const sequence = Number(event.getFirstPropertyValue('sequence') ?? 0)
  const stamp = event.getFirstPropertyValue('dtstamp')
  return {
    block,
    event,
    uid: detached(textOf(event, 'uid')),
    title: detached(oneLine(textOf(event, 'summary')).slice(0, 200)),
    sequence: Number.isSafeInteger(sequence) && sequence > 0 ? Math.min(sequence, 2 ** 31 - 1) : 0,
    stamp: isTime(stamp)
      ? Date.UTC(stamp.year, stamp.month - 1, stamp.day, stamp.hour, stamp.minute, stamp.second)
      : null,
    cancelled: method === 'CANCEL' || textOf(event, 'status').toUpperCase() === 'CANCELLED',
    rules: rules.map((rule) => rule.trim()).filter(Boolean),
    exrule: own.length > rules.length,
    misdated: !onCalendar(lines),
    broken: at > 0,
  }
}

/**
 * A text that does not keep the one alive from which it was cut. Engines cut by pointing into the whole, and of a large
 * file everything would stay for the sake of its names.
 */
const detached = (text: string): string => String(JSON.parse(JSON.stringify(text)))

/** What an event says beside its times. */
const wordsOf = ({ event, title }: Parsed) => ({
  title,
  place: oneLine(textOf(event, 'location')).slice(0, 200),
  note: noteOf(event),
  shows: showsOf(event),
  private: ['PRIVATE', 'CONFIDENTIAL'].includes(textOf(event, 'class').toUpperCase()),
})

const showsOf = (event: ICAL.Component): SpanState => {
  const own = textOf(event, 'x-marmot-shows').toLowerCase()
  if (own === 'away' || own === 'held') return own
  if (textOf(event, 'transp').toUpperCase() === 'TRANSPARENT') return 'listed'
  return textOf(event, 'status').toUpperCase() === 'TENTATIVE' ? 'tentative' : 'busy'
}

/** At which site it is out of doors; nothing where the file does not say. */
const outdoorsOf = (event: ICAL.Component): Pick<CalendarEntry, 'outdoors'> => {
  const site = oneLine(textOf(event, OUTDOORS)).slice(0, 200)
  return site ? { outdoors: site } : {}
}

export const noteOf = (event: ICAL.Component): string => {
  const formatted = event.getFirstProperty('x-alt-desc')
  if (formatted && String(formatted.getParameter('fmttype')).toLowerCase() === 'text/html')
    return manyLines(String(formatted.getFirstValue() ?? ''))
  return noteOfText(manyLines(textOf(event, 'description')))
}

const contactsOf = (event: ICAL.Component): Contact[] => {
  const read = (property: ICAL.Property, organizer: boolean): Contact => ({
    name: oneLine(String(property.getParameter('cn') ?? '')).slice(0, 100),
    address: oneLine(String(property.getFirstValue() ?? ''))
      .replace(/^mailto:/i, '')
      .toLowerCase()
      .slice(0, 200),
    organizer,
    required: String(property.getParameter('role') ?? '').toUpperCase() !== 'OPT-PARTICIPANT',
    answer: String(property.getParameter('partstat') ?? 'needs-action').toLowerCase(),
  })
  const organizer = event.getFirstProperty('organizer')
  return [
    ...(organizer ? [{ ...read(organizer, true), answer: 'accepted' }] : []),
    ...event.getAllProperties('attendee').map((property) => read(property, false)),
  ].slice(0, 500)
}

const remindersOf = (event: ICAL.Component, start: Instant, minutes: number): number[] => {
  const before = event.getAllSubcomponents('valarm').flatMap((part) => {
    const trigger = part.getFirstProperty('trigger')
    const value = trigger?.getFirstValue()
    if (isTime(value)) return [Math.round((start - wallOfTime(value)) / MINUTE)]
    if (!(value instanceof ICAL.Duration)) return []
    const fromEnd = String(trigger?.getParameter('related') ?? '').toUpperCase() === 'END'
    return [Math.round(-value.toSeconds() / 60) - (fromEnd ? minutes : 0)]
  })
  const kept = before.filter((each) => each >= 0 && each <= MOST_REMINDER_MINUTES)
  return [...new Set(kept)].sort((a, b) => a - b).slice(0, MOST_REMINDERS)
}

const zoneOfProperty = (property: ICAL.Property): string | null => {
  const tzid = property.getParameter('tzid')
  return typeof tzid === 'string' ? tzid : (tzid?.[0] ?? null)
}

/** A time of the file: what it shows on the wall, its zone ('' when only the file knows it), and the instant. */
export interface Placed {
  readonly zone: string
  readonly wall: Wall
  readonly instant: Instant
  /** True when it names no zone at all. */
  readonly floating: boolean
}

/** An entry made of an event. `trouble` says why it can be none of ours; `doubtful` that it may be on fewer dates. */
export interface Made {
  readonly entry: CalendarEntry
  readonly trouble: string | null
  readonly doubtful: boolean
}

/** A date of a series that differs in nothing. */
export const NOTHING_CHANGED = {
  starts: null,
  minutes: null,
  title: null,
  place: null,
  note: null,
  shows: null,
  private: null,
}

const differing = <T>(next: T, before: T): T | null => (next === before ? null : next)

/** What of a series its dates are read by. */
type SeriesTime = Pick<CalendarEntry, 'zone' | 'starts' | 'allDay'>

/** How times of one file are read: by the zones that it describes, and `home` for what names none. */
export interface FileTimes {
  readonly finder: ReturnType<typeof zoneFinder>
  readonly home: string
}

export const placed = (of: FileTimes, property: ICAL.Property, time: ICAL.Time): Placed => {
  const wall = wallOfTime(time)
  if (time.zone === ICAL.Timezone.utcTimezone) return { zone: 'UTC', wall, instant: wall, floating: false }
  const tzid = zoneOfProperty(property)
  if (tzid === null)
    return { zone: of.home, wall, instant: instantOf(zoneTable(of.home), wall), floating: true }
  const zone = of.finder.zoneFor(tzid, wall)
  if (zone !== null) return { zone, wall, instant: instantOf(zoneTable(zone), wall), floating: false }
  const offset = of.finder.offsetByFile(tzid, wall)
  if (offset === null)
    throw new Refusal(
      `Its time zone "${oneLine(tzid).slice(0, 60)}" is not known, and the file does not describe it.`,
      // No zone is further than this from UTC.
      { from: wall - 15 * HOUR, to: FOR_EVER },
    )
  return { zone: '', wall, instant: wall - offset, floating: false }
}

/** A time as a wall time of a series' zone. One in that zone, or that names none, is taken as it stands. */
const wallIn = (of: FileTimes, zone: string, property: ICAL.Property, time: ICAL.Time): Wall => {
  const at = placed(of, property, time)
  return at.floating || at.zone === zone ? at.wall : toWall(zoneTable(zone), at.instant)
}

/** A date of a series: a bare date means the series' own time of that day. */
const dateIn = (of: FileTimes, series: SeriesTime, property: ICAL.Property, time: ICAL.Time) =>
  time.isDate || series.allDay
    ? wallOf(dayOf(wallOfTime(time))) + (series.starts - wallOf(dayOf(series.starts)))
    : wallIn(of, series.zone, property, time)

/** An end with seconds is the next minute: nothing is free that is not. */
const rounded = (time: ICAL.Time): number => (time.second > 0 ? MINUTE : 0)

/** Days of a duration are days on the calendar, the rest is time that passes (RFC 5545 section 3.3.6). */
export const endAfter = (start: Placed, duration: ICAL.Duration): Instant => {
  const sign = duration.isNegative ? -1 : 1
  const days = sign * (duration.weeks * 7 + duration.days)
  const rest = sign * (duration.hours * HOUR + duration.minutes * MINUTE + duration.seconds * 1000)
  const begin =
    days === 0 || start.zone === ''
      ? start.instant + days * DAY
      : instantOf(zoneTable(start.zone), start.wall + days * DAY)
  return begin + rest
}

const timeOf = (
  of: FileTimes,
  event: ICAL.Component,
): { allDay: boolean; start: Placed; minutes: number } => {
  const property = event.getFirstProperty('dtstart')
  const time = property?.getFirstValue()
  if (!property || !isTime(time)) throw new Refusal('It has no start that can be read.', ALWAYS)
  const wall = wallOfTime(time)
  if (!inYears(wall))
    throw new Refusal(`It starts in a year that is not between ${FIRST_YEAR} and ${LAST_YEAR}.`, null)
  const allDay = time.isDate
  const start = placed(of, property, time)
  const endProperty = event.getFirstProperty('dtend')
  const endTime = endProperty?.getFirstValue()
  const duration = event.getFirstPropertyValue('duration')
  let minutes = allDay ? 1440 : 1
  if (endProperty && isTime(endTime))
    minutes = allDay
      ? (wallOf(dayOf(wallOfTime(endTime))) - start.wall) / MINUTE
      : (placed(of, endProperty, endTime).instant + rounded(endTime) - start.instant) / MINUTE
  else if (duration instanceof ICAL.Duration)
    minutes = allDay ? duration.toSeconds() / 60 : (endAfter(start, duration) - start.instant) / MINUTE
  minutes = Math.ceil(minutes)
  if (!(minutes >= 0)) throw new Refusal('It ends before it starts.', around(start.instant))
  return { allDay, start, minutes: Math.max(minutes, allDay ? 1440 : 1) }
}

const around = (instant: Instant) => ({ from: instant - DAY, to: instant + DAY })

/** The rule in the series' own wall time: an UNTIL in UTC is turned to it. */
const ownRule = (text: string, zone: string): string => {
  const rule = readRule(text)
  const until = rule.until?.utc ? { wall: toWall(zoneTable(zone), rule.until.wall), utc: false } : rule.until
  return writeRule({ ...rule, until })
}

/** The dates of RDATE or EXDATE, and the lengths of those that are periods. */
const datesOf = (of: FileTimes, event: ICAL.Component, name: string, series: SeriesTime) =>
  event.getAllProperties(name).flatMap((property) =>
    property.getValues().flatMap((value): { wall: Wall; minutes: number | null }[] => {
      const time = value instanceof ICAL.Period ? value.start : value
      if (!isTime(time)) return []
      const seconds = value instanceof ICAL.Period ? value.getDuration().toSeconds() : null
      return [
        {
          wall: dateIn(of, series, property, time),
          minutes: seconds === null ? null : Math.ceil(seconds / 60),
        },
      ]
    }),
  )

const troubleOf = (read: Parsed, series: Series, zone: string): string | null => {
  if (read.broken) return 'It cannot be read.'
  if (!read.uid) return 'It has no UID, so it could not be known again.'
  if (read.uid.length > MOST_UID) return 'Its UID is longer than anybody means.'
  if (read.exrule) return 'It leaves out dates by a rule (EXRULE), which is not read.'
  if (read.rules.length > 1) return 'It repeats by more than one rule.'
  if (series.minutes > LONGEST_MINUTES) return 'It is longer than 31 days.'
  try {
    return seriesTrouble(series, zoneTable(zone))
  } catch (error) {
    if (error instanceof BadRule) return error.message
    throw error
  }
}

/** The entries of an event: one, or one for each of its rules where it has several. Throws `Refusal`. */
const entriesOf = (of: FileTimes, read: Parsed): Made[] => {
  const { event } = read
  const { allDay, start, minutes } = timeOf(of, event)
  const repeating = read.rules.length > 0 || event.hasProperty('rdate')
  const onwards = { from: start.instant - DAY, to: FOR_EVER }
  // One date in UTC, or in a zone that only the file knows, is the same instant at home; a series would drift.
  if (repeating && start.zone === '')
    throw new Refusal('It repeats in a time zone that only this file knows.', onwards)
  const zone = allDay || start.zone === '' || (start.zone === 'UTC' && !repeating) ? of.home : start.zone
  const starts = allDay || start.zone === zone ? start.wall : toWall(zoneTable(zone), start.instant)
  const added = datesOf(of, event, 'rdate', { zone, starts, allDay })
  const [category] = event.getAllProperties('categories').flatMap((property) => property.getValues())
  const rules = read.rules.length ? read.rules : [null]
  return rules.map((text): Made => {
    let rule: string | null
    try {
      rule = text === null ? null : ownRule(text, zone)
    } catch (error) {
      if (error instanceof BadRule) throw new Refusal(error.message, onwards)
      throw error
    }
    const entry: CalendarEntry = {
      uid: read.uid,
      zone,
      starts,
      minutes,
      allDay,
      rule,
      added: added.map((date) => date.wall),
      excepted: datesOf(of, event, 'exdate', { zone, starts, allDay }).map((date) => date.wall),
      overrides: added.flatMap(({ wall, minutes: own }): CalendarOverride[] =>
        own === null || own === minutes
          ? []
          : [{ recurrence: wall, cancelled: false, ...NOTHING_CHANGED, minutes: Math.max(1, own) }],
      ),
      ...wordsOf(read),
      ...outdoorsOf(event),
      category:
        typeof category === 'string' && category.trim() ? oneLine(category).trim().slice(0, 60) : null,
      reminders: remindersOf(event, start.instant, minutes),
      contacts: contactsOf(event),
      sequence: read.sequence,
      stamp: read.stamp,
    }
    return { entry, trouble: troubleOf(read, entry, zone), doubtful: read.broken || read.exrule }
  })
}

/** Which date of its series an event is for, in the series' own wall time. Throws `Refusal`. */
const recurrenceOf = (of: FileTimes, read: Parsed, series: SeriesTime): Wall => {
  const property = read.event.getFirstProperty('recurrence-id')
  const time = property?.getFirstValue()
  if (!property || !isTime(time))
    throw new Refusal('It does not say which date of its series it changes.', ALWAYS)
  return dateIn(of, series, property, time)
}

/** The date an event is for, when its series is not at hand. */
const loneDate = (of: FileTimes, read: Parsed): Placed | null => {
  const property = read.event.getFirstProperty('recurrence-id')
  const time = property?.getFirstValue()
  return property && isTime(time) ? placed(of, property, time) : null
}

/** The new time and words of a date, in its series' zone. */
const changeOf = (of: FileTimes, read: Parsed, entry: CalendarEntry) => {
  const { start, minutes, allDay } = timeOf(of, read.event)
  const own = allDay || start.floating || start.zone === entry.zone
  return {
    starts: own ? start.wall : toWall(zoneTable(entry.zone), start.instant),
    minutes,
    allDay,
    words: wordsOf(read),
  }
}

/** A changed or cancelled date of a series. */
const overrideOf = (
  of: FileTimes,
  read: Parsed,
  entry: CalendarEntry,
  recurrence: Wall,
): CalendarOverride => {
  if (read.cancelled) return { recurrence, cancelled: true, ...NOTHING_CHANGED }
  const { starts, minutes, words } = changeOf(of, read, entry)
  return {
    recurrence,
    cancelled: false,
    starts: differing(starts, recurrence),
    minutes: differing(minutes, entry.minutes),
    title: differing(words.title, entry.title),
    place: differing(words.place, entry.place),
    note: differing(words.note, entry.note),
    shows: differing(words.shows, entry.shows),
    private: differing(words.private, entry.private),
  }
}

/** Reads events' times by the zones of their file. `home` is the zone for what names none. */
export const eventReader = (finder: ReturnType<typeof zoneFinder>, home: string) => {
  const of: FileTimes = { finder, home }
  return {
    entriesOf: (read: Parsed) => entriesOf(of, read),
    recurrenceOf: (read: Parsed, series: SeriesTime) => recurrenceOf(of, read, series),
    loneDate: (read: Parsed) => loneDate(of, read),
    timeOf: (read: Parsed) => timeOf(of, read.event),
    changeOf: (read: Parsed, entry: CalendarEntry) => changeOf(of, read, entry),
    overrideOf: (read: Parsed, entry: CalendarEntry, recurrence: Wall) =>
      overrideOf(of, read, entry, recurrence),
  }
}
