import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/meetings/{entryId}/record': (about) =>
    [about.meetingId, about.entryId].map((id) => ({ path: `/api/meetings/${id}/record` })),
  'POST /api/meetings/{entryId}/join': (about) =>
    [about.meetingId, about.entryId].map((id) => ({ path: `/api/meetings/${id}/join`, body: {} })),
  'GET /api/calls': () => [{ path: '/api/calls' }],
  'DELETE /api/calls/{callId}': (about) => [{ path: `/api/calls/${about.nobody}` }],
  'POST /api/conferences/seats': (about) => [
    { path: '/api/conferences/seats', bytes: Buffer.from(JSON.stringify({ room: about.meetingId })) },
  ],
}
