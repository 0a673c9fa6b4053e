import { MOST_ITEMS, MOST_NAME, MOST_TITLE } from '@marmot/core/agenda'
import { z } from 'zod'
import { event } from './live.ts'
import { id, route, wall } from './route.ts'

const minutes = z.number().int().min(1).max(1440).nullable()

/** The points with which an agenda begins, as they are sent with a meeting. */
export const firstItems = z
  .array(
    z.object({
      title: z.string().trim().min(1, 'is missing').max(MOST_TITLE),
      who: z.string().trim().max(MOST_NAME).default(''),
      minutes: minutes.default(null),
    }),
  )
  .max(MOST_ITEMS)

/** An agenda as it reads: its points in their order, and the notes below as text. */
export const agenda = z.object({
  items: z.array(z.object({ id: z.string(), title: z.string(), who: z.string(), minutes })).readonly(),
  notes: z.string(),
})

/** The date of a series whose agenda it is; the next without. */
const date = z.object({ recurrence: wall.optional() })
const token = z.object({ token: z.string().min(20).max(100) })

export const readAgenda = route({
  method: 'GET',
  path: '/api/meetings/:entryId/agenda',
  summary: 'The agenda of a meeting that I take part in.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  query: () => date,
  answer: () => agenda,
})

export const openAgenda = route({
  method: 'GET',
  path: '/api/meetings/:entryId/agenda/live',
  summary:
    'A WebSocket on which all who take part write in the agenda at the same time (messages of the Yjs protocols).',
  who: 'person',
  socket: true,
  params: () => z.object({ entryId: id }),
  query: () => date,
})

export const readAgendaByLink = route({
  method: 'GET',
  path: '/api/invitations/:token/agenda',
  summary: 'The agenda of a meeting, by a guest’s link.',
  who: 'guest',
  params: () => token,
  query: () => date,
  answer: () => agenda,
})

export const openAgendaByLink = route({
  method: 'GET',
  path: '/api/invitations/:token/agenda/live',
  summary: 'The WebSocket of an agenda, by a guest’s link.',
  who: 'guest',
  socket: true,
  params: () => token,
  query: () => date,
})

/** What somebody wrote in the agenda of a meeting has come to rest; for those who take part in it. */
export const agendaEvent = event('agenda', { entryId: id, people: z.array(id) })
