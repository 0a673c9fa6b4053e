import { BadReply, readReply, replyRefusal } from '@marmot/core/invitations'
import { simpleParser } from 'mailparser'
import type pg from 'pg'
import type { Logger } from 'pino'
import { SMTPServer } from 'smtp-server'
import { readMeetings } from '../meetings/index.ts'
import type { Clock } from '../platform/clock.ts'
import { transaction } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'
import { answerInvitation } from './answers.ts'
import { lockMeetingByUid } from './store.ts'

const MOST_BYTES = 1024 * 1024

const REFUSALS = {
  'no-such-meeting': 'Marmot knows no meeting of this UID.',
  'not-invited': 'This address was not invited to the meeting, so its answer was not kept.',
  cancelled: 'This meeting was cancelled. There is nothing to answer.',
  'older-invitation': 'This answers an older invitation; a newer one is on its way.',
} as const

/** Takes over the answer in a mail (RFC 6047). Throws `ProblemError` or `BadReply`, and then nothing has changed. */
export const takeReply = async (pool: pg.Pool, clock: Clock, raw: Buffer): Promise<void> => {
  const mail = await simpleParser(raw)
  const part = mail.attachments.find((attachment) => attachment.contentType === 'text/calendar')
  if (!part) throw new BadReply('not-a-reply', 'This mail carries no REPLY to an invitation.')
  const reply = readReply(part.content.toString('utf8'))
  const from = mail.from?.value[0]?.address?.toLowerCase()
  if (from !== reply.address)
    throw new ProblemError(
      422,
      'not-from-them',
      `This answer speaks for ${reply.address} but was sent by somebody else.`,
    )
  await transaction(pool, async (sql) => {
    const entryId = await lockMeetingByUid(sql, reply.uid)
    const [meeting] = entryId ? await readMeetings(sql, [entryId], clock()) : []
    const known = meeting ? { ...meeting, addresses: meeting.participants.map((one) => one.address) } : null
    const refusal = replyRefusal(reply, known)
    if (refusal) throw new ProblemError(422, refusal, REFUSALS[refusal])
    const participant = meeting?.participants.find((one) => one.address === reply.address)
    if (!meeting || !participant) return
    const message = reply.message.slice(0, 2000)
    await answerInvitation(
      sql,
      { entryId: meeting.entryId, participantId: participant.id },
      { ...reply, message },
      clock(),
    )
  })
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
