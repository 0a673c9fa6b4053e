import { decodeCalendar } from '@marmot/core/feeds'
import { replyRefusal } from '@marmot/core/invitations'
import { BadReply, dateAnswered, type Reply, readReplies } from '@marmot/core/letters'
import { wallText } from '@marmot/core/time'
import { type ParsedMail, simpleParser } from 'mailparser'
import type pg from 'pg'
import type { Logger } from 'pino'
import { SMTPServer } from 'smtp-server'
import { z } from 'zod'
import { answeredAt, lockByUid, readMeetings } from '../entries/index.ts'
import { toldLast } from '../letters/index.ts'
import { answerInvitation } from '../meetings/index.ts'
import type { Clock } from '../platform/clock.ts'
import { type Sql, transaction } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'

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
  return { text: decodeCalendar(part.content, charset), method }
}

/**
 * Takes over the answers in a mail (RFC 6047), to one date of a series or to all: all of them or none. Throws
 * `ProblemError` or `BadReply`, and then nothing has changed.
 */
export const takeReply = async (pool: pg.Pool, clock: Clock, raw: Buffer): Promise<void> => {
  const mail = await simpleParser(raw)
  const part = calendarPart(mail)
  if (!part) throw new BadReply('not-a-reply', 'This mail carries no REPLY to an invitation.')
  const from = mail.from?.value[0]?.address?.toLowerCase() ?? ''
  const replies = readReplies(part.text, from, part.method, 'UTC')
  await transaction(pool, async (sql) => {
    for (const reply of replies) await takeOne(sql, reply, clock())
  })
}

const takeOne = async (sql: Sql, reply: Reply, now: number): Promise<void> => {
  const entryId = await lockByUid(sql, reply.uid)
  const [meeting] = entryId ? await readMeetings(sql, [entryId], now) : []
  const participant = meeting?.participants.find((one) => one.address === reply.address)
  const recurrence = meeting?.repeats && reply.date ? wallText(dateAnswered(reply.date, meeting.zone)) : null
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
    meeting && participant ? await answeredAt(sql, participant.id, meeting.entryId, recurrence) : null
  const refusal = replyRefusal(reply, known, answered)
  if (refusal) throw new ProblemError(422, refusal, REFUSALS[refusal])
  if (!meeting || !participant) return
  await answerInvitation(
    sql,
    { entryId: meeting.entryId, participantId: participant.id, recurrence },
    {
      answer: reply.answer,
      message: reply.message.slice(0, 2000),
      stamp: reply.stamp,
      version: told?.version,
    },
    now,
  )
}

/**
 * The way in for answers by mail: an SMTP server on loopback. A refusal goes back to the sender at once, as
 * `550 code: words`; trouble of our own is `451`, so that the sender tries again later.
 */
export const openInbox = (pool: pg.Pool, clock: Clock, log: Logger): SMTPServer =>
  new SMTPServer({
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: MOST_BYTES,
    logger: false,
    onData: (stream, _session, done) => {
      const parts: Buffer[] = []
      stream.on('data', (part: Buffer) => parts.push(part))
      stream.on('end', () => {
        if (stream.sizeExceeded) {
          done(Object.assign(new Error('too-large: The mail is larger than 1 MB.'), { responseCode: 552 }))
          return
        }
        takeReply(pool, clock, Buffer.concat(parts)).then(
          () => done(null, 'The answer was kept'),
          (error) => {
            const words =
              error instanceof ProblemError
                ? `${error.code}: ${error.detail}`
                : error instanceof BadReply
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
