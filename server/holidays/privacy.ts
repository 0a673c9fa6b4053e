import type { Privacy } from '../testing/privacy.ts'

const ANYBODYS = 'a site’s days off, which everybody may know; nothing of anybody’s time'

export const privacy: Privacy = {
  'GET /api/site-days': () => [{ path: '/api/site-days' }],
  'GET /api/holiday-regions': ANYBODYS,
  'GET /api/sites/{siteId}/holidays/file': ANYBODYS,
  'POST /api/site-days': ANYBODYS,
  'PUT /api/site-days/{dayId}': ANYBODYS,
  'DELETE /api/site-days/{dayId}': ANYBODYS,
  'POST /api/site-days/{dayId}/restore': ANYBODYS,
  'PUT /api/sites/{siteId}/holidays': ANYBODYS,
  'PUT /api/site-days/worked/{day}': 'what was just sent, of one’s own',
}
