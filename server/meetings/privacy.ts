import type { About, Privacy } from '../testing/privacy.ts'

const changes = (about: About, path: string) =>
  [about.meetingId, about.entryId].map((id) => ({
    path: `/api/meetings/${id}/${path}`,
    body: { title: 'Mine now', version: 999 },
  }))

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
  'POST /api/meetings/{entryId}/change': (about) => changes(about, 'change'),
  'POST /api/meetings/{entryId}/change/look': (about) => changes(about, 'change/look'),
  'POST /api/meetings/{entryId}/nudge': (about) =>
    [about.meetingId, about.entryId].map((id) => ({ path: `/api/meetings/${id}/nudge` })),
  'POST /api/meetings/{entryId}/delegate': (about) =>
    [about.meetingId, about.entryId].flatMap((id) =>
      [{}, { of: about.ownerId }].map((more) => ({
        path: `/api/meetings/${id}/delegate`,
        body: { to: { person: about.nobody }, ...more },
      })),
    ),
  'POST /api/meetings/{entryId}/call': (about) =>
    [about.meetingId, about.entryId].map((id) => ({
      path: `/api/meetings/${id}/call`,
      body: { to: { person: about.nobody } },
    })),
  'POST /api/meetings/right-away': 'a meeting of one’s own',
  'POST /api/meetings': 'who has a place is asked in privacy.test.ts',
  'POST /api/meetings/{entryId}/cancel': 'a number',
}
