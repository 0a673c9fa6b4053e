import { z } from 'zod'
import { id, wall } from './route.ts'

export const places = z.array(id).max(20)
/** The most dates of a series that can differ from it, or be added or left out, when it is made. */
const MOST_CHANGES = 500

/** A time with its places, once or as often as it repeats. */
export const run = z.object({
  starts: wall,
  minutes: z.number().int(),
  zone: z.string().max(100),
  allDay: z.boolean().default(false),
  places,
  /**
   * A series: its RRULE (RFC 5545), dates added to it and left out of it, and those that differ from it; `starts` is its
   * first date as the rule has it.
   */
  series: z
    .object({
      rule: z.string().trim().min(1).max(1000).nullable(),
      added: z.array(wall).max(MOST_CHANGES).default([]),
      excepted: z.array(wall).max(MOST_CHANGES).default([]),
      changes: z
        .array(z.object({ recurrence: wall, starts: wall, places }))
        .max(MOST_CHANGES)
        .default([]),
    })
    .nullable()
    .default(null),
})
export type Run = z.infer<typeof run>
