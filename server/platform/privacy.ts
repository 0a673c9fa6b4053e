import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/events': 'listened to below',
  'GET /api/health': 'nothing',
  'GET /api/openapi.json': 'nothing of anybody',
}
