import type { PersonTime } from '@marmot/contract/availability'
import type { Notice } from '@marmot/contract/notices'
import type { Sharing } from '@marmot/contract/sharing'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let tashi: Client
let matteo: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  tashi = await marmot.as('Tashi Lhendup')
  matteo = await marmot.as('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

const share = (more: Record<string, unknown> = {}) =>
  tashi.send<{ grantId: string; told: number; before: unknown }>('PUT', '/api/sharing', {
    to: 'person',
    id: matteo.person.id,
    sees: 'headlines',
    does: 'look',
    seesPrivate: false,
    ...more,
  })
const seen = async () =>
  (
    await matteo.timeOf<{ people: PersonTime[] }>(
      [tashi.person.id],
      'from=2026-11-23T00:00:00Z&to=2026-11-30T00:00:00Z',
    )
  ).body.people[0]
const notices = async () =>
  (await matteo.get<{ notices: Notice[] }>('/api/now')).body.notices.filter((one) => one.kind === 'shared')

describe('sharing', () => {
  it('gives more at once, says so once, and goes back to what was', async () => {
    expect((await seen())?.sees).toBe('busy')
    const first = await share()
    expect(first.body).toMatchObject({ told: 1, before: null })
    expect((await seen())?.sees).toBe('headlines')
    expect((await seen())?.spans.some((span) => span.title)).toBe(true)
    expect(await notices()).toMatchObject([{ who: 'Tashi Lhendup', message: 'headlines' }])
    // The same again, and less, tell nobody anything.
    expect((await share()).body).toMatchObject({ told: 0, before: { sees: 'headlines' } })
    expect((await share({ sees: 'busy' })).body.told).toBe(0)
    expect(await notices()).toHaveLength(1)
    await tashi.send('DELETE', `/api/sharing/${first.body.grantId}`)
    expect((await seen())?.sees).toBe('busy')
  })

  it('ends with its day', async () => {
    await share({ sees: 'everything', until: '2026-11-23T09:00:00Z' })
    expect((await seen())?.sees).toBe('everything')
    await marmot.pool.query("update sharing set until = '2026-11-23T08:00:00Z' where owner_id = $1", [
      tashi.person.id,
    ])
    expect((await seen())?.sees).toBe('busy')
    expect(problemOf(await share({ until: '2026-11-01T00:00:00Z' })).detail).toMatch(/over/)
  })

  it('refuses what makes no sense, in words', async () => {
    const refused = async (more: Record<string, unknown>) => problemOf(await share(more)).detail
    expect(await refused({ id: tashi.person.id })).toMatch(/yours already/)
    expect(await refused({ does: 'change' })).toMatch(/see everything/)
    expect(await refused({ to: 'organisation', id: null, sees: 'everything', does: 'stand-in' })).toMatch(
      /one person/,
    )
    expect(await refused({ sees: 'everything', seesPrivate: true })).toMatch(/stand-in/)
    expect((await share({ id: '00000000-0000-4000-8000-000000000001' })).status).toBe(404)
    expect((await matteo.send('DELETE', `/api/sharing/${(await share()).body.grantId}`)).status).toBe(404)
  })

  it('shows the owner what a person, a team and everybody get', async () => {
    await share({ sees: 'nothing' })
    const preview = async (query: string) =>
      (
        await tashi.get<PersonTime>(
          `/api/availability/preview?${query}&from=2026-11-23T00:00:00Z&until=2026-11-30T00:00:00Z`,
        )
      ).body
    expect(await preview(`to=person&id=${matteo.person.id}`)).toMatchObject({ sees: 'nothing', spans: [] })
    const all = await preview('to=organisation')
    expect(all.sees).toBe('busy')
    expect(all.spans.length).toBeGreaterThan(3)
    expect(all.spans.every((span) => !span.title)).toBe(true)
  })

  it('lists who gives whom what on both sides', async () => {
    await share({ sees: 'everything', does: 'change' })
    const mine = (await tashi.get<Sharing>('/api/sharing')).body.mine
    expect(mine.find((grant) => grant.id === matteo.person.id)).toMatchObject({
      name: 'Matteo Ruprechter',
      does: 'change',
    })
    const toMe = (await matteo.get<Sharing>('/api/sharing')).body.toMe
    expect(toMe.find((one) => one.ownerId === tashi.person.id)).toMatchObject({
      owner: 'Tashi Lhendup',
      does: 'change',
    })
  })
})

describe('a stand-in', () => {
  it('answers and sends in the other’s name, and everybody concerned is told so', async () => {
    const [ilse, henrike] = [await marmot.as('Ilse Brandacher'), await marmot.as('Henrike Aasland')]
    const sent = await ilse.send<{ entryId: string }>('POST', '/api/meetings', {
      title: 'Director’s round',
      starts: '2026-12-10T14:00',
      minutes: 60,
      zone: 'Europe/Vienna',
      people: [{ id: matteo.person.id, required: true }],
      guests: [],
      places: [],
      of: henrike.person.id,
    })
    expect(sent.status).toBe(200)
    const meeting = await matteo.get<{ organizer: string }>(`/api/meetings/${sent.body.entryId}`)
    expect(meeting.body.organizer).toBe('Henrike Aasland')
    const now = await matteo.get<{ notices: Notice[] }>('/api/now')
    expect(now.body.notices[0]).toMatchObject({ kind: 'invited', who: 'Ilse Brandacher for Henrike Aasland' })
    const log = await henrike.get<{ changes: unknown[] }>('/api/changes')
    expect(log.body.changes[0]).toMatchObject({
      actor: 'Ilse Brandacher',
      kind: 'sent',
      title: 'Director’s round',
    })

    const invited = await matteo.send<{ entryId: string }>('POST', '/api/meetings', {
      title: 'Saw order',
      starts: '2026-12-11T09:00',
      minutes: 30,
      zone: 'Europe/Vienna',
      people: [{ id: henrike.person.id, required: true }],
      guests: [],
      places: [],
    })
    const path = `/api/meetings/${invited.body.entryId}/answer`
    expect((await ilse.send('POST', path, { answer: 'accepted', of: henrike.person.id })).status).toBe(200)
    const answered = await matteo.get<{ notices: Notice[] }>('/api/now')
    expect(answered.body.notices[0]).toMatchObject({
      kind: 'answered',
      who: 'Ilse Brandacher for Henrike Aasland',
      answer: 'accepted',
    })
    // Who only helps does not answer in anybody's name.
    await henrike.send('PUT', '/api/sharing', {
      to: 'person',
      id: ilse.person.id,
      sees: 'everything',
      does: 'change',
      seesPrivate: false,
    })
    expect(problemOf(await ilse.send('POST', path, { answer: 'declined', of: henrike.person.id })).code).toBe(
      'no-stand-in',
    )
  })
})

describe('preferences', () => {
  it('are kept, a journey begins on its day, and nonsense is refused', async () => {
    const before = (await tashi.get<Record<string, unknown>>('/api/preferences')).body
    const put = (more: Record<string, unknown>) =>
      tashi.send('PUT', '/api/preferences', { ...before, ...more })
    const kept = await put({
      firstWeekday: 7,
      halfDayClock: true,
      secondZone: 'Europe/Vienna',
      locale: 'ne-NP',
      zoneChanges: [
        { fromDay: '2026-11-22', zone: 'Asia/Tokyo' },
        { fromDay: '2026-12-24', zone: 'Europe/Vienna' },
      ],
      hours: [
        { weekday: 1, from: 480, to: 720 },
        { weekday: 1, from: 780, to: 1020 },
      ],
    })
    expect(kept.body).toMatchObject({
      zone: 'Asia/Tokyo',
      zoneChanges: [{ fromDay: '2026-12-24', zone: 'Europe/Vienna' }],
      hours: [
        { weekday: 1, from: 480, to: 720 },
        { weekday: 1, from: 780, to: 1020 },
      ],
    })
    expect((await tashi.get<{ display: unknown }>('/api/session')).body.display).toMatchObject({
      firstWeekday: 7,
    })
    for (const [more, path] of [
      [{ zone: 'Asia/Atlantis' }, 'zone'],
      [{ shownFrom: 1000, shownTo: 900 }, 'shownTo'],
      [
        {
          hours: [
            { weekday: 1, from: 480, to: 720 },
            { weekday: 1, from: 700, to: 1020 },
          ],
        },
        'hours',
      ],
      [{ locale: 'xx' }, 'locale'],
    ] as const)
      expect(problemOf(await put(more)).fields?.map((field) => field.path)).toContain(path)
  })
})
