import type { PersonTime } from '@marmot/contract/availability'
import type { Meeting } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import type { Resource } from '@marmot/contract/resources'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
})
afterAll(() => marmot.stop())

const DAY = 'from=2026-11-25T00:00:00Z&to=2026-11-26T00:00:00Z'
const timeOf = async (viewer: Client, names: string[], range = DAY) => {
  const ids = await Promise.all(names.map((name) => marmot.personId(name)))
  return (await viewer.timeOf<{ people: PersonTime[] }>(ids, range)).body.people
}

describe('other people’s time', () => {
  it('comes with the level it is seen at, from everything to nothing', async () => {
    const names = ['Henrike Aasland', 'Wanjiru Kamande', 'Tashi Lhendup', 'Severin Plattner']
    const people = await timeOf(ilse, names)
    const levels = await Promise.all(
      names.map(
        async (name) => people.find((one) => one.personId === name) ?? (await timeOf(ilse, [name]))[0],
      ),
    )
    // Henrike has made Ilse her stand-in; Wanjiru shares headlines with all; Tashi has said nothing; Severin shares nothing.
    expect(levels.map((one) => one?.sees)).toEqual(['everything', 'headlines', 'busy', 'nothing'])
    expect(levels[2]?.spans.every((span) => span.title === undefined)).toBe(true)
  })

  it('of a team is open to that team alone', async () => {
    const annika = await marmot.as('Annika Sjölund')
    expect((await timeOf(annika, ['Matteo Ruprechter']))[0]?.sees).toBe('everything')
    expect((await timeOf(ilse, ['Matteo Ruprechter']))[0]?.sees).toBe('busy')
  })

  it('brings working hours, a night shift past midnight among them', async () => {
    const [observer] = await timeOf(ilse, ['Mirela Popescu'])
    expect(observer?.hours).toContainEqual({ weekday: 1, from: 1200, to: 1680 })
  })

  it('tells who is away as away, for as long as it lasts', async () => {
    const [bertrand] = await timeOf(
      ilse,
      ['Bertrand Quemener'],
      'from=2026-12-01T00:00:00Z&to=2026-12-02T00:00:00Z',
    )
    expect(bertrand?.spans.some((span) => span.state === 'away')).toBe(true)
  })

  it.each([
    ['empty-range', 'from=2026-11-26T00:00:00Z&to=2026-11-26T00:00:00Z'],
    ['range-too-long', 'from=2026-01-01T00:00:00Z&to=2029-01-01T00:00:00Z'],
    ['invalid', 'from=yesterday&to=2026-11-26T00:00:00Z'],
  ])('is not given for a range that is %s', async (code, range) => {
    const answer = await ilse.timeOf([ilse.person.id], range)
    expect(problemOf(answer)).toMatchObject({ status: 422, code })
  })
})

describe('places', () => {
  it('come with what decides whether one may take them', async () => {
    const read = async (client: Client) =>
      (await client.get<{ resources: Resource[] }>('/api/resources')).body.resources
    const lab = async (client: Client) => (await read(client)).find((place) => place.name === 'Cold lab −20')
    expect(await lab(ilse)).toMatchObject({
      mayNot: 'not-trained',
      rules: { before: 0, after: 30 },
      site: 'Innsbruck',
    })
    expect(await lab(await marmot.as('Matteo Ruprechter'))).toMatchObject({ mayNot: null })
    const all = await read(ilse)
    expect(all.find((place) => place.name === 'Icefall')?.closed).toMatchObject([
      { reason: 'in repair: the ceiling leaks' },
      { reason: 'Floors are waxed', closureId: null },
    ])
    expect(all.find((place) => place.name === 'Thin-section lab')).toMatchObject({
      rules: { asksApproval: true },
      steward: 'Matteo Ruprechter',
    })
  })
})

describe('what needs me now', () => {
  const now = async (client: Client) =>
    (
      await client.get<{
        toAnswer: Meeting[]
        organized: Meeting[]
        next: { title: string }[]
        notices: Notice[]
      }>('/api/now')
    ).body

  it('is, for Ilse, three invitations soonest first, and her meetings with their answers', async () => {
    const { toAnswer, organized, next } = await now(ilse)
    expect(toAnswer.map((meeting) => meeting.title)).toEqual([
      'Gauge data hand-over',
      'Drone loan for the spring traverse',
      'Budget for the winter season',
    ])
    expect(organized.map((meeting) => meeting.title)).toEqual([
      'Site offices',
      'Station call',
      'Winter field safety',
      'One to one, Henrike',
      'Visit of Lodestar Instruments',
    ])
    expect(next.length).toBeGreaterThan(0)
  })

  it('loses an invitation that was answered or called off, and says so to those concerned', async () => {
    const matteo = await marmot.as('Matteo Ruprechter')
    const make = (title: string) =>
      ilse.send<{ entryId: string }>(
        'POST',
        '/api/meetings',
        aMeeting({ title, people: [{ id: matteo.person.id, required: true }] }),
      )
    const [answered, cancelled] = [await make('To be answered'), await make('To be called off')]
    expect((await now(matteo)).toAnswer.map((meeting) => meeting.title)).toEqual(
      expect.arrayContaining(['To be answered', 'To be called off']),
    )
    await matteo.send('POST', `/api/meetings/${answered.body.entryId}/answer`, { answer: 'accepted' })
    await ilse.send('POST', `/api/meetings/${cancelled.body.entryId}/cancel`)
    const after = await now(matteo)
    expect(after.toAnswer.filter((meeting) => meeting.title.startsWith('To be'))).toEqual([])
    expect(after.notices[0]).toMatchObject({
      kind: 'cancelled',
      title: 'To be called off',
      who: 'Ilse Brandacher',
    })
    expect((await now(ilse)).organized.map((meeting) => meeting.title)).not.toContain('To be called off')
  })
})

describe('the directory', () => {
  it('lists everybody by name with their teams and sites, and nothing else of them', async () => {
    const { body } = await ilse.get<{ people: Record<string, unknown>[]; more: boolean }>('/api/directory')
    expect(body.more).toBe(false)
    expect(body.people.length).toBeGreaterThan(50)
    const tashi = body.people.find((one) => one.name === 'Tashi Lhendup')
    expect(Object.keys(tashi ?? {}).sort()).toEqual(['id', 'name', 'role', 'siteId', 'teams', 'zone'])
    const names = body.people.map((one) => String(one.name))
    expect(new Set(names).size).toBe(names.length)
  })
})

describe('five hundred people', () => {
  it('can be asked for at once, and no more', async () => {
    const known = await marmot.pool.query<{ id: string }>('select id from person limit 40')
    const nobody = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`
    const ids = [
      ...known.rows.map((row) => row.id),
      ...Array.from({ length: 500 - known.rows.length }, (_, n) => nobody(n)),
    ]
    const seen = await ilse.timeOf<{ people: PersonTime[] }>(ids, DAY)
    expect(seen.body.people).toHaveLength(40)
    const named = await ilse.send<{ people: unknown[] }>('POST', '/api/people', { ids })
    expect(named.body.people).toHaveLength(40)
    expect((await ilse.send('POST', '/api/openings/balance', { people: ids })).status).toBe(200)
    expect(problemOf(await ilse.timeOf([...ids, nobody(999)], DAY))).toMatchObject({ status: 422 })
  })
})
