import { conversationEvent } from '@marmot/contract/conversation'
import type { Domain } from '../platform/house.ts'
import { conversationRoutes } from './routes.ts'
import { tidyMessages } from './store.ts'

export const domain: Domain = {
  routes: conversationRoutes,
  events: [{ event: conversationEvent }],
  nightly: { messages: ({ pool, clock }) => tidyMessages(pool, clock()) },
  notices: ['meant'],
}
