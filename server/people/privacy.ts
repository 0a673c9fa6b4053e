import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/session': () => [{ path: '/api/session' }],
  'GET /api/people': (about) => [
    { path: `/api/people?q=${about.headline}` },
    { path: '/api/people?q=tashi' },
    { path: '/api/people?q=quoll' },
  ],
  'GET /api/directory': () => [{ path: '/api/directory' }],
  'GET /api/contact': () => [{ path: '/api/contact' }],
  'GET /api/preferences': () => [{ path: '/api/preferences' }],
  'POST /api/people': (about) => [{ path: '/api/people', body: { ids: [about.ownerId, about.viewerId] } }],
  'POST /api/session': 'who signs in',
  'DELETE /api/session': 'nothing',
  'DELETE /api/session/others': 'a number',
  'GET /api/sign-in-choices': 'names of the demo',
  'PUT /api/preferences': 'my own preferences',
}
