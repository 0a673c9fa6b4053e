import ICAL from 'ical.js'
import {
  blocksOf,
  newCalendar,
  parseEvent,
  readerOf,
  ruleValue,
  textOf,
  utcTime,
  zoneComponent,
  zonedProperty,
} from '../feeds/index.ts'
import type { Answer } from '../sharing/index.ts'
import { manyLines, oneLine } from '../text/index.ts'
import { DAY, HOUR, type Instant, instantOf, MINUTE, toWall, type Wall, zoneTable } from '../time/index.ts'

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
  /** What whoever sends it says of it: why it was cancelled (RFC 5546 section 3.2.5, COMMENT). */
  readonly comment?: string
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
  }[]
}

const person = (name: string, who: { name: string; address: string }): ICAL.Property => {
  const property = new ICAL.Property(name)
  property.setParameter('cn', oneLine(who.name))
  property.setValue(`mailto:${who.address}`)
  return property
}

/** The iTIP message as text: REQUEST asks for an answer, CANCEL takes the meeting back. */
export const calendarText = (message: MeetingMessage, method: 'REQUEST' | 'CANCEL'): string => {
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
  if (method === 'REQUEST')
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

/** One VEVENT of a message: the meeting, or a date of a series that differs (RFC 5545 section 3.8.4.4). */
const eventOf = (
  message: MeetingMessage,
  method: 'REQUEST' | 'CANCEL',
  date: { readonly starts: Wall; readonly recurrence: Wall | null },
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
  else if (message.series) {
    if (message.series.rule !== null) {
      const rule = ruleValue(message.series.rule, { zone: message.zone, allDay: false })
      event.addPropertyWithValue('rrule', ICAL.Recur.fromString(rule))
    }
    for (const wall of message.series.added) event.addProperty(zonedProperty('rdate', wall, message.zone))
    for (const wall of message.series.cancelled)
      event.addProperty(zonedProperty('exdate', wall, message.zone))
  }
  event.addPropertyWithValue('summary', message.title)
  if (message.place) event.addPropertyWithValue('location', message.place)
  if (message.description) event.addPropertyWithValue('description', message.description)
  if (message.comment) event.addPropertyWithValue('comment', message.comment)
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

/** The date of a series that an answer is for: on the wall of the meeting's own zone when it names none, else an instant. */
export interface ReplyDate {
  readonly wall: Wall
  readonly instant: Instant
  readonly floating: boolean
}

/** An answer that came back by mail (RFC 5546 section 3.2.3). */
export interface Reply {
  readonly uid: string
  readonly sequence: number
  /** When it was given, by the clock of whoever gave it; null when it does not say. */
  readonly stamp: Instant | null
  readonly address: string
  readonly answer: Answer
  readonly message: string
  /** Null for all dates. */
  readonly date: ReplyDate | null
}

/** A calendar part that is no usable REPLY; `code` is stable, the message for a person. */
export class BadReply extends Error {
  constructor(
    readonly code: 'not-a-calendar' | 'not-a-reply' | 'no-answer-in-reply' | 'not-from-them',
    message: string,
  ) {
    super(message)
  }
}

const ANSWER_OF: Record<string, Answer> = {
  ACCEPTED: 'accepted',
  TENTATIVE: 'tentative',
  DECLINED: 'declined',
  DELEGATED: 'delegated',
}

const addressIn = (value: unknown): string =>
  oneLine(String(value ?? ''))
    .replace(/^mailto:/i, '')
    .trim()
    .toLowerCase()

const MOST_REPLIES = 100

/**
 * Reads the answers of one sender from a REPLY: one for each date they answer. `method` is what the mail's own header
 * says, for parts that leave it out (RFC 6047 section 2.4). Throws `BadReply`.
 */
export const readReplies = (text: string, from: string, method: string | null, home: string): Reply[] => {
  let parts: ReturnType<typeof blocksOf>
  try {
    parts = blocksOf(text)
  } catch {
    throw new BadReply('not-a-calendar', 'The calendar part of this mail cannot be read.')
  }
  const events = parts.blocks.filter((block) => block.kind === 'VEVENT').slice(0, MOST_REPLIES)
  if ((parts.method || method?.toUpperCase()) !== 'REPLY' || events.length === 0)
    throw new BadReply('not-a-reply', 'This mail carries no REPLY to an invitation.')
  const { reader } = readerOf(parts.blocks, home)
  return events.map((block) => {
    let read: ReturnType<typeof parseEvent>
    let date: ReplyDate | null
    try {
      read = parseEvent(block, 'REPLY')
      if (read.misdated) throw new Error('An answer for a date that is on no calendar is for none.')
      date = reader.loneDate(read)
    } catch {
      throw new BadReply('not-a-calendar', 'The calendar part of this mail cannot be read.')
    }
    const attendees = read.event.getAllProperties('attendee')
    const own = attendees.find((one) => addressIn(one.getFirstValue()) === from.toLowerCase())
    const speaker = addressIn(attendees[0]?.getFirstValue())
    if (!own && speaker)
      throw new BadReply(
        'not-from-them',
        `This answer speaks for ${speaker.slice(0, 200)} but was sent by somebody else.`,
      )
    const answer = ANSWER_OF[String(own?.getParameter('partstat') ?? '').toUpperCase()]
    if (!own || !answer || !read.uid)
      throw new BadReply('no-answer-in-reply', 'The REPLY does not say who answers what to which meeting.')
    const comment = manyLines(String(read.event.getFirstPropertyValue('comment') ?? '')).trim()
    const delegate = answer === 'delegated' ? addressIn(own.getParameter('delegated-to')) : ''
    const passedOn = delegate ? `Passed on to ${delegate}.` : ''
    return {
      uid: read.uid,
      sequence: read.sequence,
      stamp: read.stamp,
      address: from.toLowerCase(),
      answer,
      message: [passedOn, comment].filter(Boolean).join(' '),
      date,
    }
  })
}

/** The wall time in the meeting's zone of the date that an answer is for. */
export const dateAnswered = (date: ReplyDate, zone: string): Wall =>
  date.floating ? date.wall : toWall(zoneTable(zone), date.instant)
