import ICAL from 'ical.js'
import { codeInWords, dialIn, type Joining } from '../conferences/index.ts'
import { newCalendar, ruleValue, textOf, timeProperty, utcTime, zoneComponent } from '../feeds/index.ts'
import type { Answer } from '../sharing/index.ts'
import { oneLine } from '../text/index.ts'
import { DAY, HOUR, type Instant, instantOf, MINUTE, toWall, type Wall, zoneTable } from '../time/index.ts'

const SERIES_AHEAD = 730 * DAY

/**
 * What a message is: it asks for an answer, takes the meeting back, declines a proposal, or says what is reserved for its
 * reader alone (RFC 5546 section 3.2).
 */
export type CalendarMethod = 'REQUEST' | 'CANCEL' | 'DECLINECOUNTER' | 'PUBLISH'

/** What an iTIP message (RFC 5546) says of a meeting. Instants in milliseconds. */
export interface MeetingMessage {
  readonly uid: string
  readonly sequence: number
  readonly stamp: Instant
  readonly start: Instant
  readonly end: Instant
  /** The meeting's own zone: DTSTART and DTEND are written in it, with its VTIMEZONE. */
  readonly zone: string
  readonly title: string
  readonly description: string
  readonly place: string
  /** What whoever sends it says of it: why it was cancelled (RFC 5546 section 3.2.5, COMMENT). */
  readonly comment?: string
  /** How one joins it from afar (RFC 7986 section 5.11, CONFERENCE). */
  readonly joining?: Joining | null
  /** A series: its RRULE or its further dates, the wall time of its first date, and the dates that differ from it. */
  readonly series?: {
    readonly rule: string | null
    readonly starts: Wall
    readonly added: readonly Wall[]
    readonly changes: readonly {
      readonly recurrence: Wall
      readonly starts: Wall | null
      readonly minutes: number | null
      readonly title: string | null
      readonly description: string | null
      readonly place: string | null
    }[]
    /** Dates that were called off. */
    readonly cancelled: readonly Wall[]
  } | null
  /** The one date that the message is about, by the wall time that names it; absent for the meeting, or all of a series. */
  readonly date?: Wall | null
  readonly organizer: { readonly name: string; readonly address: string }
  readonly participants: readonly {
    readonly name: string
    readonly address: string
    readonly required: boolean
    readonly answer: Answer
    /** The address of whoever passed it on to them. */
    readonly delegatedFromAddress?: string | null
  }[]
  /** Whether those who have not answered are asked to. */
  readonly rsvp: boolean
}

/** Somebody as an ORGANIZER or ATTENDEE. */
export const personProperty = (
  name: 'organizer' | 'attendee',
  who: { readonly name: string; readonly address: string },
): ICAL.Property => {
  const property = new ICAL.Property(name)
  if (who.name) property.setParameter('cn', oneLine(who.name))
  property.setValue(`mailto:${who.address}`)
  return property
}

/** The iTIP message as text: by its method. */
export const calendarText = (message: MeetingMessage, method: CalendarMethod): string => {
  const calendar = newCalendar(null)
  calendar.addPropertyWithValue('method', method)
  const table = zoneTable(message.zone)
  const { date = null } = message
  const series = date === null ? message.series : null
  const starts = series?.starts ?? toWall(table, message.start)
  const moved = (series?.changes ?? []).map((change) => change.starts ?? change.recurrence)
  const further = series?.added ?? []
  // A series is read for years to come, so its zone says all changes of clocks to the end of its dates and beyond.
  const last = series ? Math.max(message.end, starts + SERIES_AHEAD, ...moved, ...further) : message.end
  calendar.addSubcomponent(
    zoneComponent(
      message.zone,
      Math.min(message.start, instantOf(table, starts)) - HOUR,
      last + HOUR,
      Boolean(series),
    ),
  )
  calendar.addSubcomponent(eventOf(message, method, { starts, recurrence: date }))
  if (method === 'REQUEST' || method === 'PUBLISH')
    for (const change of series?.changes ?? [])
      calendar.addSubcomponent(
        eventOf(
          {
            ...message,
            end: change.minutes === null ? message.end : message.start + change.minutes * MINUTE,
            title: change.title ?? message.title,
            description: change.description ?? message.description,
            place: change.place ?? message.place,
          },
          method,
          { recurrence: change.recurrence, starts: change.starts ?? change.recurrence },
        ),
      )
  return textOf(calendar)
}

