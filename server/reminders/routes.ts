import { dismissReminder, listReminders, type Reminder, snoozeReminder } from '@marmot/contract/reminders'
import { MINUTE } from '@marmot/core/time'
import { at, type Sql, transaction } from '../platform/database.ts'
import { tellReminders } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { dismiss, snooze, standingReminders } from './store.ts'

export const remindersRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(listReminders, async ({ asker }) => {
    const rows = await standingReminders(pool, { personId: asker.id, now: clock() })
    return {
      reminders: rows.map(
        ({ id, entryId, recurrence, title, place, meeting, start, end }): Reminder => ({
          id,
          entryId,
          recurrence,
          title,
          place,
          meeting,
          start: at(start),
          end: at(end),
        }),
      ),
    }
  })

  const change = (personId: string, work: (sql: Sql) => Promise<boolean>) =>
    transaction(pool, async (sql) => {
      if (!(await work(sql))) throw notFound('reminder of yours')
      await tellReminders(sql, [personId])
      return {}
    })

  mount(snoozeReminder, ({ params, body, asker }) =>
    change(asker.id, (sql) => snooze(sql, params.reminderId, asker.id, clock() + body.minutes * MINUTE)),
  )
  mount(dismissReminder, ({ params, asker }) =>
    change(asker.id, (sql) => dismiss(sql, params.reminderId, asker.id, clock())),
  )
}
