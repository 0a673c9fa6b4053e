import { routes } from '@marmot/contract/openapi'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
const clients = new Map<string, Client>()
beforeAll(async () => {
  marmot = await startTestMarmot()
  for (const name of [
    'Severin Plattner',
    'Tashi Lhendup',
    'Ilse Brandacher',
    'Matteo Ruprechter',
    'Henrike Aasland',
  ])
    clients.set(name, await marmot.as(name))
})
afterAll(() => marmot.stop())

const client = (name: string): Client => {
  const found = clients.get(name)
  if (!found) throw new Error(`${name} is not signed in`)
  return found
}

const SECRET = 'Xylographic'
const RANGE = 'from=2026-12-01T00:00:00Z&to=2026-12-31T00:00:00Z'

/** Every read that a signed-in person has, asked about everybody and everything. */
const everyRead = async (viewer: Client): Promise<Map<string, string>> => {
  const people = await marmot.pool.query<{ id: string }>('select id from person')
  const entries = await marmot.pool.query<{ id: string }>(
    `select id from entry where title like '%${SECRET}%'`,
  )
  const reads = new Map<string, string[]>([
    ['/api/session', ['/api/session']],
    ['/api/people', [`/api/people?q=${SECRET}`, '/api/people?q=a']],
    ['/api/availability', [`/api/availability?people=${people.rows.map((row) => row.id).join()}&${RANGE}`]],
    ['/api/entries', [`/api/entries?${RANGE}`]],
    ['/api/resources', ['/api/resources']],
    ['/api/reservations', [`/api/reservations?${RANGE}`]],
    ['/api/meetings/:entryId', entries.rows.map((row) => `/api/meetings/${row.id}`)],
    ['/api/now', ['/api/now']],
    ['/api/sign-in-choices', ['/api/sign-in-choices']],
    ['/api/health', ['/api/health']],
    ['/api/openapi.json', ['/api/openapi.json']],
  ])
  const unasked = routes
    .filter((route) => route.method === 'GET' && !reads.has(route.path))
    .map((route) => route.path)
  // Live events carry ids alone (their schema has no words); a guest's page needs the guest's own link.
  expect(unasked.sort()).toEqual(['/api/events', '/api/invitations/:token'])
  const texts = new Map<string, string>()
  for (const paths of reads.values()) for (const path of paths) texts.set(path, (await viewer.get(path)).text)
  return texts
}

describe('titles that may not be seen', () => {
  it('are in no answer to anybody else, not in lists, search, reservations or errors', async () => {
    const serac = await marmot.placeId('Serac')
    const make = (name: string, more = {}) =>
      client(name).send('POST', '/api/entries', {
        title: `${SECRET} plan of ${name}`,
        place: `${SECRET} place`,
        note: `${SECRET} note`,
        starts: '2026-12-03T09:00',
        minutes: 60,
        zone: 'Europe/Vienna',
        ...more,
      })
    await make('Severin Plattner')
    await make('Tashi Lhendup')
    await make('Ilse Brandacher', { private: true })
    const meeting = await client('Tashi Lhendup').send(
      'POST',
      '/api/meetings',
      aMeeting({
        title: `${SECRET} meeting`,
        note: `${SECRET} words`,
        starts: '2026-12-03T19:00',
        places: [serac],
      }),
    )
    expect(meeting.status).toBe(200)

    for (const viewer of ['Matteo Ruprechter', 'Henrike Aasland']) {
      for (const [path, text] of await everyRead(client(viewer)))
        expect([path, text.includes(SECRET)]).toEqual([path, false])
    }
    const taken = await client('Matteo Ruprechter').send(
      'POST',
      '/api/meetings',
      aMeeting({ title: 'Mine', starts: '2026-12-03T19:00', places: [serac] }),
    )
    expect(problemOf(taken).code).toBe('place-taken')
    expect(taken.text).not.toContain(SECRET)
    // The owners do see them, so the test looks where they would be.
    expect(
      [...(await everyRead(client('Tashi Lhendup'))).values()].filter((text) => text.includes(SECRET)).length,
    ).toBeGreaterThan(3)
  })

  it('are there for those who were given headlines, except private ones', async () => {
    await client('Ilse Brandacher').send('POST', '/api/entries', {
      title: 'Open headline',
      starts: '2026-12-04T09:00',
      minutes: 60,
      zone: 'Europe/Vienna',
    })
    const text = (
      await client('Matteo Ruprechter').get(
        `/api/availability?people=${client('Ilse Brandacher').person.id}&${RANGE}`,
      )
    ).text
    expect(text).toContain('Open headline')
    expect(text).not.toContain(SECRET)
  })

  it('of somebody who shares nothing come with no times and no hours either', async () => {
    const answer = await client('Matteo Ruprechter').get<{ people: unknown[] }>(
      `/api/availability?people=${client('Severin Plattner').person.id}&${RANGE}`,
    )
    expect(answer.body.people).toEqual([
      {
        personId: client('Severin Plattner').person.id,
        zone: 'Europe/Vienna',
        sees: 'nothing',
        hours: [],
        spans: [],
      },
    ])
  })

  it('a place held by somebody who shares nothing is held by "somebody"', async () => {
    const col = await marmot.placeId('Col')
    await client('Severin Plattner').send(
      'POST',
      '/api/meetings',
      aMeeting({ title: `${SECRET} talk`, starts: '2026-12-03T20:00', places: [col] }),
    )
    const answer = await client('Matteo Ruprechter').send(
      'POST',
      '/api/meetings',
      aMeeting({ starts: '2026-12-03T20:00', places: [col] }),
    )
    expect(problemOf(answer).detail).toMatch(/^Col is taken at 20:00: somebody has it/)
    expect(answer.text).not.toContain('Severin')
  })
})
