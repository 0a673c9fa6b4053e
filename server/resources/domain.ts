import { placesEvent } from '@marmot/contract/resources'
import type { Domain } from '../platform/house.ts'
import { resourcesRoutes } from './routes.ts'

export const domain: Domain = {
  routes: resourcesRoutes,
  events: [{ event: placesEvent }],
}
