import { textOfNote } from '@marmot/core/entries'
import { calendarText, writeLetter } from '@marmot/core/invitations'
import { oneLine } from '@marmot/core/text'
import { DAY, instantOf, MINUTE, wallFromText, zoneTable } from '@marmot/core/time'
import { createTransport, type Transporter } from 'nodemailer'
import type pg from 'pg'
import { z } from 'zod'
import { readMeetings, repeatsInWords, type WholeMeeting } from '../entries/index.ts'
import { makeLinks } from '../links/index.ts'
import type { Clock } from '../platform/clock.ts'
import { type Sql, together, transaction } from '../platform/database.ts'
import { addJob, addJobs, type NewJob } from '../platform/jobs.ts'
import { tellMeeting } from '../platform/live.ts'
import { findMails, insertMessages, type MailRow, setMailState } from './store.ts'

const TASK = 'send-invitation'
/** A meeting is read once for so many of its letters; more would be out of date by the time that the last one leaves. */
const LETTERS_A_JOB = 10
/** A guest's link outlives the meeting by this much, so that a late answer still arrives. */
const LINK_AFTER = 7 * DAY

/**
 * Adds the messages of a change and the jobs that send them, in the transaction of the change; of a series, about one
 * date where it is named.
 */
export const addMessages = async (
  sql: Sql,
  entryId: string,
  method: 'REQUEST' | 'CANCEL',
  now: number,
  actorId: string | null = null,
  recurrence: string | null = null,
): Promise<void> => {
  const mailIds = await insertMessages(sql, entryId, method, actorId, recurrence, now)
  const jobs: NewJob[] = []
  for (let i = 0; i < mailIds.length; i += LETTERS_A_JOB) {
    const some = mailIds.slice(i, i + LETTERS_A_JOB)
    jobs.push({ payload: { mailIds: some }, key: `mail:${some[0]}` })
  }
  await addJobs(sql, TASK, jobs)
}

/** Sends an invitation that was sent already once more, with a new link for a guest. */
export const sendAgain = (sql: Sql, mailId: string, now: number): Promise<void> =>
  addJob(sql, TASK, { mailIds: [mailId], again: now }, `mail:${mailId}:again`)

/** What the job that sends needs. `url` is where people reach Marmot. */
export interface Post {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly transport: Pick<Transporter, 'sendMail'>
  readonly url: string
  /** The address of Marmot's own that letters come from; answers go to the organizer. */
  readonly from: string
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

/** All that a letter is made of. */
interface Prepared {
  readonly mail: MailRow
  readonly meeting: WholeMeeting
  readonly recipient: WholeMeeting['participants'][number]
  readonly link: string | null
  readonly from: string
  readonly now: number
  /** When it was asked for once more. */
  readonly again: number | null
}

const compose = ({ mail, meeting, recipient, link, from, now, again }: Prepared) => {
  const oneDate = mail.recurrence !== null
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
    repeats: oneDate ? [] : repeatsInWords(meeting),
    oneDate,
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
              cancelled: meeting.cancelledDates.map(wallOf),
            },
      date: mail.recurrence === null ? null : wallOf(mail.recurrence),
      organizer: { name: meeting.organizer, address: meeting.organizerAddress },
      participants: meeting.participants,
    },
    mail.method,
  )
  return {
    // The same message keeps its id however often it is tried, so that a mail store can tell a repetition.
    messageId: `<${mail.id}${again === null ? '' : `.${again}`}@${from.split('@').pop()}>`,
    from: { name: `${oneLine(meeting.organizer)} (Marmot)`, address: from },
    replyTo: { name: oneLine(meeting.organizer), address: meeting.organizerAddress },
    to: { name: oneLine(recipient.name), address: recipient.address },
    subject: letter.subject,
    text: letter.text,
    html: letter.html,
    icalEvent: { method: mail.method, content: calendar, filename: 'invitation.ics' },
  }
}

