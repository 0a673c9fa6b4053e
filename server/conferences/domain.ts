import { callEvent, conferenceEvent } from '@marmot/contract/conferences'
import type { Domain } from '../platform/house.ts'
import { conferencesRoutes } from './routes.ts'
import { tidyCalls } from './store.ts'

export const domain: Domain = {
  routes: conferencesRoutes,
  events: [{ event: conferenceEvent }, { event: callEvent }],
  nightly: { calls: ({ pool, clock }) => tidyCalls(pool, clock()) },
}
