import { z } from 'zod'
import { id, instant } from './route.ts'

/** A poll in a line of Now: one that I am asked in and that waits for me, or one that I ask and that is not decided. */
export const pollLine = z.object({
  pollId: id,
  title: z.string(),
  organizer: z.string(),
  mine: z.boolean(),
  times: z.number(),
  first: instant,
  last: instant,
  closes: instant,
  /** How many are asked, and how many have said something. */
  asked: z.number(),
  marked: z.number(),
})
export type PollLine = z.infer<typeof pollLine>
