import { z } from 'zod'
import { event } from './live.ts'
import { id, instant, route, wall } from './route.ts'

export const reminder = z.object({
  id,
  entryId: id,
  recurrence: wall,
  title: z.string(),
  place: z.string(),
  start: instant,
  end: instant,
  meeting: z.boolean(),
})
export type Reminder = z.infer<typeof reminder>

export const listReminders = route({
  method: 'GET',
  path: '/api/reminders',
  summary: 'Reminders of mine that have come due and that I have not put away.',
  who: 'person',
  answer: () => z.object({ reminders: z.array(reminder) }),
})

export const snoozeReminder = route({
  method: 'POST',
  path: '/api/reminders/:reminderId/snooze',
  summary: 'Remind me of it again in so many minutes.',
  who: 'person',
  params: () => z.object({ reminderId: id }),
  body: () => z.object({ minutes: z.number().int().min(1).max(10_080) }),
})

export const dismissReminder = route({
  method: 'POST',
  path: '/api/reminders/:reminderId/dismiss',
  summary: 'Put a reminder away.',
  who: 'person',
  params: () => z.object({ reminderId: id }),
})

/** Reminders came due or were put away; for those whose they are. */
export const remindersEvent = event('reminders', { people: z.array(id) })
