import { z } from 'zod'
import { changedMeeting } from './meetings.ts'
import { id, instant, route, wall } from './route.ts'

/** Another time that somebody who is invited proposes for a date of a meeting. */
export const proposal = z.object({
  id,
  entryId: id,
  /** The date of a series that it is for. */
  recurrence: wall.nullable(),
  /** Who proposes it as one who is invited; null where a steward does. */
  participantId: id.nullable(),
  /** The place that is asked for, where its steward proposes when they would have it instead. */
  place: z.object({ id, name: z.string() }).nullable(),
  /** Of a colleague; a guest has none. */
  personId: id.nullable(),
  name: z.string(),
  start: instant,
  end: instant,
  message: z.string(),
  at: instant,
})
export type Proposal = z.infer<typeof proposal>

/** What is proposed: from when on, how long, and why. */
export const proposedTime = z.object({
  start: instant,
  minutes: z.number().int(),
  message: z.string().trim().max(2000).default(''),
  /** The date of a series that it is for; the next without. */
  recurrence: wall.optional(),
})

export const proposeTime = route({
  method: 'POST',
  path: '/api/meetings/:entryId/proposals',
  summary: 'Propose another time for a meeting that I was invited to, instead of the one before.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ entryId: id }),
  body: () => proposedTime.extend({ of: id.optional() }),
  answer: () => z.object({ proposalId: id }),
})

export const proposeForPlace = route({
  method: 'POST',
  path: '/api/requests/:entryId/:resourceId/proposals',
  summary:
    'Propose another time to whoever asks for a place that I look after, for one date. It is held meanwhile as it was asked for; taken, it is granted.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ entryId: id, resourceId: id }),
  body: () => proposedTime,
  answer: () => z.object({ proposalId: id }),
})

export const listProposals = route({
  method: 'GET',
  path: '/api/meetings/:entryId/proposals',
  summary:
    'Times that were proposed for a meeting: all of them for whoever may change it, for others their own.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  answer: () => z.object({ proposals: z.array(proposal) }),
})

export const takeProposal = route({
  method: 'POST',
  path: '/api/proposals/:proposalId/take',
  summary: 'Move a meeting to a time that was proposed for it, and tell everybody.',
  who: 'person',
  repeatable: true,
  params: () => z.object({ proposalId: id }),
  body: () => z.object({ version: z.number().int() }),
  answer: () => changedMeeting,
})

export const refuseProposal = route({
  method: 'POST',
  path: '/api/proposals/:proposalId/refuse',
  summary: 'Keep the time that a meeting has, and tell whoever proposed another.',
  who: 'person',
  params: () => z.object({ proposalId: id }),
  body: () => z.object({ message: z.string().trim().max(2000).default('') }),
})

export const withdrawProposal = route({
  method: 'DELETE',
  path: '/api/proposals/:proposalId',
  summary: 'Withdraw a time that I proposed.',
  who: 'person',
  params: () => z.object({ proposalId: id }),
})

export const proposeByLink = route({
  method: 'POST',
  path: '/api/invitations/:token/proposals',
  summary: 'Propose another time by a guest’s link.',
  who: 'guest',
  repeatable: true,
  params: () => z.object({ token: z.string().min(20).max(100) }),
  body: () => proposedTime,
  answer: () => z.object({ proposalId: id }),
})
