import { ANSWERS, SPAN_STATES } from '@marmot/core/sharing'
import { z } from 'zod'
import { id, instant, route, wall } from './route.ts'

/** One date of an entry of mine, as My time shows it. */
export const occurrence = z.object({
  entryId: id,
  /** The wall time that names this date of a series (RECURRENCE-ID); for a single entry its start. */
  recurrence: wall,
  start: instant,
  end: instant,
  zone: z.string(),
  title: z.string(),
  place: z.string(),
  note: z.string(),
  shows: z.enum(SPAN_STATES),
  /** How it stands on my lane, my answer counted; null when it does not. */
  state: z.enum(SPAN_STATES).nullable(),
  answer: z.enum(ANSWERS),
  repeats: z.boolean(),
  /** True when others take part. */
  meeting: z.boolean(),
  /** True when I own it and may move or delete it. */
  mine: z.boolean(),
  private: z.boolean(),
  version: z.number(),
})
export type OccurrenceOnWire = z.infer<typeof occurrence>

export const listEntries = route({
  method: 'GET',
  path: '/api/entries',
  summary: 'The dates of my own entries that touch a range.',
  who: 'person',
  query: z.object({ from: instant, to: instant }),
  answer: z.object({
    occurrences: z.array(occurrence),
    hours: z.array(z.object({ weekday: z.number(), from: z.number(), to: z.number() })),
  }),
})

const time = {
  starts: wall,
  minutes: z.number().int(),
  zone: z.string().max(100),
}

const words = {
  title: z.string().trim().max(200),
  place: z.string().trim().max(200).default(''),
  note: z.string().trim().max(10_000).default(''),
  shows: z.enum(SPAN_STATES).default('busy'),
  private: z.boolean().default(false),
}

/** What a write gives back: the entry's new version and what became of its time. */
export const written = z.object({
  entryId: id,
  version: z.number(),
  start: instant,
  end: instant,
  /** True when daylight saving skips the typed time, so that it moved on. */
  moved: z.boolean(),
})
export type Written = z.infer<typeof written>

export const createEntry = route({
  method: 'POST',
  path: '/api/entries',
  summary: 'Make an entry of my own.',
  who: 'person',
  repeatable: true,
  body: z.object({ ...time, ...words }),
  answer: written,
})

export const changeEntry = route({
  method: 'PUT',
  path: '/api/entries/:entryId',
  summary: 'Change an entry of mine; of a series, the one date named by `recurrence`.',
  who: 'person',
  params: z.object({ entryId: id }),
  body: z.object({ ...time, ...words, recurrence: wall, version: z.number().int() }),
  answer: written,
})

export const deleteEntry = route({
  method: 'DELETE',
  path: '/api/entries/:entryId',
  summary: 'Delete an entry of mine; of a series, the one date named by `recurrence`.',
  who: 'person',
  params: z.object({ entryId: id }),
  query: z.object({ recurrence: wall, version: z.coerce.number().int() }),
  answer: z.object({ version: z.number() }),
})

export const restoreEntry = route({
  method: 'POST',
  path: '/api/entries/:entryId/restore',
  summary: 'Bring back what was deleted.',
  who: 'person',
  params: z.object({ entryId: id }),
  body: z.object({ recurrence: wall, version: z.number().int() }),
  answer: z.object({ version: z.number() }),
})
