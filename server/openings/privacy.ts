import { emptyBrief } from '@marmot/contract/briefs'
import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'POST /api/openings': (about) => [
    {
      path: '/api/openings',
      body: {
        brief: {
          ...emptyBrief(20_790, about.viewerId),
          people: [about.viewerId, about.ownerId].map((id) => ({ id, required: true, group: null })),
          minutes: 600,
        },
      },
    },
  ],
  'POST /api/openings/balance': (about) => [
    { path: '/api/openings/balance', body: { people: [about.ownerId, about.viewerId] } },
  ],
  'GET /api/briefs': () => [{ path: '/api/briefs' }],
  'GET /api/holds/{holdId}': (about) => [{ path: `/api/holds/${about.entryId}` }],
  'PUT /api/holds/{holdId}': (about) => [
    {
      path: `/api/holds/${about.entryId}`,
      body: {
        title: 'Mine now',
        starts: '2026-12-03T14:00',
        minutes: 60,
        zone: 'Europe/Vienna',
        places: [],
        until: '2026-12-01T00:00:00Z',
      },
    },
  ],
  'DELETE /api/holds/{holdId}': (about) => [{ path: `/api/holds/${about.entryId}` }],
  'PUT /api/briefs/{templateId}': 'my own template',
  'DELETE /api/briefs/{templateId}': 'nothing',
}
