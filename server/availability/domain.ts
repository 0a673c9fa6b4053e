import { timeEvent } from '@marmot/contract/availability'
import type { Domain } from '../platform/house.ts'
import { hearersOf } from '../sharing/index.ts'
import { layerRoutes } from './layers.ts'
import { availabilityRoutes } from './routes.ts'

export const domain: Domain = {
  routes: (routes) => {
    availabilityRoutes(routes)
    layerRoutes(routes)
  },
  events: [
    {
      event: timeEvent,
      // Whoever shares nothing is not even known to be active.
      pass:
        ({ pool, clock }) =>
        async (event, listeners) => {
          const heard = await hearersOf(pool, event.people ?? [], listeners, clock())
          return new Map(
            [...heard].flatMap(([id, people]) => (people.length ? [[id, { ...event, people }]] : [])),
          )
        },
    },
  ],
}
