import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/meetings/{entryId}/proposals': (about) =>
    [about.meetingId, about.entryId].map((id) => ({ path: `/api/meetings/${id}/proposals` })),
  'POST /api/meetings/{entryId}/proposals': (about) =>
    [about.meetingId, about.entryId].flatMap((id) =>
      [{}, { of: about.ownerId }].map((more) => ({
        path: `/api/meetings/${id}/proposals`,
        body: { start: about.span.from, minutes: 30, ...more },
      })),
    ),
  'POST /api/requests/{entryId}/{resourceId}/proposals': (about) =>
    [about.meetingId, about.reservedId].map((id) => ({
      path: `/api/requests/${id}/${about.placeId}/proposals`,
      body: { start: about.span.from, minutes: 30 },
    })),
  'POST /api/proposals/{proposalId}/take': (about) => [
    { path: `/api/proposals/${about.nobody}/take`, body: { version: 1 } },
  ],
  'POST /api/proposals/{proposalId}/refuse': (about) => [
    { path: `/api/proposals/${about.nobody}/refuse`, body: {} },
  ],
  'DELETE /api/proposals/{proposalId}': (about) => [{ path: `/api/proposals/${about.nobody}` }],
}
