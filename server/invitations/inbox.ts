import { address } from '@marmot/contract/route'
import { decodeText } from '@marmot/core/feeds'
import { replyRefusal } from '@marmot/core/invitations'
import { BadMessage, type Counter, outsideMethod, type Reply, wallIn } from '@marmot/core/letters'
import { instantOf, MINUTE, wallText, zoneTable } from '@marmot/core/time'
import { type ParsedMail, simpleParser } from 'mailparser'
import type pg from 'pg'
import type { Logger } from 'pino'
import { SMTPServer } from 'smtp-server'
import { z } from 'zod'
import { answeredAt, lockByUid, readMeetings } from '../entries/index.ts'
import { toldLast } from '../letters/index.ts'
import { answerInvitation, delegate } from '../meetings/index.ts'
import type { Clock } from '../platform/clock.ts'
import { type Sql, transaction } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import type { Threads } from '../platform/threads.ts'
import { propose } from '../proposals/index.ts'
import { oursAmong, takeOutside } from './outside.ts'
import { outsideInThread, sentBackInThread } from './reading.ts'

const MOST_BYTES = 1024 * 1024

const REFUSALS = {
  'no-such-meeting': 'Marmot knows no meeting of this UID.',
  'not-invited': 'This address was not invited to the meeting, so its answer was not kept.',
  cancelled: 'This meeting was cancelled. There is nothing to answer.',
  'older-invitation': 'This answers an older invitation; a newer one is on its way.',
  'older-answer': 'A newer answer of yours came before this one, and stands.',
} as const

const structured = z.object({ params: z.record(z.string(), z.string().optional()) })
const CALENDAR_TYPES = new Set(['text/calendar', 'application/ics'])

/** The calendar part of a mail as text, and the METHOD that its header names (RFC 6047 section 2.4). */
const calendarPart = (mail: ParsedMail): { text: string; method: string | null } | null => {
  const part = mail.attachments.find((attachment) => CALENDAR_TYPES.has(attachment.contentType))
  if (!part) return null
  const read = structured.safeParse(part.headers.get('content-type'))
  const { charset = null, method = null } = read.success ? read.data.params : {}
  return { text: decodeText(part.content, charset), method }
}

/** What taking in a mail needs; `momentMs` is how long a change waits before anybody is told. */
interface Taking {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly threads: Threads
  readonly momentMs: number
}

/**
 * Takes over what a mail brings (RFC 6047): what somebody sends back to an invitation of ours, answers or other times that
 * they propose; or what somebody outside says of a meeting of theirs to `recipients` of ours. All of it or nothing. Throws `ProblemError` or `BadMessage`, and then nothing has
 * changed.
 */
export const takeMail = async (
  { pool, clock, threads, momentMs }: Taking,
  raw: Buffer,
  recipients: readonly string[],
): Promise<void> => {
  const mail = await simpleParser(raw)
  const part = calendarPart(mail)
  if (!part) throw new BadMessage('not-a-reply', 'This mail carries no REPLY to an invitation.')
  const from = mail.from?.value[0]?.address?.toLowerCase() ?? ''
  const method = outsideMethod(part.text, part.method)
  if (method) {
    const people = await oursAmong(pool, recipients)
    const homes = [...new Set(people.map((one) => one.zone))]
    const read = await outsideInThread(threads, { text: part.text, method, homes })
    await transaction(pool, (sql) => takeOutside(sql, { read, from, people }, clock()))
    return
  }
  const messages = await sentBackInThread(threads, { ...part, from })
  await transaction(pool, async (sql) => {
    for (const message of messages) await takeOne(sql, message, { now: clock(), momentMs })
  })
}

