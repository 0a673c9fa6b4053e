import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/now': () => [{ path: '/api/now' }],
  'GET /api/now/count': 'a number',
}
