import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/meetings/{entryId}/conversation': (about) =>
    [about.meetingId, about.entryId].map((id) => ({ path: `/api/meetings/${id}/conversation` })),
  // Nothing is said, so that nothing is left of it: what it refuses with counts.
  'POST /api/meetings/{entryId}/conversation': (about) =>
    [about.meetingId, about.entryId].map((id) => ({
      path: `/api/meetings/${id}/conversation`,
      body: { text: '' },
    })),
  'POST /api/meetings/{entryId}/conversation/read': (about) =>
    [about.meetingId, about.entryId].map((id) => ({ path: `/api/meetings/${id}/conversation/read` })),
  'POST /api/meetings/{entryId}/files': (about) =>
    [about.meetingId, about.entryId].map((id) => ({
      path: `/api/meetings/${id}/files?name=empty.txt`,
      bytes: Buffer.alloc(0),
    })),
  'DELETE /api/messages/{messageId}': (about) => [{ path: `/api/messages/${about.messageId}` }],
  'POST /api/messages/{messageId}/restore': (about) => [{ path: `/api/messages/${about.messageId}/restore` }],
}
