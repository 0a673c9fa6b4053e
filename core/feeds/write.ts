import ICAL from 'ical.js'
import { nextDates, readRule, writeRule } from '../recurrence/index.ts'
import { manyLines, oneLine } from '../text/index.ts'
import { DAY, dayOf, dayText, type Instant, instantOf, MINUTE, type Wall, zoneTable } from '../time/index.ts'
import { type CalendarEntry, type CalendarOverride, type Contact, OUTDOORS } from './entry.ts'
import { addNote } from './note.ts'
import { type CalendarTodo, todoComponent } from './todo.ts'
import { type Timed, timeProperty, utcTime, zoneComponent } from './zone-component.ts'

export const PRODUCT = '-//Marmot//Marmot 0.1//EN'

/** A rule with its UNTIL as RFC 5545 section 3.3.10 wants it: in UTC, or a date where the entry is whole days. */
export const ruleValue = (rule: string, { zone, allDay }: Timed): string => {
  const read = readRule(rule)
  if (!read.until || read.until.utc) return rule
  if (!allDay)
    return writeRule({ ...read, until: { wall: instantOf(zoneTable(zone), read.until.wall), utc: true } })
  const without = writeRule({ ...read, until: null })
  return `${without};UNTIL=${dayText(dayOf(read.until.wall)).replace(/-/g, '')}`
}

const person = (contact: Contact): ICAL.Property => {
  const property = new ICAL.Property(contact.organizer ? 'organizer' : 'attendee')
  if (contact.name) property.setParameter('cn', oneLine(contact.name))
  if (!contact.organizer) {
    property.setParameter('role', contact.required ? 'REQ-PARTICIPANT' : 'OPT-PARTICIPANT')
    property.setParameter('partstat', contact.answer.toUpperCase())
  }
  property.setValue(`mailto:${contact.address}`)
  return property
}

const alarm = (minutes: number, title: string): ICAL.Component => {
  const component = new ICAL.Component('valarm')
  component.addPropertyWithValue('action', 'DISPLAY')
  component.addPropertyWithValue('description', title || 'Reminder')
  component.addPropertyWithValue('trigger', ICAL.Duration.fromSeconds(minutes === 0 ? 0 : -minutes * 60))
  return component
}

/** Adds what shows, is private and is said, as far as it is given. */
const addWords = (
  event: ICAL.Component,
  words: Pick<CalendarOverride, 'title' | 'place' | 'note' | 'shows' | 'private'>,
): void => {
  if (words.title !== null) event.addPropertyWithValue('summary', words.title)
  if (words.place) event.addPropertyWithValue('location', words.place)
  if (words.note) addNote(event, words.note)
  if (words.shows !== null) {
    event.addPropertyWithValue('transp', words.shows === 'listed' ? 'TRANSPARENT' : 'OPAQUE')
    event.addPropertyWithValue('status', words.shows === 'tentative' ? 'TENTATIVE' : 'CONFIRMED')
    if (words.shows === 'away' || words.shows === 'held')
      event.addPropertyWithValue('x-marmot-shows', words.shows.toUpperCase())
  }
  if (words.private !== null) event.addPropertyWithValue('class', words.private ? 'PRIVATE' : 'PUBLIC')
}

const addTime = (event: ICAL.Component, timed: Timed, starts: Wall, minutes: number): void => {
  event.addProperty(timeProperty('dtstart', starts, timed))
  if (timed.allDay) event.addProperty(timeProperty('dtend', starts + minutes * MINUTE, timed))
  // In hours, however many: a day would be one on the calendar, of 23 hours or 25 (RFC 5545 section 3.3.6).
  else
    event.addPropertyWithValue(
      'duration',
      ICAL.Duration.fromData({ hours: Math.floor(minutes / 60), minutes: minutes % 60 }),
    )
}

const overrideComponent = (
  entry: CalendarEntry,
  override: CalendarOverride,
  stamp: Instant,
): ICAL.Component => {
  const event = new ICAL.Component('vevent')
  event.addPropertyWithValue('uid', entry.uid)
  event.addPropertyWithValue('dtstamp', utcTime(stamp))
  if (entry.sequence) event.addPropertyWithValue('sequence', entry.sequence)
  event.addProperty(timeProperty('recurrence-id', override.recurrence, entry))
  addTime(event, entry, override.starts ?? override.recurrence, override.minutes ?? entry.minutes)
  addWords(event, {
    title: override.title ?? entry.title,
    place: override.place ?? entry.place,
    note: override.note ?? entry.note,
    shows: override.shows ?? entry.shows,
    private: override.private ?? entry.private,
  })
  return event
}

/** An entry's VEVENTs: its own, and one for each date that was changed by itself. */
const eventsOf = (entry: CalendarEntry, stamp: Instant): ICAL.Component[] => {
  const event = new ICAL.Component('vevent')
  event.addPropertyWithValue('uid', entry.uid)
  event.addPropertyWithValue('dtstamp', utcTime(stamp))
  if (entry.sequence) event.addPropertyWithValue('sequence', entry.sequence)
  addTime(event, entry, entry.starts, entry.minutes)
  addWords(event, entry)
  if (entry.rule !== null)
    event.addPropertyWithValue('rrule', ICAL.Recur.fromString(ruleValue(entry.rule, entry)))
  for (const wall of entry.added) event.addProperty(timeProperty('rdate', wall, entry))
  const cancelled = entry.overrides.filter((one) => one.cancelled).map((one) => one.recurrence)
  for (const wall of [...entry.excepted, ...cancelled]) event.addProperty(timeProperty('exdate', wall, entry))
  if (entry.category) event.addPropertyWithValue('categories', entry.category)
  if (entry.outdoors) event.addPropertyWithValue(OUTDOORS, oneLine(entry.outdoors))
  for (const contact of entry.contacts) event.addProperty(person(contact))
  for (const minutes of entry.reminders) event.addSubcomponent(alarm(minutes, entry.title))
  const changed = entry.overrides.filter((one) => !one.cancelled)
  return [event, ...changed.map((one) => overrideComponent(entry, one, stamp))]
}

