import { z } from 'zod'
import { event } from './live.ts'
import { address, id, instant, route, wall } from './route.ts'

/** How one joins a meeting; without a link while the conference service has not answered. */
export const joining = z.object({ link: z.string(), telephone: z.string(), code: z.string() })

const ofMeeting = z.object({ entryId: id })
const date = z.object({ recurrence: wall.optional() })

export const record = z.object({
  /** Who was there, first come first. */
  attended: z.array(
    z.object({
      name: z.string(),
      from: instant,
      /** Null while they are there. */
      until: instant.nullable(),
      seconds: z.number(),
    }),
  ),
  /** Who is being called and has not come, by name. */
  called: z.array(z.string()),
})
export type Record = z.infer<typeof record>

export const readRecord = route({
  method: 'GET',
  path: '/api/meetings/:entryId/record',
  summary: 'Who is in a meeting that I take part in, and who was: since when and how long.',
  who: 'person',
  params: () => ofMeeting,
  query: () => date,
  answer: () => record,
})

export const joinMeeting = route({
  method: 'POST',
  path: '/api/meetings/:entryId/join',
  summary: 'The address under which I join a meeting by my own name; good for a few minutes.',
  who: 'person',
  params: () => ofMeeting,
  body: () => date,
  answer: () => z.object({ link: z.string() }),
})

export const joinByLink = route({
  method: 'POST',
  path: '/api/invitations/:token/join',
  summary: 'The address under which a guest joins a meeting by their own name.',
  who: 'guest',
  params: () => z.object({ token: z.string().min(20).max(100) }),
  body: () => date,
  answer: () => z.object({ link: z.string() }),
})

export const callIn = route({
  method: 'POST',
  path: '/api/meetings/:entryId/call',
  summary:
    'Call somebody into a meeting that is going on: a colleague on their screen, an address by mail, or a telephone number.',
  who: 'person',
  repeatable: true,
  params: () => ofMeeting,
  body: () =>
    z.object({
      to: z.union([
        z.object({ person: id }),
        z.object({ address, name: z.string().trim().max(100).default('') }),
        z.object({
          number: z
            .string()
            .trim()
            .regex(/^\+?[\d ()/.-]{5,24}$/, 'is no telephone number'),
        }),
      ]),
      recurrence: wall.optional(),
    }),
})

export const meetRightAway = route({
  method: 'POST',
  path: '/api/meetings/right-away',
  summary:
    'Meet right away: a meeting that begins now, to which those who are chosen are called on their screens.',
  who: 'person',
  repeatable: true,
  body: () =>
    z.object({
      title: z.string().trim().max(200).default(''),
      people: z.array(id).max(50),
      guests: z.array(z.object({ address, name: z.string().trim().max(100).default('') })).max(20),
    }),
  answer: () => z.object({ entryId: id }),
})

export const listCalls = route({
  method: 'GET',
  path: '/api/calls',
  summary: 'Who is calling me into a meeting just now.',
  who: 'person',
  answer: () =>
    z.object({
      calls: z.array(
        z.object({
          id,
          entryId: id,
          recurrence: wall.nullable(),
          title: z.string(),
          by: z.string(),
          at: instant,
        }),
      ),
    }),
})

export const dismissCall = route({
  method: 'DELETE',
  path: '/api/calls/:callId',
  summary: 'Say that I do not come to a meeting that I was called into.',
  who: 'person',
  params: () => z.object({ callId: id }),
})

/** What the conference service says of somebody’s stay in a room, whole each time, with its own clock beside it. */
export const seatReport = z.object({
  room: id,
  seat: id,
  /** The participant whose ticket it was. */
  participant: id.nullable(),
  name: z.string().trim().min(1).max(100),
  via: z.enum(['link', 'telephone']),
  joined: instant,
  left: instant.nullable(),
  now: instant,
})
export type SeatReport = z.infer<typeof seatReport>

export const reportSeat = route({
  method: 'POST',
  path: '/api/conferences/seats',
  summary:
    'The conference service reports who came and went; signed with the key that it shares with Marmot.',
  who: 'anyone',
  rawBytes: 16 * 1024,
})

/** Somebody came into a meeting, or left it; for those who take part. */
export const conferenceEvent = event('conference', { entryId: id, people: z.array(id) })
/** Somebody is called into a meeting, or it rings no more. */
export const callEvent = event('call', { people: z.array(id) })
