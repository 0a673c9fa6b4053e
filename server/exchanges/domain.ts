import type { Domain } from '../platform/house.ts'
import { lapseExchanges } from './answering.ts'
import { exchangesRoutes } from './routes.ts'

export const domain: Domain = {
  routes: exchangesRoutes,
  minutely: { exchanges: lapseExchanges },
  notices: ['room-made', 'no-room'],
}
