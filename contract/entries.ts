import { MOST_NOTE, SCOPES } from '@marmot/core/entries'
import { ANSWERS, SPAN_STATES } from '@marmot/core/sharing'
import { z } from 'zod'
import { id, instant, route, wall } from './route.ts'
import { dueTodo } from './todo.ts'
import { siteForecast } from './weather.ts'

/** One date of an entry on a person's lane, as My time shows it. */
export const occurrence = z.object({
  entryId: id,
  /** The wall time that names this date of a series (RECURRENCE-ID); for a single entry its start. */
  recurrence: wall,
  start: instant,
  end: instant,
  zone: z.string(),
  allDay: z.boolean(),
  title: z.string(),
  place: z.string(),
  shows: z.enum(SPAN_STATES),
  /** How it stands on the lane, the answer counted; null when it does not (a declined meeting). */
  state: z.enum(SPAN_STATES).nullable(),
  answer: z.enum(ANSWERS),
  /** Of a meeting of one's own, on a lane of up to nine weeks: how many of those invited have answered. */
  answered: z.object({ said: z.number(), asked: z.number() }).nullable(),
  repeats: z.boolean(),
  /** True for a date of a series that differs from its rule. */
  changed: z.boolean(),
  /** True when others take part. */
  meeting: z.boolean(),
  /** True when places are reserved for it: a reservation, where it is no meeting. */
  reserved: z.boolean(),
  /** True when it belongs to whose time this is, rather than to somebody who invited them. */
  own: z.boolean(),
  private: z.boolean(),
  /** At which site it is out of doors: by itself, or by a place of it that is; null under a roof. */
  outdoors: id.nullable().default(null),
  categoryId: id.nullable(),
  attached: z.boolean(),
  /** A private one that the asker may not open: only its time and state are told. */
  hidden: z.boolean(),
  version: z.number(),
})
export type OccurrenceOnWire = z.infer<typeof occurrence>

export const listEntries = route({
  method: 'GET',
  path: '/api/entries',
  summary: 'The dates of my own entries that touch a range, or of somebody’s whom I act for.',
  who: 'person',
  query: () => z.object({ from: instant, to: instant, of: id.optional() }),
  answer: () =>
    z.object({
      occurrences: z.array(occurrence),
      /** What is kept free before and after meetings; it stands in none of them. */
      gaps: z.array(z.object({ start: instant, end: instant })),
      /** What the person's own calendars elsewhere take: what it is, is told to nobody else. It is not changed here. */
      elsewhere: z
        .array(z.object({ start: instant, end: instant, state: z.enum(SPAN_STATES), title: z.string() }))
        .default([]),
      /** Days off of the person’s site, by their names: holidays, and days on which it is closed. */
      daysOff: z.array(z.object({ start: instant, end: instant, title: z.string() })).default([]),
      /** What I have still to do that is due within the range; of nobody else’s days. */
      due: z.array(dueTodo).default([]),
      /** What is expected where dates out of doors are still to come. */
      forecasts: z.array(siteForecast).default([]),
      /** Parts of the range of which nothing is known: of calendars elsewhere, or beyond what a device has kept. */
      unknown: z.array(z.object({ start: instant, end: instant })).default([]),
      hours: z.array(z.object({ weekday: z.number(), from: z.number(), to: z.number() })),
      /** Whether the asker may change these. */
      mayChange: z.boolean(),
    }),
})

const time = {
  starts: wall,
  minutes: z.number().int(),
  zone: z.string().max(100),
  allDay: z.boolean().default(false),
}

/** How an entry repeats: an RFC 5545 rule, and wall times added to it and left out of it. */
export const repetition = z.object({
  rule: z.string().trim().max(1000).nullable(),
  added: z.array(wall).max(500).default([]),
  excepted: z.array(wall).max(500).default([]),
})
export type Repetition = z.infer<typeof repetition>

const MOST_REMINDERS = 5
/** Minutes before the start at which one is reminded; null as the person usually is, empty for none. */
export const reminders = z.array(z.number().int().min(0).max(40_320)).max(MOST_REMINDERS).nullable()

const words = {
  title: z.string().trim().max(200),
  place: z.string().trim().max(200).default(''),
  /** Formatted text as HTML; it is cleaned on the way in. */
  note: z.string().max(MOST_NOTE).default(''),
  shows: z.enum(SPAN_STATES).default('busy'),
  private: z.boolean().default(false),
  /** At which site it is out of doors, null for under a roof; left out, as before. Of a series for all dates. */
  outdoors: id.nullable().optional(),
  categoryId: id.nullable().default(null),
  reminders: reminders.default(null),
}

export const attachment = z.object({ id, name: z.string(), type: z.string(), size: z.number() })
export type Attachment = z.infer<typeof attachment>

/** An entry whole, seen from one of its dates. */
export const entry = occurrence.extend({
  ownerId: id,
  owner: z.string(),
  mayChange: z.boolean(),
  /** What was said of where it is, beside the places reserved for it, which `place` has too. */
  placeText: z.string(),
  /** At which site it was said to be out of doors, whatever its places are. */
  outdoorsSaid: id.nullable().default(null),
  note: z.string(),
  reminders,
  /** The series it is a date of: the first date's wall time and length, its repetition, what was changed by itself. */
  seriesStarts: wall,
  seriesMinutes: z.number(),
  repetition,
  overrides: z.array(
    z.object({
      recurrence: wall,
      cancelled: z.boolean(),
      starts: wall.nullable(),
      minutes: z.number().nullable(),
    }),
  ),
  attachments: z.array(attachment),
  /** People named where the entry was imported from; Marmot told them nothing. */
  contacts: z.array(z.object({ name: z.string(), address: z.string() })),
})
export type EntryOnWire = z.infer<typeof entry>

