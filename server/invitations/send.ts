import { textOfNote } from '@marmot/core/entries'
import { calendarText, writeLetter } from '@marmot/core/invitations'
import { ruleInWords } from '@marmot/core/recurrence'
import { clockText, DAY, dayOf, minuteOf, shortDay, wallFromText } from '@marmot/core/time'
import { createTransport, type Transporter } from 'nodemailer'
import type pg from 'pg'
import { readMeetings, type WholeMeeting } from '../meetings/index.ts'
import type { Clock } from '../platform/clock.ts'
import { type Sql, transaction } from '../platform/database.ts'
import { addJob } from '../platform/jobs.ts'
import { tellMeeting } from '../platform/live.ts'
import { findMail, insertMessages, type MailRow, makeGuestLink, setMailState } from './store.ts'

const TASK = 'send-invitation'
/** A guest's link outlives the meeting by this much, so that a late answer still arrives. */
const LINK_AFTER = 7 * DAY

/** Adds the messages of a change and the jobs that send them, in the transaction of the change. */
export const addMessages = async (
  sql: Sql,
  entryId: string,
  method: 'REQUEST' | 'CANCEL',
  now: number,
  actorId: string | null = null,
): Promise<void> => {
  for (const mailId of await insertMessages(sql, entryId, method, actorId, now)) {
    await addJob(sql, TASK, { mailId }, `mail:${mailId}`)
  }
}

/** What the job that sends needs. `url` is where people reach Marmot. */
export interface Post {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly transport: Pick<Transporter, 'sendMail'>
  readonly url: string
}

export const openTransport = (smtpUrl: string): Transporter =>
  createTransport({
    url: smtpUrl,
    pool: true,
    maxConnections: 4,
    connectionTimeout: 5000,
    greetingTimeout: 5000,
  })

const wallOf = (text: string): number => wallFromText(text) ?? 0

/** How a series repeats, and each date that differs from it, in the meeting's own zone. */
const repeatsInWords = (meeting: WholeMeeting): string[] => {
  if (meeting.rule === null) return []
  const moved = meeting.changes.map((change) => {
    const from = shortDay(dayOf(wallOf(change.recurrence)))
    const to = wallOf(change.starts ?? change.recurrence)
    const time = change.starts ? ` on ${shortDay(dayOf(to))} at ${clockText(minuteOf(to))}` : ''
    return `but instead of ${from}${time}${change.place ? ` in ${change.place}` : ''}`
  })
  return [ruleInWords(meeting.rule, wallOf(meeting.starts)), ...moved]
}

const compose = (
  meeting: WholeMeeting,
  mail: MailRow,
  recipient: WholeMeeting['participants'][number],
  link: string | null,
  now: number,
) => {
  const letter = writeLetter({
    kind: mail.method,
    title: meeting.title,
    organizer: mail.actor ? `${mail.actor} for ${meeting.organizer}` : meeting.organizer,
    recipient: recipient.name,
    required: recipient.required,
    start: meeting.start,
    end: meeting.end,
    zone: recipient.zone ?? meeting.organizerZone,
    organizerZone: meeting.organizerZone,
    place: meeting.place,
    repeats: repeatsInWords(meeting),
    note: textOfNote(meeting.note),
    others: meeting.participants.filter((one) => one !== recipient && !one.organizer).map((one) => one.name),
    link,
    needsAccount: recipient.personId !== null,
    now,
  })
  const calendar = calendarText(
    {
      uid: meeting.uid,
      sequence: mail.sequence,
      stamp: mail.writtenAt.getTime(),
      start: meeting.start,
      end: meeting.end,
      zone: meeting.zone,
      title: meeting.title,
      description: textOfNote(meeting.note),
      place: meeting.place,
      series:
        meeting.rule === null
          ? null
          : {
              rule: meeting.rule,
              starts: wallOf(meeting.starts),
              changes: meeting.changes.map((change) => ({
                recurrence: wallOf(change.recurrence),
                starts: change.starts === null ? null : wallOf(change.starts),
                place: change.place,
              })),
            },
      organizer: { name: meeting.organizer, address: meeting.organizerAddress },
      participants: meeting.participants,
    },
    mail.method,
  )
  return {
    // The same message keeps its id however often it is tried, so that a mail store can tell a repetition.
    messageId: `<${mail.id}@marmot.corrie.example>`,
    from: { name: meeting.organizer, address: meeting.organizerAddress },
    sender: 'marmot@corrie.example',
    to: { name: recipient.name, address: recipient.address },
    subject: letter.subject,
    text: letter.text,
    html: letter.html,
    icalEvent: { method: mail.method, content: calendar, filename: 'invitation.ics' },
  }
}

/** What is to be sent, or null when it was sent already or became moot by a later message. */
const prepare = async ({ pool, clock, url }: Post, mailId: string) => {
  const mail = await findMail(pool, mailId)
  if (!mail || mail.state === 'sent' || !mail.newest) return null
  const [meeting] = await readMeetings(pool, [mail.entryId], clock())
  const recipient = meeting?.participants.find((one) => one.id === mail.participantId)
  if (!meeting || !recipient) return null
  // The link is kept before the letter leaves, so that it opens however soon it is pressed.
  const link =
    mail.method === 'CANCEL'
      ? null
      : recipient.personId === null
        ? `${url}/i/${await makeGuestLink(pool, recipient.id, meeting.end + LINK_AFTER)}`
        : `${url}/now?meeting=${meeting.entryId}`
  return { meeting, message: compose(meeting, mail, recipient, link, clock()) }
}

/**
 * Sends one message. The job queue gives it to one worker at a time. A failure is kept for the organizer to see, and
 * thrown, so that the queue tries again. Should the server die between the mail server's yes and our own note of it,
 * the message is sent again under the same Message-ID, which is how a mail store knows a repetition.
 */
export const sendMail = async (post: Post, mailId: string): Promise<void> => {
  const { pool, clock, transport } = post
  const prepared = await prepare(post, mailId)
  if (!prepared) return
  const { meeting, message } = prepared
  const note = (state: 'sent' | 'failed', error: string | null) =>
    transaction(pool, async (sql) => {
      await setMailState(sql, mailId, state, error, clock())
      await tellMeeting(sql, meeting.entryId, [meeting.organizerId])
    })
  try {
    await transport.sendMail(message)
  } catch (error) {
    await note('failed', error instanceof Error ? error.message : 'unknown')
    throw error
  }
  await note('sent', null)
}

/** The jobs of this domain. */
export const invitationTasks = (post: Post) => ({
  [TASK]: async (payload: unknown) => {
    if (payload && typeof payload === 'object' && 'mailId' in payload)
      await sendMail(post, String(payload.mailId))
  },
})
