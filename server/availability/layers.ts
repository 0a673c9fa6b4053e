import { deleteLayerSet, listLayerSets, putLayerSet } from '@marmot/contract/layers'
import { notFound } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { keepLayerSet, layerSetsOf, removeLayerSet } from './layer-store.ts'

export const layerRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(listLayerSets, async ({ asker }) => ({ sets: await layerSetsOf(pool, asker.id) }))

  mount(putLayerSet, async ({ params, body, asker }) => {
    const set = await keepLayerSet(pool, asker.id, { ...body, id: params.setId }, clock())
    if (!set) throw notFound('set of yours')
    return set
  })

  mount(deleteLayerSet, async ({ params, asker }) => {
    if (!(await removeLayerSet(pool, params.setId, asker.id))) throw notFound('set of yours')
    return {}
  })
}
