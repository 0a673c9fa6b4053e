import { listResources } from '@marmot/contract/resources'
import type { Routes } from '../platform/router.ts'
import { readResources } from './store.ts'

export const resourcesRoutes = ({ mount, deps }: Routes): void => {
  mount(listResources, async ({ asker }) => ({
    resources: await readResources(deps.pool, asker.id, deps.clock()),
  }))
}