/**
 * What is to be sent of some messages about one meeting; left out is what was sent already or became moot by a later
 * message.
 */
const prepare = ({ pool, clock, url, from }: Post, mailIds: readonly string[], again: number | null) =>
  transaction(
    pool,
    async (sql): Promise<Prepared[]> => {
      const now = clock()
      const mails = (await findMails(sql, mailIds)).filter(
        (mail) => (mail.state !== 'sent' || again !== null) && mail.newest,
      )
      const [first] = mails
      if (!first) return []
      const [meeting] = await readMeetings(sql, [first.entryId], now, first.recurrence)
      if (!meeting) return []
      const letters = mails.flatMap((mail) => {
        const recipient = meeting.participants.find((one) => one.id === mail.participantId)
        return recipient ? { mail, recipient } : []
      })
      // Links are kept before the letters leave, so that they open however soon they are pressed.
      const guests = letters.filter(
        ({ mail, recipient }) => mail.method === 'REQUEST' && recipient.personId === null,
      )
      const tokens = await makeLinks(
        sql,
        'answer',
        guests.map(({ recipient }) => recipient.id),
        meeting.lastEnd + LINK_AFTER,
        now,
      )
      return letters.map(({ mail, recipient }) => {
        const token = tokens.get(recipient.id)
        const link =
          mail.method === 'CANCEL'
            ? null
            : token
              ? `${url}/i/${token}`
              : `${url}/now?meeting=${meeting.entryId}`
        return { mail, meeting: dateOf(meeting, mail), recipient, link, from, now, again }
      })
    },
    { onePlan: true },
  )

/** A date that was called off is written out no more: its time is the rule's. */
const dateOf = (meeting: WholeMeeting, { recurrence }: MailRow): WholeMeeting => {
  if (recurrence === null || meeting.recurrence === recurrence) return meeting
  const change = meeting.changes.find((one) => one.recurrence === recurrence)
  const start = instantOf(zoneTable(meeting.zone), wallOf(change?.starts ?? recurrence))
  return { ...meeting, start, end: start + meeting.minutes * MINUTE }
}

/** True when the mail server has refused a letter for good; anything else is trouble that passes (RFC 5321 section 4.2.1). */
const isRefused = (error: unknown): boolean =>
  error instanceof Error && 'responseCode' in error && Number(error.responseCode) >= 500

/**
 * Sends one message. A failure is kept for the organizer to see, and thrown. Should the server die between the mail
 * server's yes and our own note of it, the message is sent again under the same Message-ID, which is how a mail store
 * knows a repetition.
 */
const sendLetter = async ({ pool, clock, transport }: Post, prepared: Prepared): Promise<void> => {
  const { mail, meeting } = prepared
  const note = (state: 'waiting' | 'sent' | 'failed', error: string | null) =>
    transaction(pool, (sql) =>
      together([
        setMailState(sql, mail.id, state, error, clock()),
        tellMeeting(sql, meeting.entryId, [meeting.organizerId]),
      ]),
    )
  try {
    await transport.sendMail(compose(prepared))
  } catch (error) {
    await note(isRefused(error) ? 'failed' : 'waiting', error instanceof Error ? error.message : 'unknown')
    throw error
  }
  await note('sent', null)
}

/** What a job is about. One that was added by an older Marmot names a single message. */
const asked = z
  .union([z.object({ mailIds: z.array(z.uuid()) }), z.object({ mailId: z.uuid() })])
  .and(z.object({ again: z.number().nullish() }))

/** The jobs of this domain. The queue gives each to one worker at a time, and tries again what has thrown. */
export const letterTasks = (post: Post) => ({
  [TASK]: async (payload: unknown) => {
    const job = asked.parse(payload)
    const mailIds = 'mailIds' in job ? job.mailIds : [job.mailId]
    await together((await prepare(post, mailIds, job.again ?? null)).map((one) => sendLetter(post, one)))
  },
})
