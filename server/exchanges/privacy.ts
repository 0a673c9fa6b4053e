import { type Privacy, RESERVED } from '../testing/privacy.ts'

const WISH = { ...RESERVED, title: 'Room', places: [], people: [], guests: [] }

export const privacy: Privacy = {
  'POST /api/exchanges/look': (about) =>
    [{}, { of: about.ownerId }].map((more) => ({
      path: '/api/exchanges/look',
      body: { ...RESERVED, placeIds: [about.placeId], ...more },
    })),
  'POST /api/exchanges': (about) => [
    // As if nobody had to move: not what was looked at, and refused.
    { path: '/api/exchanges', body: { wish: WISH, placeIds: [about.placeId], moves: [] } },
  ],
  'POST /api/exchanges/{exchangeId}/answer': (about) => [
    { path: `/api/exchanges/${about.nobody}/answer`, body: { agree: false } },
  ],
  'DELETE /api/exchanges/{exchangeId}': (about) => [{ path: `/api/exchanges/${about.nobody}` }],
}
