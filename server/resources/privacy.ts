import type { Privacy } from '../testing/privacy.ts'

const A_PLACE = 'about a place, and nobody’s time'

export const privacy: Privacy = {
  'GET /api/resources': () => [{ path: '/api/resources' }],
  'GET /api/resources/kept': () => [{ path: '/api/resources/kept' }],
  'GET /api/resources/kept.csv': () => [{ path: '/api/resources/kept.csv' }],
  'POST /api/resources': A_PLACE,
  'PUT /api/resources/{resourceId}': (about) => [
    {
      path: `/api/resources/${about.placeId}`,
      body: { name: 'Elsewhere', kind: 'room', siteId: about.nobody, version: 0 },
    },
  ],
  'PUT /api/resources/{resourceId}/retired': (about) => [
    { path: `/api/resources/${about.nobody}/retired`, body: { retired: true } },
  ],
  'POST /api/resources/{resourceId}/picture': A_PLACE,
  'GET /api/resources/{resourceId}/picture': (about) => [{ path: `/api/resources/${about.placeId}/picture` }],
  'DELETE /api/resources/{resourceId}/picture': (about) => [
    { path: `/api/resources/${about.nobody}/picture` },
  ],
  'GET /api/resources/{resourceId}/trained': (about) => [{ path: `/api/resources/${about.placeId}/trained` }],
  'PUT /api/resources/{resourceId}/trained/{personId}': (about) => [
    { path: `/api/resources/${about.nobody}/trained/${about.ownerId}`, body: { until: null } },
  ],
  'DELETE /api/resources/{resourceId}/trained/{personId}': (about) => [
    { path: `/api/resources/${about.nobody}/trained/${about.ownerId}` },
  ],
  'POST /api/resources/list/look': () => [
    { path: '/api/resources/list/look', bytes: Buffer.from('name,kind,site\nSerac,room,Innsbruck\n') },
  ],
  'POST /api/resources/list': () => [
    { path: '/api/resources/list?plan=none', bytes: Buffer.from('name,kind,site\nSerac,room,Innsbruck\n') },
  ],
}
