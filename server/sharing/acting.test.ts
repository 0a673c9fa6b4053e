import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  type Answer,
  aMeeting,
  type Client,
  startTestMarmot,
  type TestMarmot,
  until,
} from '../testing/marmot.ts'

let marmot: TestMarmot
let owner: Client
let other: Client
let matteo: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  owner = await marmot.as('Henrike Aasland')
  other = await marmot.as('Tashi Lhendup')
  matteo = await marmot.as('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

const give = (does: 'look' | 'change' | 'stand-in' | null) =>
  owner.send('PUT', '/api/sharing', {
    to: 'person',
    id: other.person.id,
    sees: does === null ? 'busy' : 'everything',
    does: does ?? 'look',
    seesPrivate: false,
  })

/** What somebody asks several people about. */
const aPoll = (title: string) => ({
  title,
  minutes: 60,
  zone: 'Europe/Vienna',
  people: [{ id: matteo.person.id, required: true }],
  guests: [],
  closes: '2026-12-01T00:00:00Z',
  times: [8, 9].map((day) => ({ start: `2026-12-0${day}T18:00:00Z`, places: [] })),
  needed: null,
  results: 'all',
  names: true,
  oneMark: false,
  proposals: true,
  notices: 'none',
  holds: false,
  door: null,
})

/** What is at stake: a meeting of the owner's, an invitation to them, and a change that somebody else made for them. */
const atStake = async () => {
  const meeting = await owner.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({ title: 'Of Henrike', people: [{ id: matteo.person.id, required: true }] }),
  )
  const invitation = await matteo.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({ title: 'To Henrike', people: [{ id: owner.person.id, required: true }] }),
  )
  const own = await owner.send<{ changeId: string }>('POST', '/api/entries', {
    title: 'Made by Henrike',
    starts: '2026-12-08T09:00',
    minutes: 30,
    zone: 'Europe/Vienna',
  })
  await marmot.pool.query('delete from poll where owner_id = $1', [owner.person.id])
  const poll = await owner.send<{ pollId: string }>('POST', '/api/polls', aPoll('Asked by Henrike'))
  return {
    pollId: poll.body.pollId,
    meetingId: meeting.body.entryId,
    invitationId: invitation.body.entryId,
    changeId: own.body.changeId,
  }
}
type Stake = Awaited<ReturnType<typeof atStake>>

/** Every act in another's name, and from which right on it is allowed; null for never. */
const ACTS: Record<
  string,
  { from: 'look' | 'change' | 'stand-in' | null; act: (stake: Stake) => Promise<Answer> }
> = {
  'GET /api/entries': {
    from: 'look',
    act: () =>
      other.get(`/api/entries?from=2026-12-01T00:00:00Z&to=2026-12-31T00:00:00Z&of=${owner.person.id}`),
  },
  'GET /api/entries/:entryId': {
    from: 'look',
    act: ({ invitationId }) => other.get(`/api/entries/${invitationId}?of=${owner.person.id}`),
  },
  'GET /api/export': { from: 'look', act: () => other.get(`/api/export?of=${owner.person.id}`) },
  'POST /api/entries': {
    from: 'change',
    act: () =>
      other.send('POST', '/api/entries', {
        title: 'By Tashi',
        starts: '2026-12-08T09:00',
        minutes: 30,
        zone: 'Europe/Vienna',
        of: owner.person.id,
      }),
  },
  'POST /api/reservations/look': {
    from: 'stand-in',
    act: () =>
      other.send('POST', '/api/reservations/look', {
        starts: '2026-12-08T09:00',
        minutes: 30,
        zone: 'Europe/Vienna',
        places: [],
        of: owner.person.id,
      }),
  },
  'POST /api/exchanges/look': {
    from: 'stand-in',
    act: async () =>
      other.send('POST', '/api/exchanges/look', {
        starts: '2026-12-08T09:00',
        minutes: 30,
        zone: 'Europe/Vienna',
        placeIds: [await marmot.placeId('Serac')],
        of: owner.person.id,
      }),
  },
  'POST /api/meetings': {
    from: 'stand-in',
    act: () => other.send('POST', '/api/meetings', aMeeting({ title: 'By Tashi', of: owner.person.id })),
  },
  'POST /api/polls': {
    from: 'stand-in',
    act: () => other.send('POST', '/api/polls', { ...aPoll('Asked by Tashi'), of: owner.person.id }),
  },
  'POST /api/meetings/:entryId/answer': {
    from: 'stand-in',
    act: ({ invitationId }) =>
      other.send('POST', `/api/meetings/${invitationId}/answer`, { answer: 'accepted', of: owner.person.id }),
  },
  'POST /api/meetings/:entryId/proposals': {
    from: 'stand-in',
    act: ({ invitationId }) =>
      other.send('POST', `/api/meetings/${invitationId}/proposals`, {
        start: '2026-12-09T09:00:00Z',
        minutes: 30,
        of: owner.person.id,
      }),
  },
  'POST /api/meetings/:entryId/delegate': {
    from: 'stand-in',
    act: ({ invitationId }) =>
      other.send('POST', `/api/meetings/${invitationId}/delegate`, {
        to: { address: 'sven.berg@lodestar.example' },
        of: owner.person.id,
      }),
  },
}

