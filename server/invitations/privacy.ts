import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/invitations/{token}': 'needs the guest’s own link',
  'POST /api/invitations/{token}/answer': 'needs the guest’s own link',
  'POST /api/invitations/{token}/proposals': 'needs the guest’s own link',
  'POST /api/invitations/{token}/renew': 'nothing',
}
