import { z } from 'zod'
import { id, route } from './route.ts'

/**
 * A live event says what changed, by ids alone, so that nothing which may not be seen travels in it: who receives it
 * asks again through the ordinary reads.
 */
export const liveEvent = z.discriminatedUnion('kind', [
  /** People's time changed; for those who may know of it at all, since any of them may be looking at it. */
  z.object({ kind: z.literal('time'), people: z.array(id) }),
  /** Somebody lets others see or do something else than before; for everybody, and not whose it was. */
  z.object({ kind: z.literal('sharing') }),
  z.object({ kind: z.literal('reservations'), resources: z.array(id) }),
  /** Reminders came due or were put away; only for those whose they are. A meeting changed; only for those who take part in it. */
  z.object({ kind: z.literal('reminders'), people: z.array(id) }),
  z.object({ kind: z.literal('meeting'), entryId: id, people: z.array(id) }),
])
export type LiveEvent = z.infer<typeof liveEvent>

export const events = route({
  method: 'GET',
  path: '/api/events',
  summary: 'Server-sent events, each a `liveEvent` as JSON.',
  who: 'person',
})

export const health = route({
  method: 'GET',
  path: '/api/health',
  summary: '200 when the database answers.',
  who: 'anyone',
  answer: z.object({ ok: z.boolean() }),
})

export const openApi = route({
  method: 'GET',
  path: '/api/openapi.json',
  summary: 'This description.',
  who: 'anyone',
  answer: z.record(z.string(), z.unknown()),
})
