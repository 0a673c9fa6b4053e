import ICAL from 'ical.js'
import { newCalendar, textOf, utcTime, zoneComponent, zonedProperty } from '../feeds/index.ts'
import type { Answer } from '../sharing/index.ts'
import { HOUR, type Instant, toWall, zoneTable } from '../time/index.ts'

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
  calendar.addSubcomponent(zoneComponent(message.zone, message.start - HOUR, message.end + HOUR))
  const event = new ICAL.Component('vevent')
  event.addPropertyWithValue('uid', message.uid)
  event.addPropertyWithValue('sequence', message.sequence)
  event.addPropertyWithValue('dtstamp', utcTime(message.stamp))
  const table = zoneTable(message.zone)
  event.addProperty(zonedProperty('dtstart', toWall(table, message.start), message.zone))
  event.addProperty(zonedProperty('dtend', toWall(table, message.end), message.zone))
  event.addPropertyWithValue('summary', message.title)
  if (message.place) event.addPropertyWithValue('location', message.place)
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
  calendar.addSubcomponent(event)
  return textOf(calendar)
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
