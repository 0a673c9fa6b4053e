import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/feeds': () => [{ path: '/api/feeds' }],
  'GET /api/feeds/spans': (about) => [{ path: `/api/feeds/spans?feeds=${about.nobody}&${about.range}` }],
  'GET /api/export': (about) => [
    { path: '/api/export' },
    { path: `/api/export?of=${about.ownerId}` },
    { path: `/api/export?of=${about.ownerId}&${about.range}` },
  ],
  'POST /api/imports': () => [
    { path: '/api/imports', bytes: Buffer.from('BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR\r\n') },
  ],
  'POST /api/feeds/published': 'an address',
  'PUT /api/feeds/published/{feedId}': 'nothing: what my own address shows',
  'DELETE /api/feeds/published/{feedId}': 'nothing',
  'PUT /api/feeds/read/{feedId}': 'my own feed',
  'DELETE /api/feeds/read/{feedId}': 'nothing',
  'POST /api/feeds/read/{feedId}/fetch': 'my own feed',
  'GET /api/published/{token}': 'asked below at each level',
  'POST /api/imports/{importId}/take': 'numbers',
}
