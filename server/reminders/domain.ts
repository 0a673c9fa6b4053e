import { remindersEvent } from '@marmot/contract/reminders'
import type { Domain } from '../platform/house.ts'
import { remindersRoutes } from './routes.ts'
import { remind, tidyReminders } from './store.ts'
import { reminderTasks } from './tasks.ts'

export const domain: Domain = {
  routes: remindersRoutes,
  tasks: (house) => reminderTasks({ ...house, url: house.url(), from: house.mailFrom() }),
  minutely: { reminders: ({ pool, clock }) => remind(pool, clock()) },
  nightly: { reminders: ({ pool, clock }) => tidyReminders(pool, clock()) },
  events: [{ event: remindersEvent }],
}
