import ICAL from 'ical.js'
import { newCalendar, textOf, utcTime, zoneComponent, zonedProperty } from '../feeds/index.ts'
import type { Answer } from '../sharing/index.ts'
import { DAY, HOUR, type Instant, instantOf, toWall, type Wall, zoneTable } from '../time/index.ts'

const SERIES_AHEAD = 730 * DAY

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
  /** A series: its RRULE, the wall time of its first date, and the dates that differ from it. */
  readonly series?: {
    readonly rule: string
    readonly starts: Wall
    readonly changes: readonly {
      readonly recurrence: Wall
      readonly starts: Wall | null
      readonly place: string | null
    }[]
  } | null
  readonly organizer: { readonly name: string; readonly address: string }
  readonly participants: readonly {
    readonly name: string
    readonly address: string
    readonly required: boolean
    readonly answer: Answer
  }[]
}

const person = (name: string, who: { name: string; address: string }): ICAL.Property => {
  const property = new ICAL.Property(name)
  property.setParameter('cn', who.name)
  property.setValue(`mailto:${who.address}`)
  return property
}

/** The iTIP message as text: REQUEST asks for an answer, CANCEL takes the meeting back. */
export const calendarText = (message: MeetingMessage, method: 'REQUEST' | 'CANCEL'): string => {
  const calendar = newCalendar(null)
  calendar.addPropertyWithValue('method', method)
  const table = zoneTable(message.zone)
  const starts = message.series?.starts ?? toWall(table, message.start)
  const moved = (message.series?.changes ?? []).map((change) => change.starts ?? change.recurrence)
  // A series is read for years to come, so its zone says all changes of clocks to the end of its dates and beyond.
  const last = message.series ? Math.max(message.end, starts + SERIES_AHEAD, ...moved) : message.end
  calendar.addSubcomponent(
    zoneComponent(message.zone, Math.min(message.start, instantOf(table, starts)) - HOUR, last + HOUR),
  )
  calendar.addSubcomponent(eventOf(message, method, { starts, place: message.place, recurrence: null }))
  if (method === 'REQUEST')
    for (const change of message.series?.changes ?? [])
      calendar.addSubcomponent(
        eventOf(message, method, {
          recurrence: change.recurrence,
          starts: change.starts ?? change.recurrence,
          place: change.place ?? message.place,
        }),
      )
  return textOf(calendar)
}

/** One VEVENT of a message: the meeting, or a date of a series that differs (RFC 5545 section 3.8.4.4). */
const eventOf = (
  message: MeetingMessage,
  method: 'REQUEST' | 'CANCEL',
  date: { readonly starts: Wall; readonly place: string; readonly recurrence: Wall | null },
): ICAL.Component => {
  const event = new ICAL.Component('vevent')
  event.addPropertyWithValue('uid', message.uid)
  event.addPropertyWithValue('sequence', message.sequence)
  event.addPropertyWithValue('dtstamp', utcTime(message.stamp))
  const table = zoneTable(message.zone)
  const end = toWall(table, instantOf(table, date.starts) + (message.end - message.start))
  event.addProperty(zonedProperty('dtstart', date.starts, message.zone))
  event.addProperty(zonedProperty('dtend', end, message.zone))
  if (date.recurrence !== null)
    event.addProperty(zonedProperty('recurrence-id', date.recurrence, message.zone))
  else if (message.series) event.addPropertyWithValue('rrule', ICAL.Recur.fromString(message.series.rule))
  event.addPropertyWithValue('summary', message.title)
  if (date.place) event.addPropertyWithValue('location', date.place)
  if (message.description) event.addPropertyWithValue('description', message.description)
  event.addPropertyWithValue('status', method === 'CANCEL' ? 'CANCELLED' : 'CONFIRMED')
  event.addProperty(person('organizer', message.organizer))
  for (const participant of message.participants) {
    const attendee = person('attendee', participant)
    attendee.setParameter('role', participant.required ? 'REQ-PARTICIPANT' : 'OPT-PARTICIPANT')
    attendee.setParameter('partstat', participant.answer.toUpperCase())
    if (participant.answer === 'needs-action') attendee.setParameter('rsvp', 'TRUE')
    event.addProperty(attendee)
  }
  return event
}

/** An answer that came back by mail (RFC 5546 section 3.2.3). */
export interface Reply {
  readonly uid: string
  readonly sequence: number
  readonly address: string
  readonly answer: Answer
  readonly message: string
}

/** A calendar part that is no usable REPLY; `code` is stable, the message for a person. */
export class BadReply extends Error {
  constructor(
    readonly code: 'not-a-calendar' | 'not-a-reply' | 'no-answer-in-reply',
    message: string,
  ) {
    super(message)
  }
}

const ANSWER_OF: Record<string, Answer> = {
  ACCEPTED: 'accepted',
  TENTATIVE: 'tentative',
  DECLINED: 'declined',
}

/** Reads a REPLY from its text. Throws `BadReply`. */
export const readReply = (text: string): Reply => {
  let calendar: ICAL.Component
  try {
    calendar = new ICAL.Component(ICAL.parse(text))
  } catch {
    throw new BadReply('not-a-calendar', 'The calendar part of this mail cannot be read.')
  }
  const method = String(calendar.getFirstPropertyValue('method') ?? '').toUpperCase()
  const event = calendar.getFirstSubcomponent('vevent')
  if (method !== 'REPLY' || !event)
    throw new BadReply('not-a-reply', 'This mail carries no REPLY to an invitation.')
  const attendee = event.getFirstProperty('attendee')
  const answer = ANSWER_OF[String(attendee?.getParameter('partstat') ?? '').toUpperCase()]
  const address = String(attendee?.getFirstValue() ?? '')
    .replace(/^mailto:/i, '')
    .toLowerCase()
  const uid = String(event.getFirstPropertyValue('uid') ?? '')
  if (!answer || !address || !uid)
    throw new BadReply('no-answer-in-reply', 'The REPLY does not say who answers what to which meeting.')
  return {
    uid,
    sequence: Number(event.getFirstPropertyValue('sequence') ?? 0),
    address,
    answer,
    message: String(event.getFirstPropertyValue('comment') ?? ''),
  }
}
