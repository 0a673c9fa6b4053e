import { z } from 'zod'
import { id, instant, route } from './route.ts'
import { run } from './runs.ts'

const closing = run.omit({ places: true }).extend({ reason: z.string().trim().min(1, 'is missing').max(200) })

/** A reservation that lies in a closure, and other places that would do for it then, the most alike first. */
export const hit = z.object({
  reservationId: id,
  by: z.string(),
  /** What it is for, as it is said to whoever looks after the place. */
  purpose: z.string(),
  meeting: z.boolean(),
  headCount: z.number().nullable(),
  start: instant,
  end: instant,
  likes: z.array(
    z.object({
      id,
      name: z.string(),
      seats: z.number(),
      /** Features that it has not, and the closed place has. */
      lacks: z.array(z.string()),
    }),
  ),
})
export type Hit = z.infer<typeof hit>

export const lookAtClosure = route({
  method: 'POST',
  path: '/api/resources/:resourceId/closures/look',
  summary:
    'Which reservations a closure of a place that I look after would hit, with other places for each. Nothing is changed.',
  who: 'person',
  params: () => z.object({ resourceId: id }),
  body: () => closing.extend({ reason: z.string().max(200).default('') }),
  answer: () => z.object({ hits: z.array(hit) }),
})

export const closePlace = route({
  method: 'POST',
  path: '/api/resources/:resourceId/closures',
  summary:
    'Close a place that I look after for a time, once or repeating. What is reserved of it then goes where it is said, or is given up; whoever it is of is told once.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ resourceId: id }),
  body: () =>
    closing.extend({
      /** Where each reservation goes that it hits; nowhere, with null. */
      moves: z.array(z.object({ reservationId: id, to: id.nullable() })).max(500),
    }),
  answer: () => z.object({ closureId: id, moved: z.number(), given: z.number() }),
})

export const openPlace = route({
  method: 'DELETE',
  path: '/api/resources/:resourceId/closures/:closureId',
  summary: 'Open a place again: what is left of a closure from now on.',
  who: 'person',
  params: () => z.object({ resourceId: id, closureId: id }),
})
