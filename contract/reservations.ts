import { z } from 'zod'
import { contact } from './people.ts'
import { KINDS } from './resources.ts'
import { id, instant, route, wall } from './route.ts'
import { places, run } from './runs.ts'

/** Another way for a date that clashes; every date can be left out, besides. */
const repair = z.object({
  recurrence: wall,
  starts: wall,
  start: instant,
  places,
  /** Features that the places instead have not. */
  lacks: z.array(z.string()),
})

/** One date of what is looked at: when it would be, what is in its way, and what else there is. */
export const seenDate = z.object({
  recurrence: wall,
  start: instant,
  end: instant,
  places,
  /** `taken` where somebody has it then: whoever that is could go elsewhere. */
  clashes: z.array(z.object({ placeId: id, words: z.string(), taken: z.boolean() })),
  repairs: z.array(repair),
})
export type SeenDate = z.infer<typeof seenDate>

export const lookAtRun = route({
  method: 'POST',
  path: '/api/reservations/look',
  summary:
    'What is in the way of places for a time, on each of its dates if it repeats, and what else there is. Nothing is reserved.',
  who: 'person',
  body: () =>
    run.extend({
      /** How many will be there. */
      headCount: z.number().int().min(1).max(10_000).nullable().default(null),
      /** For whom, when somebody who acts for them reserves. */
      of: id.optional(),
    }),
  answer: () => z.object({ dates: z.array(seenDate) }),
})

export const MOST_FILL_DAYS = 120

export const readFill = route({
  method: 'GET',
  path: '/api/reservations/fill',
  summary:
    'How full places of a kind are on each of some days, from 0 to 1: of all together, and of nobody in particular.',
  who: 'person',
  query: () =>
    z.object({
      first: z.iso.date(),
      days: z.coerce.number().int().min(1).max(MOST_FILL_DAYS),
      zone: z.string().max(100),
      kind: z.enum(KINDS).optional(),
    }),
  answer: () => z.object({ fill: z.array(z.number()) }),
})

/** What a list of reservations is sorted and grouped by. */
export const LIST_COLUMNS = [
  'start',
  'place',
  'kind',
  'site',
  'by',
  'title',
  'purpose',
  'headCount',
  'state',
] as const
export type ListColumn = (typeof LIST_COLUMNS)[number]

export const listedReservation = z.object({
  id,
  resourceId: id,
  place: z.string(),
  kind: z.string(),
  site: z.string(),
  start: instant,
  end: instant,
  state: z.enum(['held', 'requested', 'taken']),
  /** Who has it, and what it is for, as far as the asker may know. */
  by: z.string(),
  title: z.string(),
  purpose: z.string(),
  headCount: z.number().nullable(),
  contact: contact.nullable(),
  mine: z.boolean(),
  /** The entry and its date, where the asker may open it. */
  entryId: id.nullable(),
  recurrence: wall.nullable(),
  repeats: z.boolean(),
  meeting: z.boolean(),
  /** Where it is grouped, how many are in its group. */
  inGroup: z.number().nullable(),
})
export type ListedReservation = z.infer<typeof listedReservation>

const listed = {
  /** Mine, or those of the places that I look after. */
  whose: z.enum(['mine', 'cared']).default('mine'),
  from: instant,
  to: instant,
  /** A part of a place's name, a site's, a purpose, who has it; of my own also of the title. */
  find: z.string().trim().max(200).default(''),
  kind: z.enum(KINDS).optional(),
  site: id.optional(),
  sort: z.enum(LIST_COLUMNS).default('start'),
  down: z.stringbool().default(false),
  group: z.enum(LIST_COLUMNS).optional(),
}

export const listOfReservations = route({
  method: 'GET',
  path: '/api/reservations/list',
  summary: 'My reservations, or those of the places that I look after: a page of them, sorted and grouped.',
  who: 'person',
  query: () =>
    z.object({
      ...listed,
      first: z.coerce.number().int().min(0).max(1_000_000).default(0),
      many: z.coerce.number().int().min(1).max(500).default(100),
    }),
  answer: () =>
    z.object({
      reservations: z.array(listedReservation),
      total: z.number(),
      /** How many places the asker looks after. */
      caresFor: z.number(),
    }),
})

export const exportReservations = route({
  method: 'GET',
  path: '/api/reservations/list.csv',
  summary: 'The same as CSV (RFC 4180), 20,000 at most.',
  who: 'person',
  query: () => z.object(listed),
  answersFile: true,
})
