import { visitEvent } from '@marmot/contract/visits'
import type { Domain } from '../platform/house.ts'
import { cancelDeclined, visitTasks, writeToVisitors } from './reminding.ts'
import { visitsRoutes } from './routes.ts'
import { tidyWishes } from './store.ts'

export const domain: Domain = {
  routes: visitsRoutes,
  tasks: (house) => visitTasks({ ...house, url: house.url(), from: house.mailFrom() }),
  minutely: { visitors: writeToVisitors, declined: cancelDeclined },
  nightly: { visitors: ({ pool, clock }) => tidyWishes(pool, clock()) },
  events: [{ event: visitEvent }],
  notices: ['visit-taken', 'visit-moved', 'visit-cancelled', 'visit-hosting'],
}
