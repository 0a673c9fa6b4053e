import { randomUUID } from 'node:crypto'
import { type Layer, type LayerSet, MOST_LAYERS } from '@marmot/contract/layers'
import { at, type Sql } from '../platform/database.ts'

/** A person's sets of layers, the one used last first. */
export const layerSetsOf = async (sql: Sql, personId: string): Promise<LayerSet[]> =>
  (
    await sql.query<LayerSet>(
      'select id, name, layers from layer_set where person_id = $1 order by used_at desc limit 50',
      [personId],
    )
  ).rows

/** Keeps a set of a person's; null when it is somebody else's. */
export const keepLayerSet = async (
  sql: Sql,
  personId: string,
  set: LayerSet,
  now: number,
): Promise<LayerSet | null> =>
  (
    await sql.query<LayerSet>(
      `insert into layer_set (id, person_id, name, layers, used_at) values ($1, $2, $3, $4, $5)
       on conflict (id) do update set name = excluded.name, layers = excluded.layers, used_at = excluded.used_at
         where layer_set.person_id = $2 returning id, name, layers`,
      [set.id, personId, set.name, JSON.stringify(set.layers), at(now)],
    )
  ).rows[0] ?? null

const TONES = 10

/** Lays something beside a person's own time: in the set that they use, or in a first one. What is there already stays as it is. */
export const layBeside = async (
  sql: Sql,
  personId: string,
  layer: Pick<Layer, 'kind' | 'id'>,
  now: number,
): Promise<void> => {
  // Two at once: the second waits for the first, so that neither is lost.
  await sql.query('select 1 from person where id = $1 for no key update', [personId])
  const [set = { id: randomUUID(), name: '', layers: [] }] = await layerSetsOf(sql, personId)
  if (set.layers.length >= MOST_LAYERS || set.layers.some((one) => one.id === layer.id)) return
  const added = { ...layer, shown: true, tone: set.layers.length % TONES }
  await keepLayerSet(sql, personId, { ...set, layers: [...set.layers, added] }, now)
}

/** False when there is no such set of the person's. */
export const removeLayerSet = async (sql: Sql, setId: string, personId: string): Promise<boolean> =>
  ((await sql.query('delete from layer_set where id = $1 and person_id = $2', [setId, personId])).rowCount ??
    0) > 0
