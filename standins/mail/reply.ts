import ICAL from 'ical.js'
import { createTransport } from 'nodemailer'
import type { KeptMail } from './mailboxes.ts'

export const CHOICES = { accepted: 'ACCEPTED', tentative: 'TENTATIVE', declined: 'DECLINED' } as const
export type Choice = keyof typeof CHOICES

/** What somebody sends back: an answer, to whom they pass it on, or another time in UTC. */
export type Back =
  | { readonly answer: Choice; readonly comment: string }
  | { readonly delegate: string; readonly comment: string }
  | { readonly start: Date; readonly minutes: number; readonly comment: string }

/** What a mail program makes of an invitation: an iTIP REPLY or COUNTER (RFC 5546 sections 3.2.3 and 3.2.7). */
export const replyText = (invitation: string, address: string, back: Back): string => {
  const asked = new ICAL.Component(ICAL.parse(invitation)).getFirstSubcomponent('vevent')
  const counter = 'start' in back
  const calendar = new ICAL.Component('vcalendar')
  calendar.addPropertyWithValue('prodid', '-//Corrie Institute//Mail stand-in//EN')
  calendar.addPropertyWithValue('version', '2.0')
  calendar.addPropertyWithValue('method', counter ? 'COUNTER' : 'REPLY')
  const event = new ICAL.Component('vevent')
  for (const name of ['uid', 'sequence', 'organizer', 'recurrence-id', ...(counter ? ['summary'] : [])]) {
    const property = asked?.getFirstProperty(name)
    if (property) event.addProperty(new ICAL.Property(structuredClone(property.toJSON())))
  }
  event.addPropertyWithValue('dtstamp', ICAL.Time.fromJSDate(new Date(), true))
  if (counter) {
    const end = new Date(back.start.getTime() + back.minutes * 60_000)
    event.addPropertyWithValue('dtstart', ICAL.Time.fromJSDate(back.start, true))
    event.addPropertyWithValue('dtend', ICAL.Time.fromJSDate(end, true))
  }
  const attendee = new ICAL.Property('attendee')
  const state = 'answer' in back ? CHOICES[back.answer] : counter ? 'TENTATIVE' : 'DELEGATED'
  attendee.setParameter('partstat', state)
  if ('delegate' in back) attendee.setParameter('delegated-to', `mailto:${back.delegate}`)
  attendee.setValue(`mailto:${address}`)
  event.addProperty(attendee)
  if (back.comment) event.addPropertyWithValue('comment', back.comment)
  calendar.addSubcomponent(event)
  return calendar.toString()
}

/** Sends something back to an invitation by SMTP. Throws with the server's words when it is refused. */
export const sendReply = async (
  mail: KeptMail,
  back: Back,
  marmotMail: { host: string; port: number },
): Promise<void> => {
  const transport = createTransport({ ...marmotMail, secure: false, ignoreTLS: true })
  try {
    await transport.sendMail({
      from: mail.to,
      to: mail.from,
      subject: `Re: ${mail.subject}`,
      text: back.comment || `An answer of ${mail.to}.`,
      icalEvent: {
        method: 'start' in back ? 'COUNTER' : 'REPLY',
        content: replyText(mail.calendar, mail.to, back),
      },
    })
  } finally {
    transport.close()
  }
}
