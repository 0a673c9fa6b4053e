import { randomUUID } from 'node:crypto'
import { type SentBack, sentBackText } from '@marmot/core/letters'
import { ANSWERS } from '@marmot/core/sharing'
import { oneLine } from '@marmot/core/text'
import { shortTime, zoneTable } from '@marmot/core/time'
import { z } from 'zod'
import type { Sql } from '../platform/database.ts'
import type { Mailer } from '../platform/house.ts'
import { addJob } from '../platform/jobs.ts'

/** The job that sends something back to whoever organizes a meeting elsewhere. */
export const BACK_TASK = 'send-back'

/**
 * Sends an answer, or another time, back to whoever organizes a meeting elsewhere: a job in the caller's transaction. What
 * is sent is kept with the job, so that it says what was said and not what has become of it since.
 */
export const sendBack = (sql: Sql, back: SentBack): Promise<void> => {
  const id = randomUUID()
  return addJob(sql, BACK_TASK, { id, back }, `back:${id}`)
}

const person = z.object({ name: z.string(), address: z.string() })
const sending = z.object({
  id: z.uuid(),
  back: z.object({
    uid: z.string(),
    sequence: z.number(),
    stamp: z.number(),
    title: z.string(),
    organizer: person,
    attendee: person,
    date: z.object({ recurrence: z.number(), zone: z.string() }).nullable(),
    comment: z.string(),
    said: z.union([
      z.object({ answer: z.enum(ANSWERS), delegate: z.string().nullable() }),
      z.object({ start: z.number(), end: z.number() }),
    ]),
  }),
})

const SAYS = {
  accepted: 'says yes to',
  tentative: 'may come to',
  declined: 'says no to',
  delegated: 'has passed on',
  'needs-action': 'has not decided on',
} as const

const wordsOf = ({ attendee, title, said, date, comment }: SentBack): string => {
  const dated = date
    ? `, on ${shortTime(date.recurrence, zoneTable('UTC')).replace(/ \d\d:\d\d$/, '')} only`
    : ''
  const words =
    'answer' in said
      ? `${attendee.name} ${SAYS[said.answer]} "${oneLine(title)}"${dated}${said.delegate ? ` to ${said.delegate}` : ''}.`
      : `${attendee.name} proposes another time for "${oneLine(title)}"${dated}: ${shortTime(said.start, zoneTable('UTC'))} UTC.`
  return [words, comment].filter(Boolean).join('\n\n')
}

/**
 * Sends it, from the address of whoever says it: a REPLY counts when it comes from the one who was invited. Tried again,
 * it is the same mail.
 */
export const sendBackTask =
  (transport: Mailer) =>
  async (payload: unknown): Promise<void> => {
    const { id, back } = sending.parse(payload)
    const counter = 'start' in back.said
    const text = wordsOf(back)
    await transport.sendMail({
      messageId: `<${id}@${back.attendee.address.split('@').pop()}>`,
      from: { name: oneLine(back.attendee.name), address: back.attendee.address },
      to: { name: oneLine(back.organizer.name), address: back.organizer.address },
      subject: text.split('\n')[0] ?? '',
      text,
      icalEvent: {
        method: counter ? 'COUNTER' : 'REPLY',
        content: sentBackText(back),
        filename: 'answer.ics',
      },
    })
  }
