import { z } from 'zod'
import { move } from './asked.ts'
import { sendMeeting } from './meetings.ts'
import { id, instant, route } from './route.ts'

/** A way to make room: in which place, and who would have to go elsewhere for it. */
export const room = z.object({ placeId: id, place: z.string(), moves: z.array(move).max(2) })
export type Room = z.infer<typeof room>

/** Places that would do, best first; of a single one, those like it do as well. */
const placeIds = z.array(id).min(1).max(20)

/** What is reserved once there is room: once, and not as a series. */
const wish = sendMeeting.body.omit({ hold: true })

export const lookForRoom = route({
  method: 'POST',
  path: '/api/exchanges/look',
  summary:
    'Whether one exchange, or two in a chain, would make room in one of some places; in one like it, too, where a single one is named and none of those is free. Nothing is changed.',
  who: 'person',
  body: () =>
    wish
      .pick({ starts: true, minutes: true, zone: true, allDay: true, headCount: true, of: true })
      .extend({ placeIds }),
  answer: () => z.object({ room: room.nullable() }),
})

export const askForRoom = route({
  method: 'POST',
  path: '/api/exchanges',
  summary:
    'Ask those who would have to move whether they do. Once all agree, all of it is done at once: they move, and what is wished is reserved.',
  who: 'person',
  repeatable: true,
  body: () => z.object({ wish, placeIds, moves: z.array(z.object({ reservationId: id, to: id })).max(2) }),
  answer: () => z.object({ exchangeId: id, asked: z.array(z.string()), lapses: instant }),
})

export const answerExchange = route({
  method: 'POST',
  path: '/api/exchanges/:exchangeId/answer',
  summary: 'Agree to go to another place, so that somebody else gets mine, or say no.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ exchangeId: id }),
  body: () => z.object({ agree: z.boolean(), words: z.string().trim().max(1000).default('') }),
  answer: () =>
    z.object({
      /** Whether it is done; where somebody else has not answered, it is not. `failed` says why it could not be done any more. */
      done: z.boolean(),
      failed: z.string().nullable(),
    }),
})

export const withdrawExchange = route({
  method: 'DELETE',
  path: '/api/exchanges/:exchangeId',
  summary: 'Ask no more for room.',
  who: 'person',
  params: () => z.object({ exchangeId: id }),
})
