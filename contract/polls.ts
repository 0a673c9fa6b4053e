import { MARKS, MOST_TIMES } from '@marmot/core/polls'
import { z } from 'zod'
import { event } from './live.ts'
import { address, id, instant, route, visitorName } from './route.ts'

export const POLL_STATES = ['open', 'decided', 'withdrawn'] as const

const mark = z.enum(MARKS)
const comment = z.string().trim().max(1000)
/** The secret of a link, made by whoever will have it: the server keeps nothing but its hash. */
export const secret = z.string().regex(/^[\w-]{43}$/, 'is no secret of a link')
const token = z.object({ token: z.string().min(20).max(100) })
export const ofPoll = z.object({ pollId: id })

const marked = z.object({ timeId: id, mark })
export const marks = z.array(marked).max(MOST_TIMES)

/** A time of a poll, as everybody who is asked sees it. */
export const pollTime = z.object({
  id,
  start: instant,
  end: instant,
  /** Who proposed it beside whoever asks: their name, or "somebody" where names are not seen. */
  proposedBy: z.string().nullable(),
})

/** A poll as whoever is asked sees it. */
export const askedPoll = z.object({
  pollId: id,
  title: z.string(),
  note: z.string(),
  organizer: z.string(),
  /** The organizer's zone, in which times are said where the reader's own is not known. */
  zone: z.string(),
  closes: instant,
  /** `over` once nobody can mark any more, though nothing is decided. */
  state: z.enum([...POLL_STATES, 'over']),
  oneMark: z.boolean(),
  proposals: z.boolean(),
  names: z.boolean(),
  times: z.array(pollTime.extend({ yes: z.number(), ifNeedBe: z.number(), no: z.number() })),
  /** Whether the counts and what others marked are to be seen. */
  results: z.boolean(),
  /** What others marked, where that and their names are to be seen. */
  others: z.array(z.object({ name: z.string(), marks, comment })),
  /** Whoever looks; null for whoever comes by the link for all, before they have marked. */
  me: z
    .object({
      name: z.string(),
      required: z.boolean(),
      marks,
      comment: z.string(),
      /** What their own time says, where they have an account. */
      suggested: marks,
      answered: z.boolean(),
    })
    .nullable(),
  /** The time that was chosen, whether they are invited to it, and where the meeting is for those with an account. */
  chosen: z.object({ timeId: id, invited: z.boolean(), entryId: id.nullable() }).nullable(),
  now: instant,
})
export type AskedPoll = z.infer<typeof askedPoll>

/** One’s marks, all of them: what is left out is not marked. */
const ownMarks = z.object({ marks, comment: comment.default('') })

export const markPoll = route({
  method: 'PUT',
  path: '/api/polls/:pollId/marks',
  summary: 'Say which times of a poll suit me. Said again, it takes the place of what I said before.',
  who: 'person',
  params: () => ofPoll,
  body: () => ownMarks,
})

const proposed = z.object({ start: instant })

export const proposeTime = route({
  method: 'POST',
  path: '/api/polls/:pollId/times',
  summary: 'Propose a time of my own to all who are asked.',
  who: 'person',
  repeatable: true,
  params: () => ofPoll,
  body: () => proposed,
  answer: () => z.object({ timeId: id }),
})

export const readPollByLink = route({
  method: 'GET',
  path: '/api/poll-links/:token',
  summary: 'The poll behind a link.',
  who: 'guest',
  params: () => token,
  answer: () => askedPoll,
})

export const markByLink = route({
  method: 'PUT',
  path: '/api/poll-links/:token/marks',
  summary: 'Say by one’s own link which times suit.',
  who: 'guest',
  params: () => token,
  body: () => ownMarks,
})

export const joinPoll = route({
  method: 'POST',
  path: '/api/poll-links/:token/voters',
  summary: 'Say by the link for all which times suit, with one’s name and address.',
  who: 'guest',
  repeatable: true,
  params: () => token,
  body: () =>
    ownMarks.extend({
      name: visitorName,
      address,
      /** The secret of the link that is one's own from then on. */
      own: secret,
      /** Nobody sees this field; whoever fills it in is no person. */
      website: z.string().max(500).default(''),
    }),
})

export const proposeTimeByLink = route({
  method: 'POST',
  path: '/api/poll-links/:token/times',
  summary: 'Propose a time of one’s own by one’s own link.',
  who: 'guest',
  repeatable: true,
  params: () => token,
  body: () => proposed,
  answer: () => z.object({ timeId: id }),
})

export const pollLinkEvents = route({
  method: 'GET',
  path: '/api/poll-links/:token/events',
  summary: 'Server-sent events for whoever came by a link: that the poll changed.',
  who: 'guest',
  params: () => token,
})

/** A poll changed; for those who are asked, and whoever asks. */
export const pollEvent = event('poll', { pollId: id, people: z.array(id) })
