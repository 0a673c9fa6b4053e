import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/meetings/{entryId}/agenda': (about) =>
    [about.meetingId, about.entryId].map((id) => ({ path: `/api/meetings/${id}/agenda` })),
  'GET /api/meetings/{entryId}/agenda/live': 'opened below',
}
