import { ANSWERS } from '@marmot/core/sharing'
import { z } from 'zod'
import { meeting } from './meetings.ts'
import { id, instant, route, wall } from './route.ts'

export const notice = z.object({
  id,
  kind: z.enum(['invited', 'answered', 'cancelled', 'acted', 'shared']),
  entryId: id.nullable(),
  title: z.string(),
  /** Who answered, invited or cancelled, acted for me, or shares with me. */
  who: z.string(),
  answer: z.enum(ANSWERS).nullable(),
  message: z.string(),
  /** Of a series: the one date it is about; null for all of them. */
  recurrence: wall.nullable(),
  repeats: z.boolean(),
  at: instant,
})
export type Notice = z.infer<typeof notice>

export const listNow = route({
  method: 'GET',
  path: '/api/now',
  summary:
    'What needs me: invitations to answer, meetings I organize, what is next, and what was said lately.',
  who: 'person',
  answer: z.object({
    toAnswer: z.array(meeting),
    organized: z.array(meeting),
    next: z.array(
      meeting
        .pick({ entryId: true, title: true, start: true, end: true, place: true })
        .extend({ meeting: z.boolean() }),
    ),
    notices: z.array(notice),
  }),
})
