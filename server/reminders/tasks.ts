import { oneLine } from '@marmot/core/text'
import { lengthInWords, MINUTE, spanInWords, zoneTable } from '@marmot/core/time'
import type pg from 'pg'
import type { Clock } from '../platform/clock.ts'
import type { Mailer } from '../platform/house.ts'
import { standingReminders, TASK } from './store.ts'

/** What the job that mails reminders needs. */
interface Post {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly transport: Mailer
  readonly url: string
  /** The address of Marmot's own that reminders come from. */
  readonly from: string
}

/** The jobs of this domain. A reminder that became moot before its mail left is not sent. */
export const reminderTasks = ({ pool, clock, transport, url, from }: Post) => ({
  [TASK]: async (payload: unknown) => {
    if (!payload || typeof payload !== 'object' || !('reminderId' in payload)) return
    const [one] = await standingReminders(pool, { reminderId: String(payload.reminderId) })
    const now = clock()
    if (!one || one.end <= now) return
    const minutes = Math.round((one.start - now) / MINUTE)
    const when = minutes > 0 ? `In ${lengthInWords(minutes)}` : 'Now'
    const title = oneLine(one.title) || 'an entry'
    await transport.sendMail({
      messageId: `<reminder-${one.id}-${one.nextAt}@${from.split('@').pop()}>`,
      from: { name: 'Marmot', address: from },
      to: { name: one.name, address: one.address },
      subject: `${when}: ${title}`,
      text: `${title}\n${spanInWords(one.start, one.end, zoneTable(one.zone), now)}\n${one.place ? `${one.place}\n` : ''}\n${url}/time\n`,
    })
  },
})
