import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/reminders': () => [{ path: '/api/reminders' }],
  'POST /api/reminders/{reminderId}/snooze': (about) => [
    { path: `/api/reminders/${about.nobody}/snooze`, body: { minutes: 5 } },
  ],
  'POST /api/reminders/{reminderId}/dismiss': (about) => [{ path: `/api/reminders/${about.nobody}/dismiss` }],
}
