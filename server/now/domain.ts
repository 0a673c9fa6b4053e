import type { Domain } from '../platform/house.ts'
import { nowRoutes } from './routes.ts'

export const domain: Domain = {
  routes: nowRoutes,
}
