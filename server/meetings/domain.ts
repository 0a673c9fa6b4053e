import { meetingEvent } from '@marmot/contract/meetings'
import type { Domain } from '../platform/house.ts'
import { nudgeByItself } from './nudges.ts'
import { closeRooms, giveRooms, rightAwayRoutes } from './right-away.ts'
import { meetingsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: (routes, house) => {
    meetingsRoutes(routes, house)
    rightAwayRoutes(routes, house)
  },
  events: [{ event: meetingEvent }],
  minutely: { nudges: nudgeByItself, rooms: giveRooms },
  nightly: { rooms: closeRooms },
  notices: ['invited', 'changed', 'answered', 'cancelled', 'nudged'],
}
