import { z } from 'zod'
import { route } from './route.ts'

/**
 * A live event says what changed, by ids alone, so that nothing which may not be seen travels in it: who receives it
 * asks again through the ordinary reads. Which events there are is said by the contracts of their domains.
 */
export const liveEvent = z.looseObject({ kind: z.string() })

/** Declares a live event of a domain. One that names `people` is for them alone, unless its domain says otherwise. */
export const event = <K extends string, S extends z.ZodRawShape>(kind: K, shape: S) =>
  z.object({ kind: z.literal(kind), ...shape })

export const events = route({
  method: 'GET',
  path: '/api/events',
  summary: 'Server-sent events: each says as JSON of which kind it is and, by ids, what changed.',
  who: 'person',
})

export const health = route({
  method: 'GET',
  path: '/api/health',
  summary: '200 when the database answers.',
  who: 'anyone',
  answer: () => z.object({ ok: z.boolean() }),
})

export const openApi = route({
  method: 'GET',
  path: '/api/openapi.json',
  summary: 'This description.',
  who: 'anyone',
  answer: () => z.record(z.string(), z.unknown()),
})
