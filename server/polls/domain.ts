import { pollEvent } from '@marmot/contract/polls'
import type { Domain } from '../platform/house.ts'
import { pollsRoutes } from './routes.ts'
import { pollTasks, tellDaily, tellOver } from './telling.ts'

export const domain: Domain = {
  routes: pollsRoutes,
  tasks: (house) => pollTasks({ ...house, url: house.url(), from: house.mailFrom() }),
  minutely: { polls: tellOver },
  nightly: { polls: tellDaily },
  events: [{ event: pollEvent }],
  notices: ['poll-asked', 'poll-marked', 'poll-proposed', 'poll-over', 'poll-daily', 'poll-ended'],
}
