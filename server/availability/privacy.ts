import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/availability/preview': (about) => [
    {
      path: `/api/availability/preview?to=person&id=${about.ownerId}&from=2026-12-01T00:00:00Z&until=2026-12-31T00:00:00Z`,
    },
  ],
  'POST /api/availability': (about) => [
    { path: '/api/availability', body: { people: [about.ownerId, about.viewerId], ...about.span } },
  ],
  'GET /api/layers': () => [{ path: '/api/layers' }],
  'PUT /api/layers/{setId}': 'my own sets',
  'DELETE /api/layers/{setId}': 'nothing',
}
