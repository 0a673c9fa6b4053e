import { DAY } from '@marmot/core/time'
import type { Privacy } from '../testing/privacy.ts'

const SETTINGS = {
  needed: null,
  results: 'all',
  names: true,
  oneMark: false,
  proposals: true,
  notices: 'none',
  holds: false,
  door: null,
}
const BY_LINK = 'needs a link of its own'

export const privacy: Privacy = {
  'POST /api/polls': (about) =>
    [{}, { of: about.ownerId }].map((more) => ({
      path: '/api/polls',
      // With a time that is there twice nobody is asked.
      body: {
        ...SETTINGS,
        title: 'Poll',
        minutes: 30,
        zone: 'Europe/Vienna',
        people: [{ id: about.ownerId, required: true }],
        guests: [],
        closes: new Date(Date.parse(about.span.from) - DAY).toISOString(),
        times: [0, 0].map(() => ({ start: about.span.from, places: [about.placeId] })),
        ...more,
      },
    })),
  'GET /api/polls/{pollId}': (about) => [{ path: `/api/polls/${about.pollId}` }],
  'PUT /api/polls/{pollId}': (about) => [{ path: `/api/polls/${about.pollId}`, body: { version: 999 } }],
  'PUT /api/polls/{pollId}/marks': (about) => [
    { path: `/api/polls/${about.pollId}/marks`, body: { marks: [] } },
  ],
  'POST /api/polls/{pollId}/times': (about) => [
    { path: `/api/polls/${about.pollId}/times`, body: { start: about.span.from } },
  ],
  'POST /api/polls/{pollId}/nudge': (about) => [
    { path: `/api/polls/${about.pollId}/nudge`, body: { voterId: about.nobody } },
  ],
  'POST /api/polls/{pollId}/decide': (about) => [
    {
      path: `/api/polls/${about.pollId}/decide`,
      body: { timeId: about.nobody, voters: [], places: [about.placeId] },
    },
  ],
  'POST /api/polls/{pollId}/withdraw': (about) => [{ path: `/api/polls/${about.nobody}/withdraw`, body: {} }],
  'POST /api/polls/{pollId}/reopen': (about) => [{ path: `/api/polls/${about.pollId}/reopen`, body: {} }],
  'POST /api/polls/{pollId}/link': (about) => [
    { path: `/api/polls/${about.pollId}/link`, body: { voterId: about.nobody } },
  ],
  'GET /api/poll-links/{token}': BY_LINK,
  'PUT /api/poll-links/{token}/marks': BY_LINK,
  'POST /api/poll-links/{token}/voters': BY_LINK,
  'POST /api/poll-links/{token}/times': BY_LINK,
  'GET /api/poll-links/{token}/events': BY_LINK,
}
