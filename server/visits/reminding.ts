import { cityOf } from '@marmot/core/letters'
import { oneLine } from '@marmot/core/text'
import { spanInWords, zoneTable } from '@marmot/core/time'
import type pg from 'pg'
import { z } from 'zod'
import type { Clock } from '../platform/clock.ts'
import { transaction } from '../platform/database.ts'
import type { House, Mailer } from '../platform/house.ts'
import { addJobs } from '../platform/jobs.ts'
import { ProblemError } from '../platform/problems.ts'
import { cancel } from './booking.ts'
import { declinedVisits, takeDue, visitLetter } from './store.ts'

const TASK = 'send-visit-letter'
const MOST_A_MINUTE = 200

/** What the job that writes to visitors needs. */
interface Post {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly transport: Mailer
  readonly from: string
}

const sending = z.object({ visitId: z.uuid(), which: z.enum(['remind', 'thanks']) })

/** The jobs of this domain: letters to visitors, before and after. What became moot before it left is not sent. */
export const visitTasks = ({ pool, clock, transport, from }: Post) => ({
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
