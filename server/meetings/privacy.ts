import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/meetings/{entryId}': (about) => [
    { path: `/api/meetings/${about.meetingId}` },
    { path: `/api/meetings/${about.entryId}` },
  ],
  'POST /api/meetings/{entryId}/answer': (about) =>
    [about.meetingId, about.entryId].flatMap((id) => [
      { path: `/api/meetings/${id}/answer`, body: { answer: 'accepted' } },
      { path: `/api/meetings/${id}/answer`, body: { answer: 'accepted', of: about.ownerId } },
    ]),
  'POST /api/meetings/{entryId}/change': (about) =>
    [about.meetingId, about.entryId].map((id) => ({
      path: `/api/meetings/${id}/change`,
      body: { title: 'Mine now', version: 999 },
    })),
  'POST /api/meetings': 'who has a place is asked in privacy.test.ts',
  'POST /api/meetings/{entryId}/cancel': 'a number',
}