/** Finds what a message is to, if it may be taken in: the meeting, who sent it, which date, and what they were told. */
const findFor = async (sql: Sql, message: Reply | Counter, now: number) => {
  const entryId = await lockByUid(sql, message.uid)
  const [meeting] = entryId ? await readMeetings(sql, [entryId], now) : []
  const participant = meeting?.participants.find((one) => one.address === message.address)
  const recurrence = meeting?.repeats && message.date ? wallText(wallIn(message.date, meeting.zone)) : null
  // What they answer is what they were told last, which others may have been told of later.
  const told = participant ? await toldLast(sql, participant.id, recurrence) : null
  const known = meeting
    ? {
        cancelled: meeting.cancelled,
        sequence: told?.sequence ?? meeting.sequence,
        addresses: meeting.participants.map((one) => one.address),
      }
    : null
  const answered =
    meeting && participant && message.kind === 'reply'
      ? await answeredAt(sql, participant.id, meeting.entryId, recurrence)
      : null
  const refusal = replyRefusal(message, known, answered)
  if (refusal) throw new ProblemError(422, refusal, REFUSALS[refusal])
  return meeting && participant ? { meeting, participant, recurrence, told } : null
}

/** Those refusals of passing on after which the answer itself counts all the same: the other is in the list. */
const IN_THE_LIST = new Set(['takes-part-already', 'passed-on-already'])

const delegateAddress = address.nullable().catch(null)

const takeOne = async (
  sql: Sql,
  message: Reply | Counter,
  { now, momentMs }: { now: number; momentMs: number },
): Promise<void> => {
  const found = await findFor(sql, message, now)
  if (!found) return
  const { meeting, participant, recurrence, told } = found
  const who = { entryId: meeting.entryId, participantId: participant.id, recurrence }
  const words = message.message.slice(0, 1500)
  if (message.kind === 'counter') {
    const start = instantOf(zoneTable(meeting.zone), wallIn(message.starts, meeting.zone))
    const at = message.starts.floating ? start : message.starts.instant
    if (meeting.repeats && recurrence === null)
      throw new ProblemError(
        422,
        'which-date',
        'This meeting repeats: propose another time for one of its dates.',
      )
    const given = { start: Math.floor(at / MINUTE) * MINUTE, minutes: message.minutes, message: words }
    await propose(sql, who, { ...given, stamp: message.stamp }, now)
    return
  }
  const given = { message: words, stamp: message.stamp, version: told?.version ?? null }
  const to = delegateAddress.parse(message.answer === 'delegated' ? message.delegate : null)
  if (to !== null) {
    const chosen = { people: [], guests: [{ address: to, name: '', required: true }] }
    const refused = await delegate(sql, who, chosen, given, { now, momentMs }).then(
      () => null,
      (error: unknown) => error,
    )
    if (refused === null) return
    if (!(refused instanceof ProblemError && IN_THE_LIST.has(refused.code))) throw refused
  }
  await answerInvitation(sql, who, { ...given, answer: message.answer }, now)
}

/**
 * The way in for answers by mail: an SMTP server on loopback. A refusal goes back to the sender at once, as
 * `550 code: words`; trouble of our own is `451`, so that the sender tries again later.
 */
export const openInbox = (taking: Taking, log: Logger): SMTPServer =>
  new SMTPServer({
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: MOST_BYTES,
    logger: false,
    onData: (stream, session, done) => {
      const parts: Buffer[] = []
      stream.on('data', (part: Buffer) => parts.push(part))
      stream.on('end', () => {
        if (stream.sizeExceeded) {
          done(Object.assign(new Error('too-large: The mail is larger than 1 MB.'), { responseCode: 552 }))
          return
        }
        takeMail(
          taking,
          Buffer.concat(parts),
          session.envelope.rcptTo.map((to) => to.address),
        ).then(
          () => done(null, 'The answer was kept'),
          (error) => {
            const words =
              // What is ours to mend, as too much to do, is tried again later.
              error instanceof ProblemError && error.status < 500
                ? `${error.code}: ${error.detail}`
                : error instanceof BadMessage
                  ? `${error.code}: ${error.message}`
                  : null
            if (!words) log.error({ error }, 'an answer by mail failed')
            done(
              Object.assign(new Error(words ?? 'Marmot is in trouble; try again'), {
                responseCode: words ? 550 : 451,
              }),
            )
          },
        )
      })
    },
  })