/** A calendar with nothing in it yet. */
export const newCalendar = (name: string | null): ICAL.Component => {
  const calendar = new ICAL.Component('vcalendar')
  calendar.addPropertyWithValue('prodid', PRODUCT)
  calendar.addPropertyWithValue('version', '2.0')
  if (name) calendar.addPropertyWithValue('name', name)
  return calendar
}

const MOST_OCTETS = 75

/** How many octets a character takes as UTF-8 (RFC 3629 section 3); asking an encoder took nine tenths of all writing. */
const octetsOf = (codePoint: number): number =>
  codePoint < 0x80 ? 1 : codePoint < 0x800 ? 2 : codePoint < 0x10000 ? 3 : 4

/** A content line folded at 75 octets (RFC 5545 section 3.1), never within a character. */
const folded = (line: string): string => {
  // A character is at most three octets for each of its code units.
  if (line.length * 3 <= MOST_OCTETS) return line
  const parts: string[] = []
  let [from, octets] = [0, 0]
  for (let at = 0; at < line.length; ) {
    const codePoint = line.codePointAt(at) ?? 0
    const size = octetsOf(codePoint)
    if (octets + size > MOST_OCTETS) {
      parts.push(line.slice(from, at))
      from = at
      // The space that marks the fold counts, too.
      octets = 1
    }
    octets += size
    at += codePoint > 0xffff ? 2 : 1
  }
  return [...parts, line.slice(from)].join('\r\n ')
}

/** The text of a component as it travels: no control characters within lines, and lines of at most 75 octets. */
export const textOf = (component: ICAL.Component): string =>
  `${component
    .toString()
    .replace(/\r\n[ \t]/g, '')
    .split('\r\n')
    .map((line) => folded(manyLines(line).replace(/\n/g, ' ')))
    .join('\r\n')}\r\n`

/** How far a series reaches: its last wall time, and whether it has none. */
const reachOf = (entry: CalendarEntry): { last: Wall; forEver: boolean } => {
  if (entry.rule === null) return { last: entry.starts, forEver: false }
  const { until, count } = readRule(entry.rule)
  if (until) return { last: until.wall, forEver: false }
  if (count === null) return { last: entry.starts, forEver: true }
  const last = nextDates({ ...entry, added: [] }, zoneTable(entry.zone), entry.starts, count).at(-1)
  return { last: last ?? entry.starts, forEver: false }
}

/** A DTSTAMP for a text that is to be compared before it is known when it last changed: see `stamped`. */
export const STAMP_OF_NOTHING: Instant = 0

const stampLine = (stamp: Instant): string => `\r\nDTSTAMP:${utcTime(stamp).toICALString()}\r\n`

/** A text that was written with the stamp of nothing, with a DTSTAMP instead. No title can look like one: it is a line. */
export const stamped = (text: string, stamp: Instant): string =>
  text.replaceAll(stampLine(STAMP_OF_NOTHING), () => stampLine(stamp))

/**
 * Entries and to-dos as an iCalendar object, each zone with its own VTIMEZONE. `stamp` is DTSTAMP, an instant in milliseconds.
 * Each is written by itself: the parser's objects of a large calendar would take many times the room of its text.
 */
export const writeCalendar = (
  entries: readonly CalendarEntry[],
  name: string,
  stamp: Instant,
  todos: readonly CalendarTodo[] = [],
): string => {
  const calendar = newCalendar(name)
  const zones = new Map<string, { from: Wall; to: Wall; forEver: boolean }>()
  for (const entry of entries) {
    if (entry.allDay) continue
    const { last, forEver } = reachOf(entry)
    const walls = [
      entry.starts,
      ...entry.added,
      ...entry.overrides.map((one) => one.starts ?? one.recurrence),
    ]
    const known = zones.get(entry.zone) ?? { from: entry.starts, to: entry.starts, forEver: false }
    zones.set(entry.zone, {
      from: Math.min(known.from, ...walls),
      to: Math.max(known.to, last, ...walls),
      forEver: known.forEver || forEver,
    })
  }
  for (const { due, dueAllDay, zone } of todos) {
    if (due === null || dueAllDay) continue
    const known = zones.get(zone) ?? { from: due, to: due, forEver: false }
    zones.set(zone, { ...known, from: Math.min(known.from, due), to: Math.max(known.to, due) })
  }
  for (const [zone, { from, to, forEver }] of zones)
    calendar.addSubcomponent(zoneComponent(zone, from - DAY, to + DAY, forEver))
  const [begin = '', end = ''] = textOf(calendar).split(/(?=END:VCALENDAR\r\n$)/)
  const events = entries.flatMap((entry) => eventsOf(entry, stamp).map(textOf))
  return [begin, ...events, ...todos.map((todo) => textOf(todoComponent(todo, stamp))), end].join('')
}
