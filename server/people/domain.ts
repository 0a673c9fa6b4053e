import type { Domain } from '../platform/house.ts'
import { tellTime } from '../platform/live.ts'
import { peopleRoutes } from './routes.ts'
import { applyZoneChanges, tidyPeople } from './store.ts'

export const domain: Domain = {
  routes: (routes, { settings }) => peopleRoutes(routes, settings),
  minutely: {
    journeys: async ({ pool, clock }) => {
      const moved = await applyZoneChanges(pool, clock())
      if (moved.length) await tellTime(pool, moved)
    },
  },
  nightly: { people: ({ pool, clock }) => tidyPeople(pool, clock()) },
}
