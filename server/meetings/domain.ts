import { meetingEvent } from '@marmot/contract/meetings'
import type { Domain } from '../platform/house.ts'
import { closingRoutes } from './closing-routes.ts'
import { nudgeByItself } from './nudges.ts'
import { lapseRequests } from './requests.ts'
import { closeRooms, giveRooms, rightAwayRoutes } from './right-away.ts'
import { datesRoutes, meetingsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: (routes, house) => {
    meetingsRoutes(routes, house)
    datesRoutes(routes)
    rightAwayRoutes(routes, house)
    closingRoutes(routes)
  },
  events: [{ event: meetingEvent }],
  minutely: { nudges: nudgeByItself, rooms: giveRooms, requests: lapseRequests },
  nightly: { rooms: closeRooms },
  notices: [
    'invited',
    'changed',
    'answered',
    'cancelled',
    'nudged',
    'asked',
    'granted',
    'refused',
    'lapsed',
    'moved',
  ],
}
