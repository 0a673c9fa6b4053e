import { MOST_NOTE } from '@marmot/core/entries'
import { z } from 'zod'
import { event } from './live.ts'
import { id, instant, wall } from './route.ts'

const zone = z.string().max(100)

/** What a to-do says of itself. */
export const said = {
  title: z.string().trim().min(1, 'is missing').max(200),
  /** Formatted text as HTML; it is cleaned on the way in. */
  note: z.string().max(MOST_NOTE).default(''),
  /** When it is due; null for no day. Of a whole day the clock says 00:00, and the zone nothing. */
  due: wall.nullable().default(null),
  dueAllDay: z.boolean().default(true),
  zone,
  /** How long it takes, in minutes; null where nobody said. */
  minutes: z.number().int().min(1).max(44_640).nullable().default(null),
  /** A category of its owner's, told to nobody else. */
  categoryId: id.nullable().default(null),
  /** RFC 5545 PRIORITY: 1 to 4 high, 6 to 9 low. */
  priority: z.number().int().min(0).max(9).default(0),
  /** How far it is, in percent (RFC 5545 PERCENT-COMPLETE). */
  percent: z.number().int().min(0).max(100).default(0),
  done: z.boolean().default(false),
  /** The colleague who is to do it; null for oneself. */
  givenTo: id.nullable().default(null),
}

export const todo = z.object({
  ...said,
  id,
  ownerId: id,
  owner: z.string(),
  /** The name of the colleague to whom it was given. */
  given: z.string().nullable(),
  doneAt: instant.nullable(),
  version: z.number(),
  /** The time that the asker has set aside for it, in order. */
  times: z.array(z.object({ entryId: id, recurrence: wall, start: instant, end: instant })),
})
export type Todo = z.infer<typeof todo>

/** A to-do as a list has it. There may be thousands, so that nothing of them is checked once more on the way out. */
export const listedTodo = todo.extend({
  id: z.string(),
  ownerId: z.string(),
  title: z.string(),
  note: z.string(),
  due: z.string().nullable(),
  zone: z.string(),
  categoryId: z.string().nullable(),
  givenTo: z.string().nullable(),
  doneAt: z.string().nullable(),
})

/** A to-do that is open and due, as it stands beside a day. */
export const dueTodo = todo.pick({
  id: true,
  title: true,
  due: true,
  dueAllDay: true,
  zone: true,
  categoryId: true,
})
export type DueTodo = z.infer<typeof dueTodo>

/** To-dos changed, for those whose they are or who have them. */
export const todosEvent = event('todos', { people: z.array(id) })
