import { FEWEST_TIMES, MOST_TIMES } from '@marmot/core/polls'
import { isZone } from '@marmot/core/time'
import { z } from 'zod'
import { sendMeeting } from './meetings.ts'
import { askedPoll, marks, ofPoll, pollTime, secret } from './polls.ts'
import { id, instant, route } from './route.ts'

/** Who sees what others marked: everybody who is asked, or whoever asks alone. */
export const RESULTS = ['all', 'organizer'] as const
/** Who may mark: whoever was asked, by the link in their own letter, or anyone who has one link for all. */
export const DOORS = ['own', 'anyone'] as const
/** How whoever asks hears of marks: of each, once a day, not at all. */
export const POLL_NOTICES = ['each', 'daily', 'none'] as const

/** How a poll is asked. */
export const pollSettings = z.object({
  /** Until when marks count. */
  closes: instant,
  /** How many have to be able to come; null where that is not said. */
  needed: z.number().int().min(1).max(500).nullable(),
  results: z.enum(RESULTS),
  /** Whether those who see what others marked see who they are, too. */
  names: z.boolean(),
  /** Whether everybody may choose one time alone. */
  oneMark: z.boolean(),
  /** Whether whoever is asked may propose times of their own. */
  proposals: z.boolean(),
  notices: z.enum(POLL_NOTICES),
  /** Whether each time is held on my time, and its places with it. */
  holds: z.boolean(),
})
export type PollSettings = z.infer<typeof pollSettings>

/** A time that is asked about, with the places that would be had then. */
const timeToAsk = z.object({ start: instant, places: z.array(id).max(8) })

/** What is sent once a time is chosen: a meeting without its time and places. */
export const pollWish = sendMeeting.body.pick({
  title: true,
  note: true,
  agenda: true,
  minutes: true,
  zone: true,
  people: true,
  guests: true,
  conference: true,
  headCount: true,
  of: true,
})

export const askPoll = route({
  method: 'POST',
  path: '/api/polls',
  summary:
    'Ask several people which of some times suit them. Those whose time is known are marked by it as a suggestion.',
  who: 'person',
  repeatable: true,
  body: () =>
    pollWish.extend({
      ...pollSettings.shape,
      minutes: z.number().int().min(1).max(44_640),
      zone: z.string().max(100).refine(isZone, 'is not a time zone that exists'),
      times: z
        .array(timeToAsk)
        .min(FEWEST_TIMES, 'are fewer than two: ask about at least two times')
        .max(MOST_TIMES, `are more than ${MOST_TIMES}`),
      /** The secret of the link with which anyone may mark; null where everybody has a link of their own. */
      door: secret.nullable(),
    }),
  answer: () => z.object({ pollId: id, asked: z.number(), untoldMs: z.number() }),
})

/** Somebody who is asked, as whoever asks sees them. */
const pollVoter = z.object({
  id,
  personId: id.nullable(),
  name: z.string(),
  address: z.string(),
  zone: z.string().nullable(),
  required: z.boolean(),
  /** False for whoever came by the link for all: nobody knows that they are who they say. */
  proved: z.boolean(),
  marks,
  /** What their time says, as far as whoever asks may see it. */
  suggested: marks,
  comment: z.string(),
  markedAt: instant.nullable(),
  seenAt: instant.nullable(),
  nudgedAt: instant.nullable(),
  mail: z.enum(['none', 'waiting', 'sent', 'failed']),
})
export type PollVoter = z.infer<typeof pollVoter>

/** A poll as whoever asks sees it. */
export const organizedPoll = pollSettings.extend({
  pollId: id,
  title: z.string(),
  note: z.string(),
  organizer: z.string(),
  minutes: z.number(),
  zone: z.string(),
  state: askedPoll.shape.state,
  door: z.enum(DOORS),
  times: z.array(
    pollTime.extend({
      places: z.array(z.object({ id, name: z.string(), free: z.boolean() })),
      held: z.boolean(),
      /** Minutes outside the hours of those whose hours are known, added up. */
      stretch: z.number(),
      /** Whose meeting it will be is taken then, by what: empty where it is free. */
      clash: z.string(),
    }),
  ),
  voters: z.array(pollVoter),
  chosen: z.object({ timeId: id, entryId: id.nullable(), stands: z.boolean() }).nullable(),
  version: z.number(),
})
export type OrganizedPoll = z.infer<typeof organizedPoll>

export const readPoll = route({
  method: 'GET',
  path: '/api/polls/:pollId',
  summary: 'A poll: as whoever asks sees it, or as whoever is asked does.',
  who: 'person',
  params: () => ofPoll,
  answer: () => z.object({ organized: organizedPoll.nullable(), asked: askedPoll.nullable() }),
})

export const changePoll = route({
  method: 'PUT',
  path: '/api/polls/:pollId',
  summary:
    'Change how a poll is asked, its times and who is asked. Whoever is new is asked; where times are added, all are told.',
  who: 'person',
  params: () => ofPoll,
  body: () =>
    pollSettings.partial().extend({
      version: z.number().int(),
      /** Times that are asked about from now on, beside those that are. */
      add: z.array(timeToAsk).max(MOST_TIMES).default([]),
      /** Times that are not asked about any more. */
      drop: z.array(id).max(MOST_TIMES).default([]),
      people: sendMeeting.body.shape.people.optional(),
      guests: sendMeeting.body.shape.guests.optional(),
    }),
})

export const nudgePoll = route({
  method: 'POST',
  path: '/api/polls/:pollId/nudge',
  summary: 'Ask those who have marked nothing once more, or one of them; nobody twice within a day.',
  who: 'person',
  params: () => ofPoll,
  body: () => z.object({ voterId: id.optional() }),
  answer: () => z.object({ nudged: z.array(z.string()), lately: z.array(z.string()) }),
})

export const decidePoll = route({
  method: 'POST',
  path: '/api/polls/:pollId/decide',
  summary:
    'Choose a time: the meeting is made with its people and places in one transaction, the other holds go, everybody is told once.',
  who: 'person',
  repeatable: true,
  params: () => ofPoll,
  body: () =>
    z.object({
      timeId: id,
      /** Who is invited, of those who are asked; the others are told that it takes place without them. */
      voters: z.array(id).max(500),
      places: z.array(id).max(8),
      autoNudge: z.boolean().default(false),
    }),
  answer: () => sendMeeting.answer,
})

export const withdrawPoll = route({
  method: 'POST',
  path: '/api/polls/:pollId/withdraw',
  summary: 'Ask no more: the holds go, and whoever was asked is told.',
  who: 'person',
  params: () => ofPoll,
})

export const reopenPoll = route({
  method: 'POST',
  path: '/api/polls/:pollId/reopen',
  summary:
    'Ask again, where it was withdrawn, or the meeting that was made of it is taken back or cancelled.',
  who: 'person',
  params: () => ofPoll,
  body: () => z.object({ closes: instant.optional() }),
})

export const renewPollLink = route({
  method: 'POST',
  path: '/api/polls/:pollId/link',
  summary:
    'A new link: for one who is asked, sent to them, or the one for all. Those from before no longer work.',
  who: 'person',
  repeatable: true,
  params: () => ofPoll,
  body: () => z.union([z.object({ voterId: id }), z.object({ door: secret })]),
})
