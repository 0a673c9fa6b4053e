import { z } from 'zod'
import { id, route } from './route.ts'

/** Somebody's time, a team's, a place's or a feed's, laid over or beside mine. */
export const layer = z.object({
  kind: z.enum(['person', 'team', 'place', 'feed']),
  id,
  tone: z.number().int().min(0).max(9),
  shown: z.boolean(),
  /** Of a team: whether its people have a lane each. */
  open: z.boolean().optional(),
})
export type Layer = z.infer<typeof layer>

/** So many stand in a set at most. */
export const MOST_LAYERS = 60

export const layerSet = z.object({ id, name: z.string(), layers: z.array(layer) })
export type LayerSet = z.infer<typeof layerSet>

export const listLayerSets = route({
  method: 'GET',
  path: '/api/layers',
  summary: 'My sets of layers; the one used last comes first.',
  who: 'person',
  answer: () => z.object({ sets: z.array(layerSet) }),
})

export const putLayerSet = route({
  method: 'PUT',
  path: '/api/layers/:setId',
  summary: 'Keep a set of layers and use it.',
  who: 'person',
  params: () => z.object({ setId: id }),
  body: () => z.object({ name: z.string().trim().max(60), layers: z.array(layer).max(MOST_LAYERS) }),
  answer: () => layerSet,
})

export const deleteLayerSet = route({
  method: 'DELETE',
  path: '/api/layers/:setId',
  summary: 'Forget a set of layers.',
  who: 'person',
  params: () => z.object({ setId: id }),
})
