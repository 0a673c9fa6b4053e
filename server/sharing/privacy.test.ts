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

describe('titles that may not be seen', () => {
  it('are there for those who were given headlines, except private ones', async () => {
    await client('Ilse Brandacher').send('POST', '/api/entries', {
      title: 'Open headline',
      starts: '2026-12-04T09:00',
      minutes: 60,
      zone: 'Europe/Vienna',
    })
    const text = (await client('Matteo Ruprechter').timeOf([client('Ilse Brandacher').person.id], RANGE)).text
    expect(text).toContain('Open headline')
    expect(text).not.toContain(SECRET)
  })

  it('of somebody who shares nothing come with no times and no hours either', async () => {
    const answer = await client('Matteo Ruprechter').timeOf<{ people: unknown[] }>(
      [client('Severin Plattner').person.id],
      RANGE,
    )
    expect(answer.body.people).toEqual([
      {
        personId: client('Severin Plattner').person.id,
        zone: 'Europe/Vienna',
        sees: 'nothing',
        does: 'look',
        hours: [],
        spans: [],
        unknown: [],
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
