import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/reservations': (about) => [{ path: `/api/reservations?${about.range}` }],
}
