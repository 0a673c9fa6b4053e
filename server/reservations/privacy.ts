import { type Privacy, RESERVED } from '../testing/privacy.ts'

/** Rules that would allow nothing. */
const RULES = {
  trainedOnly: false,
  teams: [],
  asksApproval: false,
  approvalHours: 1,
  hours: [],
  before: 0,
  after: 0,
  shortest: null,
  longest: 1,
  aheadDays: null,
  notice: null,
  atOnce: null,
}

export const privacy: Privacy = {
  'GET /api/reservations': (about) => [{ path: `/api/reservations?${about.range}` }],
  'GET /api/reservations/fill': () => [
    { path: '/api/reservations/fill?first=2026-12-01&days=30&zone=Europe/Vienna' },
  ],
  'GET /api/reservations/list': (about) =>
    ['mine', 'cared'].flatMap((whose) =>
      ['', `&find=${about.headline}`].map((find) => ({
        path: `/api/reservations/list?whose=${whose}&${about.range}${find}`,
      })),
    ),
  'GET /api/reservations/list.csv': (about) => [
    { path: `/api/reservations/list.csv?whose=cared&${about.range}` },
  ],
  'POST /api/reservations/look': (about) =>
    [{}, { of: about.ownerId }].map((more) => ({
      path: '/api/reservations/look',
      body: {
        starts: RESERVED.starts,
        minutes: RESERVED.minutes,
        zone: RESERVED.zone,
        places: [about.placeId],
        ...more,
      },
    })),
  'GET /api/resources/{resourceId}/rules': (about) => [{ path: `/api/resources/${about.placeId}/rules` }],
  'POST /api/resources/{resourceId}/rules/look': (about) => [
    { path: `/api/resources/${about.placeId}/rules/look`, body: RULES },
  ],
  'PUT /api/resources/{resourceId}/rules': (about) => [
    { path: `/api/resources/${about.placeId}/rules`, body: { ...RULES, version: 999 } },
  ],
}
