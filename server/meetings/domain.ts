import { meetingEvent } from '@marmot/contract/meetings'
import type { Domain } from '../platform/house.ts'
import { nudgeByItself } from './nudges.ts'
import { meetingsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: meetingsRoutes,
  events: [{ event: meetingEvent }],
  minutely: { nudges: nudgeByItself },
  notices: ['invited', 'changed', 'answered', 'cancelled', 'nudged'],
}
