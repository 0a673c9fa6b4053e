import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/resources': () => [{ path: '/api/resources' }],
}
