import ICAL from 'ical.js'
import { createTransport } from 'nodemailer'
import type { KeptMail } from './mailboxes.ts'

export const CHOICES = { accepted: 'ACCEPTED', tentative: 'TENTATIVE', declined: 'DECLINED' } as const
export type Choice = keyof typeof CHOICES

/** The iTIP REPLY (RFC 5546 section 3.2.3) that a mail program makes of an invitation. */
export const replyText = (invitation: string, address: string, choice: Choice, comment: string): string => {
  const asked = new ICAL.Component(ICAL.parse(invitation)).getFirstSubcomponent('vevent')
  const calendar = new ICAL.Component('vcalendar')
  calendar.addPropertyWithValue('prodid', '-//Corrie Institute//Mail stand-in//EN')
  calendar.addPropertyWithValue('version', '2.0')
  calendar.addPropertyWithValue('method', 'REPLY')
  const event = new ICAL.Component('vevent')
  for (const name of ['uid', 'sequence', 'organizer']) {
    const property = asked?.getFirstProperty(name)
    if (property) event.addProperty(new ICAL.Property(structuredClone(property.toJSON())))
  }
  event.addPropertyWithValue('dtstamp', ICAL.Time.fromJSDate(new Date(), true))
  const attendee = new ICAL.Property('attendee')
  attendee.setParameter('partstat', CHOICES[choice])
  attendee.setValue(`mailto:${address}`)
  event.addProperty(attendee)
  if (comment) event.addPropertyWithValue('comment', comment)
  calendar.addSubcomponent(event)
  return calendar.toString()
}

/** Sends an answer to an invitation by SMTP. Throws with the server's words when it is refused. */
export const sendReply = async (
  mail: KeptMail,
  choice: Choice,
  comment: string,
  marmotMail: { host: string; port: number },
): Promise<void> => {
  const transport = createTransport({ ...marmotMail, secure: false, ignoreTLS: true })
  try {
    await transport.sendMail({
      from: mail.to,
      to: mail.from,
      subject: `Re: ${mail.subject}`,
      text: comment || `${mail.to} answers: ${choice}.`,
      icalEvent: { method: 'REPLY', content: replyText(mail.calendar, mail.to, choice, comment) },
    })
  } finally {
    transport.close()
  }
}
