import { readAvailability } from '@marmot/contract/availability'
import { readIds, readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { readTime } from './store.ts'

export const availabilityRoutes = ({ mount, deps }: Routes): void => {
  mount(readAvailability, async ({ query, asker }) => {
    const { from, to } = readRange(query)
    return { people: await readTime(deps.pool, asker.id, readIds(query.people), from, to, deps.clock()) }
  })
}
