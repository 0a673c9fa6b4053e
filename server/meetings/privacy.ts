import { type About, type Privacy, RESERVED } from '../testing/privacy.ts'

/** The meeting, a reservation, and an entry that is neither. */
const everyOne = (about: About) => [about.meetingId, about.reservedId, about.entryId]

const changes = (about: About, path: string) =>
  everyOne(about).map((id) => ({
    path: `/api/meetings/${id}/${path}`,
    body: { title: 'Mine now', version: 999 },
  }))

export const privacy: Privacy = {
  'GET /api/invitations': () => [{ path: '/api/invitations' }],
  'GET /api/meetings/{entryId}': (about) => everyOne(about).map((id) => ({ path: `/api/meetings/${id}` })),
  'GET /api/meetings/{entryId}/dates': (about) =>
    everyOne(about).map((id) => ({ path: `/api/meetings/${id}/dates` })),
  'POST /api/meetings/{entryId}/answer': (about) =>
    everyOne(about).flatMap((id) => [
      { path: `/api/meetings/${id}/answer`, body: { answer: 'accepted' } },
      { path: `/api/meetings/${id}/answer`, body: { answer: 'accepted', of: about.ownerId } },
    ]),
  'POST /api/meetings/{entryId}/change': (about) => changes(about, 'change'),
  'POST /api/meetings/{entryId}/change/look': (about) => changes(about, 'change/look'),
  'POST /api/meetings/{entryId}/nudge': (about) =>
    everyOne(about).map((id) => ({ path: `/api/meetings/${id}/nudge` })),
  'POST /api/meetings/{entryId}/delegate': (about) =>
    everyOne(about).flatMap((id) =>
      [{}, { of: about.ownerId }].map((more) => ({
        path: `/api/meetings/${id}/delegate`,
        body: { to: { person: about.nobody }, ...more },
      })),
    ),
  'POST /api/meetings/{entryId}/call': (about) =>
    everyOne(about).map((id) => ({
      path: `/api/meetings/${id}/call`,
      body: { to: { person: about.nobody } },
    })),
  'POST /api/requests/{entryId}/{resourceId}': (about) => [
    { path: `/api/requests/${about.reservedId}/${about.placeId}`, body: { grant: false, words: 'no' } },
  ],
  'POST /api/resources/{resourceId}/closures/look': (about) => [
    { path: `/api/resources/${about.placeId}/closures/look`, body: { ...RESERVED } },
  ],
  'POST /api/resources/{resourceId}/closures': (about) => [
    // As if nothing were hit: refused, or not theirs to close.
    { path: `/api/resources/${about.placeId}/closures`, body: { ...RESERVED, reason: 'Paint', moves: [] } },
  ],
  'DELETE /api/resources/{resourceId}/closures/{closureId}': (about) => [
    { path: `/api/resources/${about.placeId}/closures/${about.nobody}` },
  ],
  'POST /api/meetings/right-away': 'a meeting of one’s own',
  'POST /api/meetings': 'who has a place is asked in privacy.test.ts',
  'POST /api/meetings/{entryId}/cancel': 'a number',
}
