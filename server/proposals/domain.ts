import type { Domain } from '../platform/house.ts'
import { proposalsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: proposalsRoutes,
  notices: ['proposed', 'kept', 'time-taken', 'time-kept'],
}
