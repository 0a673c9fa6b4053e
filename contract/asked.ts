import { z } from 'zod'
import { contact } from './people.ts'
import { id, instant, wall } from './route.ts'

/** A reservation that waits for its place's steward: all of its dates that are not decided about. */
export const request = z.object({
  entryId: id,
  resourceId: id,
  place: z.string(),
  siteId: id,
  zone: z.string(),
  by: z.string(),
  /** What whoever asks says to whoever decides. */
  purpose: z.string(),
  headCount: z.number().nullable(),
  contact: contact.nullable(),
  /** Each with its name within its series, where it is one. */
  dates: z.array(z.object({ start: instant, end: instant, recurrence: wall.nullable() })),
  /** Other times that I proposed, and that nobody has answered. */
  proposed: z.array(z.object({ proposalId: id, start: instant, end: instant, recurrence: wall.nullable() })),
  /** When it lapses by itself. */
  lapses: instant,
})
export type Request = z.infer<typeof request>

/** One reservation that would go to another place. */
export const move = z.object({
  reservationId: id,
  /** Who has it, as far as whoever asks may know. */
  by: z.string(),
  /** True where it is whoever asks who has it. */
  mine: z.boolean(),
  from: z.string(),
  to: z.string(),
  toId: id,
  start: instant,
  end: instant,
})

/** Room that somebody asks for: what becomes of it is decided by those who would move, each for themselves. */
export const exchange = z.object({
  exchangeId: id,
  /** Who asks, and what for as they say it to those whom they ask. */
  by: z.string(),
  mine: z.boolean(),
  purpose: z.string(),
  place: z.string(),
  zone: z.string(),
  start: instant,
  end: instant,
  lapses: instant,
  /** Whether it ended without room: somebody said no or nothing, or it could not be done any more. */
  ended: z.boolean(),
  /** What I would send once there is room, where it invites others: it is not lost where there is none. */
  wish: z
    .object({
      title: z.string(),
      note: z.string(),
      minutes: z.number(),
      people: z.array(z.object({ id, required: z.boolean() })),
      guests: z.array(z.object({ address: z.string(), name: z.string(), required: z.boolean() })),
      places: z.array(id),
      agenda: z.array(
        z.object({
          title: z.string(),
          who: z.string().default(''),
          minutes: z.number().nullable().default(null),
        }),
      ),
      of: id.optional(),
    })
    .nullable(),
  moves: z.array(
    move.omit({ reservationId: true, toId: true }).extend({
      /** What of theirs it is, for whoever is asked; empty for others. */
      title: z.string(),
      agreed: z.boolean(),
      /** Whether the one who looks is asked, and has not answered. */
      asked: z.boolean(),
    }),
  ),
})
export type Exchange = z.infer<typeof exchange>
