import type { Privacy } from '../testing/privacy.ts'

/** A change that is refused as stale wherever it would be allowed. */
const A_CHANGE = {
  title: 'Mine now',
  starts: '2026-12-03T14:00',
  minutes: 60,
  zone: 'Europe/Vienna',
  version: 999,
}

export const privacy: Privacy = {
  'GET /api/entries': (about) => [
    { path: `/api/entries?${about.range}&of=${about.ownerId}` },
    { path: `/api/entries?${about.range}` },
  ],
  'GET /api/entries/{entryId}': (about) =>
    [about.entryId, about.meetingId].flatMap((id) => [
      { path: `/api/entries/${id}` },
      { path: `/api/entries/${id}?of=${about.ownerId}` },
      ...['2026-12-04T14:00', about.hiddenDate].flatMap((date) => [
        { path: `/api/entries/${id}?recurrence=${date}` },
        { path: `/api/entries/${id}?recurrence=${date}&of=${about.ownerId}` },
      ]),
    ]),
  'GET /api/changes': () => [{ path: '/api/changes' }],
  'GET /api/categories': () => [{ path: '/api/categories' }],
  'GET /api/attachments/{attachmentId}': (about) =>
    [about.attachmentId, about.meetingFileId].map((id) => ({ path: `/api/attachments/${id}` })),
  'PUT /api/entries/{entryId}': (about) =>
    (['this', 'following', 'all'] as const).flatMap((scope) =>
      [about.recurrence, about.hiddenDate].map((recurrence) => ({
        path: `/api/entries/${about.entryId}`,
        body: { ...A_CHANGE, scope, recurrence },
      })),
    ),
  'DELETE /api/entries/{entryId}': (about) => [
    { path: `/api/entries/${about.entryId}?recurrence=${about.recurrence}&version=999` },
  ],
  'PUT /api/entries/{entryId}/mine': (about) => [
    { path: `/api/entries/${about.entryId}/mine`, body: { categoryId: null, reminders: null } },
  ],
  'POST /api/changes/{changeId}/undo': (about) => [{ path: `/api/changes/${about.changeId}/undo` }],
  'POST /api/entries/{entryId}/attachments': (about) => [
    { path: `/api/entries/${about.entryId}/attachments?name=empty.txt`, bytes: Buffer.alloc(0) },
  ],
  'DELETE /api/attachments/{attachmentId}': (about) => [{ path: `/api/attachments/${about.nobody}` }],
  'POST /api/attachments/{attachmentId}/restore': (about) => [
    { path: `/api/attachments/${about.attachmentId}/restore` },
  ],
  'POST /api/entries': 'what was just sent',
  'PUT /api/categories/{categoryId}': 'my own category',
  'DELETE /api/categories/{categoryId}': 'nothing',
}
