import { randomUUID } from 'node:crypto'
import { appendFileSync, existsSync, readFileSync } from 'node:fs'
import ICAL from 'ical.js'
import { createTransport } from 'nodemailer'

/** A meeting that somebody outside organizes, as it was sent last. Times in milliseconds. */
export interface Organized {
  readonly uid: string
  readonly from: string
  readonly to: string
  readonly title: string
  readonly start: number
  readonly minutes: number
  /** Where one joins it from afar. */
  readonly link?: string
  readonly sequence: number
  readonly cancelled: boolean
}

type MarmotMail = () => { readonly host: string; readonly port: number }

/** What an outside organizer's mail program sends: an invitation, its change, or its cancellation (RFC 5546 section 3.2). */
export const organizedText = (meeting: Organized, comment: string): string => {
  const method = meeting.cancelled ? 'CANCEL' : 'REQUEST'
  const calendar = new ICAL.Component('vcalendar')
  calendar.addPropertyWithValue('prodid', '-//Lodestar Instruments//Mail stand-in//EN')
  calendar.addPropertyWithValue('version', '2.0')
  calendar.addPropertyWithValue('method', method)
  const event = new ICAL.Component('vevent')
  event.addPropertyWithValue('uid', meeting.uid)
  event.addPropertyWithValue('sequence', meeting.sequence)
  event.addPropertyWithValue('dtstamp', ICAL.Time.fromJSDate(new Date(), true))
  event.addPropertyWithValue('dtstart', ICAL.Time.fromJSDate(new Date(meeting.start), true))
  event.addPropertyWithValue(
    'dtend',
    ICAL.Time.fromJSDate(new Date(meeting.start + meeting.minutes * 60_000), true),
  )
  event.addPropertyWithValue('summary', meeting.title)
  if (comment) event.addPropertyWithValue('comment', comment)
  if (meeting.link) {
    const conference = new ICAL.Property('conference')
    conference.resetType('uri')
    conference.setValue(meeting.link)
    event.addProperty(conference)
  }
  const organizer = new ICAL.Property('organizer')
  organizer.setValue(`mailto:${meeting.from}`)
  const attendee = new ICAL.Property('attendee')
  attendee.setParameter('rsvp', 'TRUE')
  attendee.setParameter('partstat', 'NEEDS-ACTION')
  attendee.setValue(`mailto:${meeting.to}`)
  event.addProperty(organizer)
  event.addProperty(attendee)
  calendar.addSubcomponent(event)
  return calendar.toString()
}

/** Organizes meetings as anybody outside would, and keeps what was sent, in a file of one JSON line each. */
export const openOrganizer = (file: string | null, marmotMail: MarmotMail) => {
  const meetings = new Map<string, Organized>()
  if (file && existsSync(file))
    for (const line of readFileSync(file, 'utf8').split('\n').filter(Boolean)) {
      const meeting: Organized = JSON.parse(line)
      meetings.set(meeting.uid, meeting)
    }
  const send = async (meeting: Organized, comment: string): Promise<void> => {
    const transport = createTransport({ ...marmotMail(), secure: false, ignoreTLS: true })
    try {
      await transport.sendMail({
        from: meeting.from,
        to: meeting.to,
        subject: `${meeting.cancelled ? 'Cancelled' : 'Invitation'}: ${meeting.title}`,
        text: comment || meeting.title,
        icalEvent: {
          method: meeting.cancelled ? 'CANCEL' : 'REQUEST',
          content: organizedText(meeting, comment),
        },
      })
    } finally {
      transport.close()
    }
    // What was refused was not sent.
    meetings.set(meeting.uid, meeting)
    if (file) appendFileSync(file, `${JSON.stringify(meeting)}\n`)
  }
  const next = (uid: string): Organized => {
    const meeting = meetings.get(uid)
    if (!meeting) throw new Error('There is no such meeting.')
    return { ...meeting, sequence: meeting.sequence + 1 }
  }
  return {
    list: () => [...meetings.values()],
    invite: (given: Pick<Organized, 'from' | 'to' | 'title' | 'start' | 'minutes' | 'link'>) =>
      send(
        { ...given, uid: `${randomUUID()}@${given.from.split('@').pop()}`, sequence: 0, cancelled: false },
        '',
      ),
    move: (uid: string, start: number) => send({ ...next(uid), start }, ''),
    cancel: (uid: string, comment: string) => send({ ...next(uid), cancelled: true }, comment),
  }
}
