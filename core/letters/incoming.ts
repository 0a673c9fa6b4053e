import { blocksOf, parseEvent, readerOf } from '../feeds/index.ts'
import type { Answer } from '../sharing/index.ts'
import { manyLines, oneLine } from '../text/index.ts'
import { type Instant, toWall, type Wall, zoneTable } from '../time/index.ts'

/** A time in a message: on the wall of the meeting's own zone when it names none, else an instant. */
export interface MessageTime {
  readonly wall: Wall
  readonly instant: Instant
  readonly floating: boolean
}

/** What somebody who was invited sends back by mail, of one meeting or one date of it. */
interface Incoming {
  readonly uid: string
  readonly sequence: number
  /** When it was given, by the clock of whoever gave it; null when it does not say. */
  readonly stamp: Instant | null
  readonly address: string
  /** What they said with it. */
  readonly message: string
  /** The date of a series that it is for; null for all of them. */
  readonly date: MessageTime | null
}

/** An answer (RFC 5546 section 3.2.3). */
export interface Reply extends Incoming {
  readonly kind: 'reply'
  readonly answer: Answer
  /** To whom it was passed on, where it was. */
  readonly delegate: string | null
}

/** Another time that is proposed (RFC 5546 section 3.2.7). */
export interface Counter extends Incoming {
  readonly kind: 'counter'
  readonly starts: MessageTime
  readonly minutes: number
}

/** A calendar part that says nothing we can use; `code` is stable, the message for a person. */
export class BadMessage extends Error {
  constructor(
    readonly code:
      | 'not-a-calendar'
      | 'not-a-reply'
      | 'no-answer-in-reply'
      | 'no-time-in-counter'
      | 'not-from-them'
      | 'not-an-invitation'
      | 'too-large'
      | 'too-many',
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

/** The address in a CAL-ADDRESS value, in lower case. */
export const addressIn = (value: unknown): string =>
  oneLine(String(value ?? ''))
    .replace(/^mailto:/i, '')
    .trim()
    .toLowerCase()

const MOST_EVENTS = 100
const METHODS = new Set(['REPLY', 'COUNTER'])

const unreadable = () => new BadMessage('not-a-calendar', 'The calendar part of this mail cannot be read.')

type Reader = ReturnType<typeof readerOf>['reader']
type Read = ReturnType<typeof parseEvent>

/** The line that says how the sender themselves stands. Nobody speaks for others. */
const ownLine = ({ event }: Read, from: string) => {
  const attendees = event.getAllProperties('attendee')
  const own = attendees.find((one) => addressIn(one.getFirstValue()) === from)
  const speaker = addressIn(attendees[0]?.getFirstValue())
  if (!own && speaker)
    throw new BadMessage(
      'not-from-them',
      `This answer speaks for ${speaker.slice(0, 200)} but was sent by somebody else.`,
    )
  return own
}

const messageOf = (read: Read, reader: Reader, from: string): Incoming => {
  let date: MessageTime | null
  try {
    if (read.misdated) throw new Error('A date that is on no calendar is none.')
    date = reader.loneDate(read)
  } catch {
    throw unreadable()
  }
  const message = manyLines(String(read.event.getFirstPropertyValue('comment') ?? '')).trim()
  const { uid, sequence, stamp } = read
  return { uid, sequence, stamp, address: from, message, date }
}

const replyIn = (read: Read, reader: Reader, from: string): Reply => {
  const message = messageOf(read, reader, from)
  const own = ownLine(read, from)
  const answer = ANSWER_OF[String(own?.getParameter('partstat') ?? '').toUpperCase()]
  if (!own || !answer || !read.uid)
    throw new BadMessage('no-answer-in-reply', 'The REPLY does not say who answers what to which meeting.')
  const delegate = answer === 'delegated' ? addressIn(own.getParameter('delegated-to')) : ''
  return { kind: 'reply', ...message, answer, delegate: delegate || null }
}

const counterIn = (read: Read, reader: Reader, from: string): Counter => {
  const message = messageOf(read, reader, from)
  ownLine(read, from)
  try {
    const { start, minutes, allDay } = reader.timeOf(read)
    if (allDay || !read.uid) throw new Error('A meeting is at a time of day.')
    return { kind: 'counter', ...message, starts: start, minutes }
  } catch {
    throw new BadMessage('no-time-in-counter', 'The COUNTER does not say which time is proposed.')
  }
}

/**
 * Reads what one sender sends back to an invitation: their answers (REPLY), or the times that they propose (COUNTER), one
 * for each date that they speak of. `method` is what the mail's own header says, for parts that leave it out (RFC 6047
 * section 2.4). Throws `BadMessage`.
 */
export const readIncoming = (
  text: string,
  from: string,
  method: string | null,
  home: string,
): (Reply | Counter)[] => {
  let parts: ReturnType<typeof blocksOf>
  try {
    parts = blocksOf(text)
  } catch {
    throw unreadable()
  }
  const events = parts.blocks.filter((block) => block.kind === 'VEVENT').slice(0, MOST_EVENTS)
  const said = parts.method || method?.toUpperCase() || ''
  if (!METHODS.has(said) || events.length === 0)
    throw new BadMessage('not-a-reply', 'This mail carries no REPLY to an invitation.')
  const { reader } = readerOf(parts.blocks, home)
  return events.map((block) => {
    let read: Read
    try {
      read = parseEvent(block, said)
    } catch {
      throw unreadable()
    }
    return said === 'REPLY'
      ? replyIn(read, reader, from.toLowerCase())
      : counterIn(read, reader, from.toLowerCase())
  })
}

/** The wall time in the meeting's zone of a time that a message names. */
export const wallIn = (time: MessageTime, zone: string): Wall =>
  time.floating ? time.wall : toWall(zoneTable(zone), time.instant)
