import { z } from 'zod'
import { id, route } from './route.ts'

export const decideRequest = route({
  method: 'POST',
  path: '/api/requests/:entryId/:resourceId',
  summary: 'Grant or refuse what is requested of a place that I look after, on all its dates.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ entryId: id, resourceId: id }),
  body: () =>
    z.object({
      grant: z.boolean(),
      /** Said to whoever asked; another time, for instance. */
      words: z.string().trim().max(1000).default(''),
    }),
  answer: () => z.object({ by: z.string(), place: z.string(), dates: z.number() }),
})
