import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/invitations/{token}': 'needs the guest’s own link',
  'POST /api/invitations/{token}/answer': 'needs the guest’s own link',
  'POST /api/invitations/{token}/proposals': 'needs the guest’s own link',
  'GET /api/invitations/{token}/agenda': 'needs the guest’s own link',
  'GET /api/invitations/{token}/agenda/live': 'needs the guest’s own link',
  'POST /api/invitations/{token}/join': 'needs the guest’s own link',
  'GET /api/invitations/{token}/conversation': 'needs the guest’s own link',
  'POST /api/invitations/{token}/conversation': 'needs the guest’s own link',
  'DELETE /api/invitations/{token}/messages/{messageId}': 'needs the guest’s own link',
  'POST /api/invitations/{token}/files': 'needs the guest’s own link',
  'GET /api/invitations/{token}/files/{attachmentId}': 'needs the guest’s own link',
  'GET /api/invitations/{token}/events': 'needs the guest’s own link',
  'POST /api/invitations/{token}/renew': 'nothing',
}