export const readEntry = route({
  method: 'GET',
  path: '/api/entries/:entryId',
  summary: 'An entry whole, seen from the date named by `recurrence` (else its first).',
  who: 'person',
  params: () => z.object({ entryId: id }),
  query: () =>
    z.object({
      recurrence: wall.optional(),
      /** On whose lane it stands, when not on mine. */ of: id.optional(),
    }),
  answer: () => entry,
})

/** What a write gives back: the entry's new version, what became of its time, and the change, by which it is undone. */
export const written = z.object({
  entryId: id,
  recurrence: wall,
  version: z.number(),
  changeId: id,
  start: instant,
  end: instant,
  /** True when daylight saving skips the typed time, so that it moved on. */
  moved: z.boolean(),
})
export type Written = z.infer<typeof written>

export const createEntry = route({
  method: 'POST',
  path: '/api/entries',
  summary: 'Make an entry of my own, or of somebody’s whom I act for.',
  who: 'person',
  repeatable: true,
  body: () =>
    z.object({
      ...time,
      ...words,
      repetition: repetition.nullable().default(null),
      of: id.optional(),
      /** The to-do for which the time is set aside. */
      todoId: id.nullable().default(null),
    }),
  answer: () => written,
})

export const changeEntry = route({
  method: 'PUT',
  path: '/api/entries/:entryId',
  summary: 'Change an entry: of a series the date named by `recurrence`, that and the following, or all.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  body: () =>
    z.object({
      ...time,
      ...words,
      recurrence: wall,
      scope: z.enum(SCOPES).default('this'),
      /** How it repeats from now on: left out, as before; null, no more. */
      repetition: repetition.nullable().optional(),
      version: z.number().int(),
    }),
  answer: () => written,
})

export const deleteEntry = route({
  method: 'DELETE',
  path: '/api/entries/:entryId',
  summary: 'Delete an entry: of a series the date named by `recurrence`, that and the following, or all.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  query: () =>
    z.object({
      recurrence: wall,
      scope: z.enum(SCOPES).default('this'),
      version: z.coerce.number().int(),
    }),
  answer: () => z.object({ changeId: id }),
})

export const keepMine = route({
  method: 'PUT',
  path: '/api/entries/:entryId/mine',
  summary: 'My own category and reminders of an entry I take part in.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  body: () => z.object({ categoryId: id.nullable(), reminders }),
})

export const undoChange = route({
  method: 'POST',
  path: '/api/changes/:changeId/undo',
  summary: 'Take a change back, if nothing was changed since.',
  who: 'person',
  params: () => z.object({ changeId: id }),
  answer: () =>
    z.object({
      undone: z.boolean(),
      /** How many people have to be told of it, since they knew of the change. */
      told: z.number(),
    }),
})

export const CHANGE_KINDS = [
  'made',
  'changed',
  'deleted',
  'answered',
  'sent',
  'cancelled',
  'imported',
] as const

export const listChanges = route({
  method: 'GET',
  path: '/api/changes',
  summary: 'What others did for me, and what I did for others, newest first.',
  who: 'person',
  answer: () =>
    z.object({
      changes: z.array(
        z.object({
          id,
          kind: z.enum(CHANGE_KINDS),
          title: z.string(),
          actor: z.string(),
          owner: z.string(),
          forMe: z.boolean(),
          at: instant,
          undone: z.boolean(),
        }),
      ),
    }),
})

export const category = z.object({ id, name: z.string(), tone: z.number().int().min(0).max(9) })
export type Category = z.infer<typeof category>

export const listCategories = route({
  method: 'GET',
  path: '/api/categories',
  summary: 'My categories.',
  who: 'person',
  answer: () => z.object({ categories: z.array(category) }),
})

export const putCategory = route({
  method: 'PUT',
  path: '/api/categories/:categoryId',
  summary: 'Make or change a category of mine.',
  who: 'person',
  params: () => z.object({ categoryId: id }),
  body: () => z.object({ name: z.string().trim().min(1, 'is missing').max(60), tone: category.shape.tone }),
  answer: () => category,
})

export const deleteCategory = route({
  method: 'DELETE',
  path: '/api/categories/:categoryId',
  summary: 'Delete a category of mine; what was in it has none.',
  who: 'person',
  params: () => z.object({ categoryId: id }),
})

/** One file, and all files of an entry, in bytes. */
export const MOST_FILE_BYTES = 10 * 1024 * 1024
export const MOST_FILES_BYTES = 25 * 1024 * 1024

export const addAttachment = route({
  method: 'POST',
  path: '/api/entries/:entryId/attachments',
  summary:
    'Attach a file to an entry: its bytes are the body. Under an id of the asker’s own it can be named before it is sent, and sent twice.',
  who: 'person',
  params: () => z.object({ entryId: id }),
  query: () => z.object({ name: z.string().trim().min(1).max(200), id: id.optional() }),
  rawBytes: MOST_FILE_BYTES,
  answer: () => attachment,
})

export const readAttachment = route({
  method: 'GET',
  path: '/api/attachments/:attachmentId',
  summary: 'A file, as it was attached.',
  who: 'person',
  params: () => z.object({ attachmentId: id }),
  answersFile: true,
})

export const deleteAttachment = route({
  method: 'DELETE',
  path: '/api/attachments/:attachmentId',
  summary: 'Take a file off its entry.',
  who: 'person',
  params: () => z.object({ attachmentId: id }),
})

export const restoreAttachment = route({
  method: 'POST',
  path: '/api/attachments/:attachmentId/restore',
  summary: 'Put a file back that was taken off.',
  who: 'person',
  params: () => z.object({ attachmentId: id }),
  answer: () => attachment,
})
