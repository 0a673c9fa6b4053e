import { z } from 'zod'
import { exchange, request } from './asked.ts'
import { occurrence } from './entries.ts'
import { meeting } from './meetings.ts'
import { notice } from './notices.ts'
import { pollLine } from './poll-lines.ts'
import { proposal } from './proposals.ts'
import { route } from './route.ts'
import { todo } from './todo.ts'

export const listNow = route({
  method: 'GET',
  path: '/api/now',
  summary:
    'What needs me: invitations to answer, times that were proposed, meetings I organize, what is next, and what was said lately.',
  who: 'person',
  answer: () =>
    z.object({
      toAnswer: z.array(meeting),
      organized: z.array(meeting),
      /** Other times that were proposed for meetings that I organize, with the meeting as it is on that date. */
      proposals: z.array(z.object({ proposal, meeting })),
      /** What is asked for of the places that I look after. */
      requests: z.array(request),
      /** Room that somebody asks me to make, and that I ask for. */
      exchanges: z.array(exchange),
      /** Polls that wait for what I say, and those that I ask and have not decided. */
      polls: z.array(pollLine),
      next: z.array(
        occurrence.pick({
          entryId: true,
          recurrence: true,
          title: true,
          start: true,
          end: true,
          place: true,
          meeting: true,
          reserved: true,
        }),
      ),
      /** What I have to do that is due within seven days or was due before: the nearest. */
      todos: z.array(todo),
      notices: z.array(notice),
    }),
})

export const countNow = route({
  method: 'GET',
  path: '/api/now/count',
  summary: 'How much waits for me: invitations, proposals, requests, room, polls.',
  who: 'person',
  answer: () => z.object({ waiting: z.number() }),
})
