import type { Domain, House } from '../platform/house.ts'
import { importRoutes } from './imports.ts'
import { publishedRoutes } from './published.ts'
import { feedTasks, planFeeds, readingRoutes } from './reading.ts'
import { tidyImports } from './store.ts'

const reading = ({ pool, clock, threads, settings }: House) => ({
  pool,
  clock,
  threads,
  allowed: settings.feedHosts,
})

export const domain: Domain = {
  routes: (routes, house) => {
    importRoutes(routes)
    publishedRoutes(routes, house.url)
    readingRoutes(routes, house.settings.feedHosts)
  },
  tasks: (house) => feedTasks(reading(house)),
  minutely: { feeds: (house) => planFeeds(reading(house)) },
  nightly: { imports: ({ pool, clock }) => tidyImports(pool, clock()) },
}
