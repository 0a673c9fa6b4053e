import { placesEvent } from '@marmot/contract/resources'
import type { Domain } from '../platform/house.ts'
import { keepingRoutes } from './keeping-routes.ts'
import { resourcesRoutes } from './routes.ts'

export const domain: Domain = {
  routes: (routes) => {
    resourcesRoutes(routes)
    keepingRoutes(routes)
  },
  events: [{ event: placesEvent }],
}
