import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/weather': 'what is expected out of doors at a site, which says nothing of anybody',
}
