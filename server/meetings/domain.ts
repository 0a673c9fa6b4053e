import { meetingEvent } from '@marmot/contract/meetings'
import type { Domain } from '../platform/house.ts'
import { meetingsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: meetingsRoutes,
  events: [{ event: meetingEvent }],
  notices: ['invited', 'changed', 'answered', 'cancelled'],
}
