import { z } from 'zod'
import { contact } from './people.ts'
import { id, instant, route } from './route.ts'

/** A reservation that waits for its place's steward: all of its dates that are not decided about. */
export const request = z.object({
  entryId: id,
  resourceId: id,
  place: z.string(),
  siteId: id,
  zone: z.string(),
  by: z.string(),
  /** What whoever asks says to whoever decides. */
  purpose: z.string(),
  headCount: z.number().nullable(),
  contact: contact.nullable(),
  dates: z.array(z.object({ start: instant, end: instant })),
  /** When it lapses by itself. */
  lapses: instant,
})
export type Request = z.infer<typeof request>

export const decideRequest = route({
  method: 'POST',
  path: '/api/requests/:entryId/:resourceId',
  summary: 'Grant or refuse what is requested of a place that I look after, on all its dates.',
  who: 'person',
  repeatable: true,
  params: z.object({ entryId: id, resourceId: id }),
  body: z.object({
    grant: z.boolean(),
    /** Said to whoever asked; another time, for instance. */
    words: z.string().trim().max(1000).default(''),
  }),
  answer: z.object({ by: z.string(), place: z.string(), dates: z.number() }),
})
