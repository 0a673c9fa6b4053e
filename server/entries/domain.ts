import type { Domain } from '../platform/house.ts'
import { attachmentRoutes } from './attachment-routes.ts'
import { tidyAttachments } from './attachments.ts'
import { categoryRoutes } from './category-routes.ts'
import { tidyChanges } from './changes.ts'
import { moveHorizon, tidyDates } from './dates.ts'
import { entriesRoutes } from './routes.ts'

export const domain: Domain = {
  routes: (routes) => {
    entriesRoutes(routes)
    attachmentRoutes(routes)
    categoryRoutes(routes)
  },
  nightly: {
    horizon: ({ pool, clock }) => moveHorizon(pool, clock()),
    dates: ({ pool }) => tidyDates(pool),
    changes: ({ pool, clock }) => tidyChanges(pool, clock()),
    attachments: ({ pool, clock }) => tidyAttachments(pool, clock()),
  },
  notices: ['acted'],
}
