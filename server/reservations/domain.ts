import { reservationsEvent } from '@marmot/contract/resources'
import type { Domain } from '../platform/house.ts'
import { reservationsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: reservationsRoutes,
  events: [{ event: reservationsEvent }],
}
