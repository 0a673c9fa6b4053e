import { z } from 'zod'
import { span } from './availability.ts'
import { address, id, instant, route } from './route.ts'

/** What an address of mine gives: my calendar, my free/busy times, the small page of what is next, or what is reserved of a place. */
export const PUBLISHED_KINDS = ['calendar', 'freebusy', 'page', 'place'] as const
export const WHOSE = ['nobody', 'mine', 'guest'] as const
export const MOST_MONTHS = 36
export const LEAST_MINUTES = 5
const MOST_MINUTES = 1440

/** How a small page looks: as the reader's machine has it, by day, or at dusk. */
export const LOOKS = ['auto', 'day', 'dusk'] as const
/** A small page is of this day, or of the next seven. */
export const PAGE_DAYS = [1, 7] as const

/** What is shown at an address of mine, and how. */
const settings = {
  sees: z.enum(['busy', 'headlines', 'everything']).default('busy'),
  months: z.number().int().min(1).max(MOST_MONTHS).default(2),
  /** Of a small page, of how many days it is, how it looks, and what stands above it; my name without. */
  days: z.union(PAGE_DAYS.map((days) => z.literal(days))).default(7),
  look: z.enum(LOOKS).default('auto'),
  heading: z.string().trim().max(100).default(''),
  /** Of a calendar that shows everything: whether my to-dos are in it. */
  withTodos: z.boolean().default(false),
}

export const published = z.object({
  ...settings,
  id,
  kind: z.enum(PUBLISHED_KINDS),
  /** The place that is followed, by its name. */
  place: z.string().nullable(),
  madeAt: instant,
  readAt: instant.nullable(),
})

export type Published = z.infer<typeof published>

export const feed = z.object({
  id,
  name: z.string(),
  address: z.string(),
  everyMinutes: z.number(),
  /** Whose time it is: nobody's in particular, mine, so that it counts as my own, or a guest's, so that it counts with them. */
  whose: z.enum(WHOSE),
  guest: z.string().nullable(),
  /** When it was last read well; null when it never was. */
  readAt: instant.nullable(),
  triedAt: instant.nullable(),
  /** What went wrong the last time, in words. */
  trouble: z.string().nullable(),
  dates: z.number(),
  /** How many of its entries were not understood, so that their time is unknown; and the first of them with the reason. */
  unreadCount: z.number(),
  unread: z.array(z.object({ title: z.string(), reason: z.string() })),
})
export type Feed = z.infer<typeof feed>

export const listFeeds = route({
  method: 'GET',
  path: '/api/feeds',
  summary: 'The addresses at which I publish, and the feeds that I read.',
  who: 'person',
  answer: () => z.object({ published: z.array(published), read: z.array(feed) }),
})

export const publishFeed = route({
  method: 'POST',
  path: '/api/feeds/published',
  summary:
    'Publish my time at a secret address, or what I may know of a place’s reservations. The address is told this once.',
  who: 'person',
  repeatable: true,
  body: () =>
    z
      .object({
        ...settings,
        kind: z.enum(PUBLISHED_KINDS),
        /** Of which place, where it is a place’s. */
        place: id.nullable().default(null),
      })
      .refine(({ kind, place }) => (kind === 'place') === (place !== null), {
        path: ['place'],
        message: 'goes with a place, and with nothing else',
      }),
  answer: () => z.object({ id, address: z.string() }),
})

export const changePublished = route({
  method: 'PUT',
  path: '/api/feeds/published/:feedId',
  summary: 'Change what is shown at an address of mine, and how. Its address stays.',
  who: 'person',
  params: () => z.object({ feedId: id }),
  body: () => z.object(settings),
})

export const revokeFeed = route({
  method: 'DELETE',
  path: '/api/feeds/published/:feedId',
  summary: 'Make an address of mine stop working.',
  who: 'person',
  params: () => z.object({ feedId: id }),
})