/** Acts in another's name that name them by the thing itself. */
const BY_THE_THING: typeof ACTS = {
  'cancelling their meeting': {
    from: 'stand-in',
    act: ({ meetingId }) => other.send('POST', `/api/meetings/${meetingId}/cancel`, {}),
  },
  'reading what they ask': {
    from: 'stand-in',
    act: ({ pollId }) => other.get(`/api/polls/${pollId}`),
  },
  'asking no more for them': {
    from: 'stand-in',
    act: ({ pollId }) => other.send('POST', `/api/polls/${pollId}/withdraw`, {}),
  },
  'undoing what they did': {
    from: null,
    act: ({ changeId }) => other.send('POST', `/api/changes/${changeId}/undo`),
  },
  'answering without saying for whom': {
    from: null,
    act: ({ invitationId }) =>
      other.send('POST', `/api/meetings/${invitationId}/answer`, { answer: 'declined' }),
  },
}

const RIGHTS = [null, 'look', 'change', 'stand-in'] as const

/** What a route of `openapi.json` takes, as far as it matters here. */
interface Described {
  readonly parameters: { name: string }[]
  readonly requestBody?: { content: Record<string, { schema: { properties?: Record<string, unknown> } }> }
}

const takesOf = ({ parameters, requestBody }: Described): boolean =>
  parameters.some((one) => one.name === 'of') ||
  'of' in (requestBody?.content['application/json']?.schema.properties ?? {})

describe('in another’s name', () => {
  it('is asked of every route that takes whose it is', async () => {
    const { body } = await marmot.anyone<{ paths: Record<string, Record<string, Described>> }>(
      'GET',
      '/api/openapi.json',
    )
    const taking = Object.entries(body.paths).flatMap(([path, methods]) =>
      Object.entries(methods).flatMap(([method, route]) =>
        takesOf(route) ? `${method.toUpperCase()} ${path.replace(/\{(\w+)\}/g, ':$1')}` : [],
      ),
    )
    expect(taking.sort()).toEqual(Object.keys(ACTS).sort())
  })

  it.each(RIGHTS)('nothing is done beyond the right %s', async (right) => {
    await give(right)
    for (const [name, { from, act }] of Object.entries({ ...ACTS, ...BY_THE_THING })) {
      const stake = await atStake()
      const { status } = await act(stake)
      const allowed = from !== null && RIGHTS.indexOf(right) >= RIGHTS.indexOf(from)
      expect([name, status < 300]).toEqual([name, allowed])
      if (!allowed) expect([name, [403, 404].includes(status)]).toEqual([name, true])
    }
  })

  it('a cancellation is in the log and told to whose meeting it was', async () => {
    await give('stand-in')
    const { meetingId } = await atStake()
    await other.send('POST', `/api/meetings/${meetingId}/cancel`, {})
    const log = await owner.get<{ changes: { kind: string; actor: string; title: string }[] }>('/api/changes')
    expect(log.body.changes[0]).toMatchObject({
      kind: 'cancelled',
      actor: 'Tashi Lhendup',
      title: 'Of Henrike',
    })
    const now = await owner.get<{ notices: { kind: string; who: string; message: string }[] }>('/api/now')
    expect(now.body.notices).toContainEqual(
      expect.objectContaining({ kind: 'acted', who: 'Tashi Lhendup', message: 'cancelled' }),
    )
    const letter = await until(
      () =>
        marmot.mail.mailboxes.of(matteo.person.address).find((one) => one.subject.startsWith('Cancelled')),
      (one) => one !== undefined,
    )
    expect(letter?.text).toContain('Tashi Lhendup for Henrike Aasland')
  })

  it('a private meeting is not there to be cancelled for a stand-in who may not see what is private', async () => {
    await give('stand-in')
    const { meetingId } = await atStake()
    await marmot.pool.query('update entry set private = true where id = $1', [meetingId])
    expect((await other.send('POST', `/api/meetings/${meetingId}/cancel`, {})).status).toBe(404)
    expect((await owner.get<{ cancelled: boolean }>(`/api/meetings/${meetingId}`)).body.cancelled).toBe(false)
  })

  it('a refusal names nobody whom the stand-in may not know', async () => {
    await give('stand-in')
    const serac = await marmot.placeId('Serac')
    const at = { starts: '2026-12-15T18:00', places: [serac] }
    await matteo.send('POST', '/api/meetings', aMeeting({ title: 'Matteo has it', ...at }))
    const share = (sees: string) =>
      matteo.send('PUT', '/api/sharing', {
        to: 'person',
        id: other.person.id,
        sees,
        does: 'look',
        seesPrivate: false,
      })
    await share('nothing')
    const refused = await other.send('POST', '/api/meetings', aMeeting({ ...at, of: owner.person.id }))
    expect(refused.status).toBe(409)
    expect(refused.text).not.toContain('Matteo')
    expect(refused.text).toContain('somebody has it')
  })
})
