import type { Domain } from '../platform/house.ts'
import { invitationsRoutes } from './routes.ts'

export const domain: Domain = {
  routes: invitationsRoutes,
}
