import { deleteLayerSet, type LayerSet, listLayerSets, putLayerSet } from '@marmot/contract/layers'
import { at } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'

export const layerRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(listLayerSets, async ({ asker }) => {
    const rows = await pool.query<LayerSet>(
      'select id, name, layers from layer_set where person_id = $1 order by used_at desc limit 50',
      [asker.id],
    )
    return { sets: rows.rows }
  })

  mount(putLayerSet, async ({ params, body, asker }) => {
    const rows = await pool.query<LayerSet>(
      `insert into layer_set (id, person_id, name, layers, used_at) values ($1, $2, $3, $4, $5)
       on conflict (id) do update set name = excluded.name, layers = excluded.layers, used_at = excluded.used_at
         where layer_set.person_id = $2 returning id, name, layers`,
      [params.setId, asker.id, body.name, JSON.stringify(body.layers), at(clock())],
    )
    const [set] = rows.rows
    if (!set) throw notFound('set of yours')
    return set
  })

  mount(deleteLayerSet, async ({ params, asker }) => {
    const gone = await pool.query('delete from layer_set where id = $1 and person_id = $2', [
      params.setId,
      asker.id,
    ])
    if (!gone.rowCount) throw notFound('set of yours')
    return {}
  })
}
