import { readAvailability } from '@marmot/contract/availability'
import { readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { readTime } from './store.ts'

export const availabilityRoutes = ({ mount, deps }: Routes): void => {
  mount(readAvailability, async ({ body, asker }) => {
    const { from, to } = readRange(body)
    return { people: await readTime(deps.pool, asker.id, body.people, from, to, deps.clock()) }
  })
}