const given = z
  .object({
    name: z.string().trim().min(1, 'is missing').max(100),
    address: z.string().trim().max(2000),
    everyMinutes: z.number().int().min(LEAST_MINUTES).max(MOST_MINUTES).default(60),
    whose: z.enum(WHOSE).default('nobody'),
    guest: address.nullable().default(null),
    /** Whether it is laid beside my own time when it is added. */
    beside: z.boolean().default(true),
  })
  .refine(({ whose, guest }) => (whose === 'guest') === (guest !== null), {
    path: ['guest'],
    message: 'goes with the time of a guest, and with nothing else',
  })

export const putFeed = route({
  method: 'PUT',
  path: '/api/feeds/read/:feedId',
  summary: 'Read a calendar or free/busy from an address, from now on.',
  who: 'person',
  params: () => z.object({ feedId: id }),
  body: () => given,
  answer: () => feed,
})

export const deleteFeed = route({
  method: 'DELETE',
  path: '/api/feeds/read/:feedId',
  summary: 'Read a feed no more, and forget what was in it.',
  who: 'person',
  params: () => z.object({ feedId: id }),
})

export const fetchFeed = route({
  method: 'POST',
  path: '/api/feeds/read/:feedId/fetch',
  summary: 'Read a feed now.',
  who: 'person',
  params: () => z.object({ feedId: id }),
  answer: () => feed,
})

export const readFeedSpans = route({
  method: 'GET',
  path: '/api/feeds/spans',
  summary: 'What stands in feeds that I read, in a range.',
  who: 'person',
  query: () => z.object({ feeds: z.string().min(1).max(4000), from: instant, to: instant }),
  answer: () =>
    z.object({
      feeds: z.array(
        z.object({
          id,
          spans: z.array(span),
          /** Times of which the feed says something that was not understood: unknown, never free. */
          unknown: z.array(z.object({ start: instant, end: instant })),
        }),
      ),
    }),
})

export const readPublished = route({
  method: 'GET',
  path: '/api/published/:token',
  summary: 'What is published at a secret address: iCalendar, VFREEBUSY, or a small page.',
  who: 'guest',
  params: () => z.object({ token: z.string().min(20).max(100) }),
  answersFile: true,
})

export const exportCalendar = route({
  method: 'GET',
  path: '/api/export',
  summary: 'My entries as iCalendar: all of them, with my to-dos, or those that touch a range.',
  who: 'person',
  query: () => z.object({ from: instant.optional(), to: instant.optional(), of: id.optional() }),
  answersFile: true,
})

export const MOST_IMPORT_BYTES = 20 * 1024 * 1024

export const previewImport = route({
  method: 'POST',
  path: '/api/imports',
  summary: 'Look at an iCalendar file before it is imported: the body is its bytes.',
  who: 'person',
  rawBytes: MOST_IMPORT_BYTES,
  answer: () =>
    z.object({
      importId: id,
      made: z.number(),
      changed: z.number(),
      /** Its to-dos that are not here yet, and those that are here and differ. */
      todos: z.object({ made: z.number(), changed: z.number() }),
      /** Entries that the file says were cancelled. */
      removed: z.number(),
      same: z.number(),
      refused: z.array(z.object({ line: z.number(), title: z.string(), reason: z.string() })),
      refusedCount: z.number(),
      samples: z.array(
        z.object({ title: z.string(), start: instant, change: z.enum(['made', 'changed', 'removed']) }),
      ),
    }),
})
export type ImportPreview = z.infer<(typeof previewImport)['answer']>

export const takeImport = route({
  method: 'POST',
  path: '/api/imports/:importId/take',
  summary:
    'Import a file that was looked at, all of it or nothing; answers with its progress, a line of JSON each.',
  who: 'person',
  params: () => z.object({ importId: id }),
  answersFile: true,
})

/** A line of an import's progress. The last one has `changeId`, or the problem. */
export const importProgress = z.object({
  done: z.number(),
  of: z.number(),
  changeId: id.optional(),
  trouble: z.string().optional(),
})
export type ImportProgress = z.infer<typeof importProgress>
