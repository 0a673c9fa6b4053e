import { ANSWERS } from '@marmot/core/sharing'
import { z } from 'zod'
import { id, instant, wall } from './route.ts'

export const notice = z.object({
  id,
  /** What it is about, in one word of the domain that wrote it: invited, changed, answered, cancelled, acted, shared. */
  kind: z.string(),
  entryId: id.nullable(),
  /** The poll that it is about. */
  pollId: id.nullable(),
  /** The to-do that it is about. */
  todoId: id.nullable(),
  title: z.string(),
  /** Who answered, invited or cancelled, acted for me, or shares with me. */
  who: z.string(),
  answer: z.enum(ANSWERS).nullable(),
  message: z.string(),
  /** Of a series: the one date it is about; null for all of them. */
  recurrence: wall.nullable(),
  repeats: z.boolean(),
  at: instant,
})
export type Notice = z.infer<typeof notice>