/** A way to join a meeting (RFC 7986 section 5.11). */
const conferenceProperty = (uri: string, feature: 'VIDEO' | 'PHONE', label: string): ICAL.Property => {
  const property = new ICAL.Property('conference')
  property.resetType('uri')
  property.setParameter('feature', feature)
  property.setParameter('label', label)
  property.setValue(uri)
  return property
}

/** Whether it is one's own for whole days: said as dates. What others are invited to is at a time of day. */
const isWholeDays = ({ start, end, zone, participants }: MeetingMessage): boolean => {
  const table = zoneTable(zone)
  return participants.length < 2 && toWall(table, start) % DAY === 0 && toWall(table, end) % DAY === 0
}

/** One VEVENT of a message: the meeting, or a date of a series that differs (RFC 5545 section 3.8.4.4). */
const eventOf = (
  message: MeetingMessage,
  method: CalendarMethod,
  date: { readonly starts: Wall; readonly recurrence: Wall | null },
): ICAL.Component => {
  const event = new ICAL.Component('vevent')
  event.addPropertyWithValue('uid', message.uid)
  event.addPropertyWithValue('sequence', message.sequence)
  event.addPropertyWithValue('dtstamp', utcTime(message.stamp))
  const table = zoneTable(message.zone)
  const end = toWall(table, instantOf(table, date.starts) + (message.end - message.start))
  const whole = isWholeDays(message)
  const at = (name: string, wall: Wall): ICAL.Property =>
    timeProperty(name, wall, { zone: message.zone, allDay: whole })
  event.addProperty(at('dtstart', date.starts))
  event.addProperty(at('dtend', end))
  if (date.recurrence !== null) event.addProperty(at('recurrence-id', date.recurrence))
  else if (message.series) {
    if (message.series.rule !== null) {
      const rule = ruleValue(message.series.rule, { zone: message.zone, allDay: whole })
      event.addPropertyWithValue('rrule', ICAL.Recur.fromString(rule))
    }
    const { rule, starts, added } = message.series
    // The first date counts without being named (RFC 5545 section 3.8.5.2); readers that do not know that find it here.
    for (const wall of rule === null ? [starts, ...added] : added) event.addProperty(at('rdate', wall))
    for (const wall of message.series.cancelled) event.addProperty(at('exdate', wall))
  }
  event.addPropertyWithValue('summary', message.title)
  if (message.place) event.addPropertyWithValue('location', message.place)
  if (message.description) event.addPropertyWithValue('description', message.description)
  if (message.comment) event.addPropertyWithValue('comment', message.comment)
  if (message.joining && method === 'REQUEST') {
    event.addProperty(conferenceProperty(message.joining.link, 'VIDEO', 'Join'))
    const code = codeInWords(message.joining.code)
    event.addProperty(conferenceProperty(dialIn(message.joining), 'PHONE', `By telephone, code ${code}`))
  }
  event.addPropertyWithValue('status', method === 'CANCEL' ? 'CANCELLED' : 'CONFIRMED')
  event.addProperty(personProperty('organizer', message.organizer))
  const delegates = new Map(
    message.participants.flatMap((one) =>
      one.delegatedFromAddress ? [[one.delegatedFromAddress, one.address]] : [],
    ),
  )
  for (const participant of message.participants) {
    const attendee = personProperty('attendee', participant)
    attendee.setParameter('role', participant.required ? 'REQ-PARTICIPANT' : 'OPT-PARTICIPANT')
    attendee.setParameter('partstat', participant.answer.toUpperCase())
    if (message.rsvp && participant.answer === 'needs-action') attendee.setParameter('rsvp', 'TRUE')
    const from = participant.delegatedFromAddress
    if (from) attendee.setParameter('delegated-from', `mailto:${from}`)
    const to = delegates.get(participant.address)
    if (to) attendee.setParameter('delegated-to', `mailto:${to}`)
    event.addProperty(attendee)
  }
  return event
}
