import { ANSWERS } from '@marmot/core/sharing'
import { z } from 'zod'
import { person } from './people.ts'
import { resource } from './resources.ts'
import { id, instant, route, wall } from './route.ts'
import { todo } from './todo.ts'

/** An entry, a meeting or a reservation that was found, at its next date, or at the last that it had. */
export const foundEntry = z.object({
  entryId: id,
  recurrence: wall,
  title: z.string(),
  place: z.string(),
  start: instant,
  end: instant,
  allDay: z.boolean(),
  repeats: z.boolean(),
  meeting: z.boolean(),
  /** Whose it is: of a meeting, who organizes it. */
  owner: z.string(),
  /** Whether it stands among my own, and what I said to it. */
  mine: z.boolean(),
  answer: z.enum(ANSWERS).nullable(),
  /** Whose lane it stands on, where that is not mine. */
  laneOf: id.nullable(),
  /** Whether all of it may be read, and not its headline alone. */
  whole: z.boolean(),
})
export type FoundEntry = z.infer<typeof foundEntry>

export const search = route({
  method: 'GET',
  path: '/api/search',
  summary:
    'Find entries, meetings, people, teams and places by the beginnings of their words: only what I may see. What merely looks alike comes where nothing else is.',
  who: 'person',
  query: () =>
    z.object({
      q: z.string().max(200),
      /** How many entries at the most. */
      most: z.coerce.number().int().min(1).max(200).default(12),
    }),
  answer: () =>
    z.object({
      entries: z.array(foundEntry),
      people: z.array(person),
      /** People outside with whom I have to do. */
      contacts: z.array(z.object({ id, name: z.string(), organisation: z.string() })),
      /** What I have or had to do. */
      todos: z.array(todo),
      /** Coming days off of sites: holidays, and days on which they are closed. */
      daysOff: z
        .array(z.object({ siteId: id, site: z.string(), day: z.iso.date(), name: z.string() }))
        .default([]),
      teams: z.array(z.object({ name: z.string(), members: z.array(person) })),
      places: z.array(
        resource.pick({ id: true, name: true, kind: true, site: true, seats: true, siteId: true }),
      ),
      /** True where nothing has these words, and what is here looks like it. */
      alike: z.boolean(),
      /** True where the words are in so much that others' time was not looked through. */
      partly: z.boolean(),
    }),
})
