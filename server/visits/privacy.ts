import type { Privacy } from '../testing/privacy.ts'

const OUTSIDE = 'for anyone: tells times that are offered, and no entry; looked at in visits.test.ts'
const BY_LINK = 'needs the guest’s own link'

export const privacy: Privacy = {
  'GET /api/v/{page}': OUTSIDE,
  'GET /api/v/{page}/{kind}': OUTSIDE,
  'POST /api/v/{page}/{kind}/visits': OUTSIDE,
  'GET /api/v/{page}/events': OUTSIDE,
  'POST /api/visit-proofs/{token}': BY_LINK,
  'GET /api/visits/{token}': BY_LINK,
  'POST /api/visits/{token}/move': BY_LINK,
  'POST /api/visits/{token}/cancel': BY_LINK,
  'GET /api/visit-pages': () => [{ path: '/api/visit-pages' }],
  'PUT /api/visit-pages/{pageId}': (about) => [
    { path: `/api/visit-pages/${about.nobody}`, body: { slug: 'Not An Address', name: '' } },
  ],
  'DELETE /api/visit-pages/{pageId}': (about) => [{ path: `/api/visit-pages/${about.nobody}` }],
  'PUT /api/visit-pages/{pageId}/kinds/{kindId}': (about) => [
    {
      path: `/api/visit-pages/${about.nobody}/kinds/${about.nobody}`,
      body: { slug: 'look', title: 'Look', lengths: [30], hosts: [about.ownerId] },
    },
  ],
  'DELETE /api/visit-pages/{pageId}/kinds/{kindId}': (about) => [
    { path: `/api/visit-pages/${about.nobody}/kinds/${about.nobody}` },
  ],
  'POST /api/visit-kinds/{kindId}/agree': (about) => [
    { path: `/api/visit-kinds/${about.nobody}/agree`, body: { agree: true } },
  ],
  'POST /api/visit-pages/{pageId}/kinds/{kindId}/links': (about) => [
    {
      path: `/api/visit-pages/${about.nobody}/kinds/${about.nobody}/links`,
      body: { secret: 'x'.repeat(43) },
    },
  ],
  'GET /api/visits': () => [{ path: '/api/visits' }],
}
