import { MOST_ANSWER, MOST_DAYS, QUESTION_KINDS, TOGETHER } from '@marmot/core/visits'
import { z } from 'zod'
import { event } from './live.ts'
import { address, id, instant, route, visitorName } from './route.ts'

/** The part of an address that names a page or a kind of meeting on it. */
export const slug = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[a-z0-9](?:[a-z0-9-]{0,58}[a-z0-9])?$/, 'may have letters a to z, digits and dashes')

/** Where a visit takes place. */
export const WHERES = ['mine', 'theirs', 'room', 'conference', 'asked'] as const

export const question = z.object({
  id: z.string().min(1).max(40),
  kind: z.enum(QUESTION_KINDS),
  words: z.string().trim().min(1, 'is missing').max(300),
  required: z.boolean(),
  options: z.array(z.string().trim().min(1).max(200)).max(30),
})

const ofPage = z.object({ page: slug })
const ofKind = z.object({ page: slug, kind: slug })
const secret = z.string().regex(/^[\w-]{43}$/, 'is no secret of a link')
const token = z.object({ token: z.string().min(20).max(100) })

/** A kind of meeting as a visitor sees it in the list. */
const offeredKind = z.object({
  slug,
  title: z.string(),
  about: z.string(),
  /** In minutes: several to choose from, the first unless another is. */
  lengths: z.array(z.number()),
  /** What it costs, as it is said; empty for nothing. */
  cost: z.string(),
})

const pageHead = z.object({
  organisation: z.string(),
  name: z.string(),
  about: z.string(),
  /** One of ten tones. */
  accent: z.number().int().min(0).max(9),
})

export const readVisitPage = route({
  method: 'GET',
  path: '/api/v/:page',
  summary: 'A page on which somebody from outside picks a time: what kinds of meeting there are.',
  who: 'anyone',
  params: () => ofPage,
  answer: () => pageHead.extend({ kinds: z.array(offeredKind) }),
})

export const readVisitKind = route({
  method: 'GET',
  path: '/api/v/:page/:kind',
  summary: 'A kind of meeting, and the times that are offered in a range.',
  who: 'anyone',
  params: () => ofKind,
  query: () =>
    z.object({
      /** From when on; from now without, by the server's clock. */
      from: instant.optional(),
      days: z.coerce.number().int().min(1).max(MOST_DAYS).default(28),
      minutes: z.coerce.number().int().optional(),
      /** Whom the visitor would like to see, where that can be chosen. */
      host: z.string().max(40).optional(),
      /** A link that works once, where the kind is not open to all. */
      once: z.string().max(100).optional(),
      /** The visit that is to be moved: its own time is in nobody's way. */
      visit: z.string().max(100).optional(),
    }),
  answer: () =>
    pageHead.extend({
      kind: offeredKind.extend({
        where: z.enum(WHERES),
        /** The place in words; what can be chosen of it is in `places`. */
        place: z.string(),
        places: z.array(z.string()),
        together: z.enum(TOGETHER),
        /** Who can be chosen, by a name of theirs on this page; empty where nobody is. */
        hosts: z.array(z.object({ host: z.string(), name: z.string() })),
        questions: z.array(question),
        mostGuests: z.number(),
        /** Until how many minutes before it a visitor may move or cancel it; null is not at all. */
        moveBefore: z.number().nullable(),
        cancelBefore: z.number().nullable(),
      }),
      /** The zone of whoever is visited. */
      zone: z.string(),
      minutes: z.number(),
      /** The starts that are offered, in milliseconds: an answer may hold thousands. */
      starts: z.array(z.number()),
      /** Where to look next, where nothing is offered in the range; null where nothing is at all. */
      next: z.number().nullable(),
      now: instant,
    }),
})

const answerGiven = z.union([
  z.string().max(MOST_ANSWER),
  z.array(z.string().max(200)).max(30).readonly(),
  z.boolean(),
  z.number(),
  z.null(),
])

export const bookVisit = route({
  method: 'POST',
  path: '/api/v/:page/:kind/visits',
  summary: 'Take a time that is offered: the meeting is made, and both sides have the same invitation.',
  who: 'anyone',
  repeatable: true,
  params: () => ofKind,
  body: () =>
    z.object({
      start: instant,
      minutes: z.number().int(),
      host: z.string().max(40).optional(),
      once: z.string().max(100).optional(),
      name: visitorName,
      address,
      zone: z.string().max(100),
      /** Others who come along. */
      guests: z.array(z.object({ address, name: visitorName.or(z.literal('')).default('') })).max(20),
      /** Where, in the visitor's words, or as they choose. */
      place: z.string().trim().max(300).default(''),
      answers: z.record(z.string().max(40), answerGiven),
      /** The secret of the link that is theirs from then on. */
      own: secret,
      /** Nobody sees this field; whoever fills it in is no person. */
      website: z.string().max(500).default(''),
    }),
  answer: () =>
    z.object({
      start: instant,
      end: instant,
      host: z.string(),
      where: z.string(),
      /** What is said once it is taken, and where to go from there. */
      words: z.string(),
      goOn: z.string(),
      /** True where nothing is taken before the link in a letter is pressed: until then, the time is kept. */
      proof: z.boolean(),
    }),
})

export const proveVisit = route({
  method: 'POST',
  path: '/api/visit-proofs/:token',
  summary: 'Take the time that is kept for me, by the link in the letter: my address is mine.',
  who: 'guest',
  params: () => token,
  body: () => z.object({ own: secret }),
  answer: () => bookVisit.answer,
})

export const readVisit = route({
  method: 'GET',
  path: '/api/visits/:token',
  summary: 'What a visitor may still do about their visit, by the link in their letter.',
  who: 'guest',
  params: () => token,
  answer: () =>
    z.object({
      page: slug,
      kind: slug,
      title: z.string(),
      start: instant,
      end: instant,
      host: z.string(),
      moveUntil: instant.nullable(),
      cancelUntil: instant.nullable(),
    }),
})

export const moveVisit = route({
  method: 'POST',
  path: '/api/visits/:token/move',
  summary: 'Move a visit to another time that is offered.',
  who: 'guest',
  repeatable: true,
  params: () => token,
  body: () => z.object({ start: instant }),
  answer: () => z.object({ start: instant, end: instant }),
})

export const cancelVisit = route({
  method: 'POST',
  path: '/api/visits/:token/cancel',
  summary: 'Cancel a visit.',
  who: 'guest',
  params: () => token,
  body: () => z.object({ reason: z.string().trim().max(1000).default('') }),
})

export const visitPageEvents = route({
  method: 'GET',
  path: '/api/v/:page/events',
  summary:
    'Server-sent events for whoever has a page open: that what is offered changed, or is not offered any more.',
  who: 'anyone',
  params: () => ofPage,
})

/** What is offered on a page changed; for whoever has it open. */
export const visitEvent = event('visit', { pageId: id, people: z.array(id) })
