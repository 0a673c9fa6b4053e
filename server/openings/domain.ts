import type { Domain } from '../platform/house.ts'
import { letHoldsGo } from './holds.ts'
import { openingsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: openingsRoutes,
  minutely: { holds: letHoldsGo },
}
