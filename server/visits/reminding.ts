import { cityOf } from '@marmot/core/letters'
import { oneLine } from '@marmot/core/text'
import { MINUTE, shortTime, spanInWords, zoneTable } from '@marmot/core/time'
import type pg from 'pg'
import { z } from 'zod'
import { makeLinks } from '../links/index.ts'
import type { Clock } from '../platform/clock.ts'
import { transaction } from '../platform/database.ts'
import type { House, Mailer } from '../platform/house.ts'
import { addJobs } from '../platform/jobs.ts'
import { ProblemError } from '../platform/problems.ts'
import { cancel, PROOF_TASK } from './booking.ts'
import { declinedVisits, takeDue, visitLetter, wishLetter } from './store.ts'

const TASK = 'send-visit-letter'
const MOST_A_MINUTE = 200

/** What the jobs that write to visitors need. */
interface Post {
  readonly url: string
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly transport: Mailer
  readonly from: string
}

const proving = z.object({ wishId: z.uuid() })
const sending = z.object({ visitId: z.uuid(), which: z.enum(['remind', 'thanks']) })

/** The jobs of this domain: letters to visitors, before and after. What became moot before it left is not sent. */
export const visitTasks = ({ pool, clock, transport, from, url }: Post) => ({
  [PROOF_TASK]: async (payload: unknown) => {
    const { wishId } = proving.parse(payload)
    const letter = await wishLetter(pool, wishId)
    const now = clock()
    if (!letter || letter.lapses <= now) return
    const { body, title, host, page, kind, lapses } = letter
    const start = Date.parse(body.start)
    // Kept before the letter leaves, so that it opens however soon it is pressed.
    const token = (await makeLinks(pool, 'visit', [wishId], lapses, now)).get(wishId)
    const table = zoneTable(body.zone)
    const when = spanInWords(start, start + body.minutes * MINUTE, table, now)
    await transport.sendMail({
      messageId: `<visit-proof-${wishId}@${from.split('@').pop()}>`,
      from: { name: `${oneLine(host)} (Marmot)`, address: from },
      to: { name: oneLine(body.name), address: body.address },
      subject: `Is this you? ${oneLine(title)}`,
      text: [
        `Hello ${body.name},`,
        '',
        `Somebody would like to take this time, and gave your address:`,
        '',
        `  ${title}, ${host}`,
        `  ${when} (${cityOf(body.zone)} time)`,
        '',
        `If it was you, take it here before ${shortTime(lapses, table)}: ${url}/v/${page}/${kind}?proof=${token}`,
        'If it was not, there is nothing to do: the time is free again then.',
        '',
      ].join('\n'),
    })
  },
  [TASK]: async (payload: unknown) => {
    const { visitId, which } = sending.parse(payload)
    const letter = await visitLetter(pool, visitId)
    if (!letter) return
    const now = clock()
    if (which === 'remind' && letter.start <= now) return
    const table = zoneTable(letter.zone)
    const when = `${spanInWords(letter.start, letter.end, table, now)} (${cityOf(letter.zone)} time)`
    const words =
      which === 'remind'
        ? [`${letter.title} is soon:`, '', when, letter.place, '', `You meet ${letter.host}.`]
        : [letter.thanks, '', `${letter.title}, ${when}`, letter.host]
    await transport.sendMail({
      messageId: `<visit-${which}-${visitId}@${from.split('@').pop()}>`,
      from: { name: `${oneLine(letter.host)} (Marmot)`, address: from },
      replyTo: { name: oneLine(letter.host), address: letter.hostAddress },
      to: { name: oneLine(letter.name), address: letter.address },
      subject: `${which === 'remind' ? 'Soon' : 'Thank you'}: ${oneLine(letter.title)}`,
      text: [`Hello ${letter.name},`, '', ...words.filter((line, i) => line || i > 0), ''].join('\n'),
    })
  },
})

type Minutely = Pick<House, 'clock'> & { readonly pool: pg.Pool }

/** Takes up who is to be reminded, and thanked, by now. Every minute. */
export const writeToVisitors = ({ pool, clock }: Minutely): Promise<void> =>
  transaction(pool, async (sql) => {
    for (const which of ['remind', 'thanks'] as const) {
      const due = await takeDue(sql, which, clock(), MOST_A_MINUTE)
      await addJobs(
        sql,
        TASK,
        due.map((visitId) => ({ payload: { visitId, which }, key: `visit:${which}:${visitId}` })),
      )
    }
  })

/** Cancels what a visitor said no to from their mail program, within what is allowed. Every minute. */
export const cancelDeclined = async ({ pool, clock }: Minutely): Promise<void> => {
  const now = clock()
  for (const entryId of await declinedVisits(pool, now, MOST_A_MINUTE))
    await transaction(pool, (sql) => cancel(sql, entryId, '', now)).catch((error: unknown) => {
      // Too late: their no stands, and the host has read it.
      if (!(error instanceof ProblemError)) throw error
    })
}
