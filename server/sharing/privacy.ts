import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/sharing': () => [{ path: '/api/sharing' }],
  'PUT /api/sharing': 'my own grants',
  'DELETE /api/sharing/{grantId}': 'nothing',
}
