import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { siteForecast } from '@marmot/contract/weather'
import { DAY, HOUR } from '@marmot/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startWeatherStandIn } from '../../standins/weather/server.ts'
import { addJob } from '../platform/jobs.ts'
import {
  type Client,
  problemOf,
  startTestMarmot,
  TEST_START,
  type TestMarmot,
  until,
} from '../testing/marmot.ts'

/** A service that answers what a test says. */
const aService = async () => {
  const state = { status: 200, body: '' as string, asked: 0 }
  const server = createServer((_, response) => {
    state.asked++
    response.writeHead(state.status, { 'content-type': 'application/json' }).end(state.body)
  })
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done))
  return {
    state,
    url: `http://localhost:${(server.address() as AddressInfo).port}`,
    says: (issued: number, hours: readonly Record<string, unknown>[]) => {
      state.body = JSON.stringify({ issued: new Date(issued).toISOString(), hours })
    },
    stop: () => new Promise((done) => server.close(done)),
  }
}

const hour = (i: number, more: Record<string, unknown> = {}) => ({
  time: new Date(Math.floor(TEST_START / HOUR) * HOUR + i * HOUR).toISOString(),
  temperature: 3,
  precipitation: 0,
  probability: 5,
  wind: 10,
  ...more,
})

let service: Awaited<ReturnType<typeof aService>>
let marmot: TestMarmot
let ilse: Client
let site: string
beforeAll(async () => {
  service = await aService()
  marmot = await startTestMarmot({ weather: service.url })
  ilse = await marmot.as('Ilse Brandacher')
  site = ilse.person.siteId
})
afterAll(async () => {
  await marmot.stop()
  await service.stop()
})

const known = async (sites = site) => {
  const { body } = await ilse.get<{ forecasts: unknown[] }>(`/api/weather?sites=${sites}`)
  return body.forecasts.map((one) => siteForecast.parse(one))
}
/** Has the service asked once more, as happens each half hour. */
const ask = async () => {
  const before = service.state.asked
  await marmot.pool.query("update forecast set asked_at = asked_at - interval '1 hour'")
  await addJob(marmot.pool, 'minutely', {}, 'minutely now')
  await until(
    () => service.state.asked,
    (asked) => asked >= before + 6,
  )
  // A round is over once its job is gone.
  await until(
    async () =>
      (await marmot.pool.query("select 1 from graphile_worker.jobs where key = 'minutely now'")).rowCount,
    (waiting) => waiting === 0,
  )
}

describe('what is expected out of doors', () => {
  it('is asked of the service for each site, kept, and told to whoever is signed in', async () => {
    expect(await known()).toEqual([])
    service.says(TEST_START - HOUR, [hour(0), hour(1, { wind: 60 }), hour(2, { temperature: 999 }), hour(3)])
    await ask()
    await until(
      async () => (await known()).length,
      (many) => many === 1,
    )
    expect(await known()).toMatchObject([
      { siteId: site, wind: [10, 60, null, 10], issued: new Date(TEST_START - HOUR).toISOString() },
    ])
    const stranger = await fetch(`${marmot.url}/api/weather?sites=${site}`)
    expect(stranger.status).toBe(401)
  })

  it('stays as it was while the service is away, says what nobody can mean, or repeats something older', async () => {
    const before = await known()
    for (const [status, body] of [
      [500, ''],
      [200, 'not JSON'],
      [200, JSON.stringify({ issued: 'yesterday', hours: [] })],
      [200, JSON.stringify({ issued: new Date(TEST_START).toISOString(), hours: [{ time: 'noon' }] })],
      [200, `{"issued":"${new Date(TEST_START).toISOString()}","hours":[${' '.repeat(600_000)}]}`],
    ] as const) {
      service.state.status = status
      service.state.body = body
      await ask()
      expect(await known()).toEqual(before)
    }
    service.state.status = 200
    for (const issued of [TEST_START - 5 * HOUR, TEST_START - 3 * DAY, TEST_START + DAY]) {
      service.says(issued, [hour(0, { wind: 99 })])
      await ask()
      expect(await known()).toEqual(before)
    }
  })

  it('is nothing of a site that is nowhere, and the sites asked for are sites', async () => {
    expect(await known('00000000-0000-0000-0000-000000000000')).toEqual([])
    expect((await ilse.get('/api/weather?sites=Innsbruck')).status).toBe(422)
    expect((await ilse.get('/api/weather')).status).toBe(422)
  })
})

describe('the simulated service', () => {
  it('says the same of the same hour, dry on a day of three, for a week', async () => {
    const standIn = await startWeatherStandIn({ port: 0, now: () => TEST_START })
    const get = async (query: string) => fetch(`http://localhost:${standIn.port}/forecast?${query}`)
    const read = async () =>
      (await (await get('latitude=47.27&longitude=11.39')).json()) as {
        hours: { time: string; precipitation: number }[]
      }
    const [one, again] = [await read(), await read()]
    expect(one).toEqual(again)
    expect(one.hours).toHaveLength(7 * 24)
    const wet = new Set(
      one.hours.filter((each) => each.precipitation > 0).map((each) => each.time.slice(0, 10)),
    )
    expect(wet.size).toBeGreaterThan(2)
    expect((await get('latitude=147&longitude=11')).status).toBe(404)
    expect((await get('')).status).toBe(404)
    await standIn.stop()
  })
})

describe('something out of doors', () => {
  const starts = '2026-12-03T14:00'
  const entry = (more: Record<string, unknown>) => ({
    title: 'Avalanche transceivers',
    starts,
    minutes: 60,
    zone: 'Europe/Vienna',
    ...more,
  })
  const read = async (entryId: string, who = ilse) =>
    (
      await who.get<{ outdoors: string | null; outdoorsSaid: string | null; version: number }>(
        `/api/entries/${entryId}`,
      )
    ).body

  it('is an entry of which that is said, until it is said otherwise, and undo brings it back', async () => {
    const made = await ilse.send<{ entryId: string }>('POST', '/api/entries', entry({ outdoors: site }))
    const { entryId } = made.body
    expect(await read(entryId)).toMatchObject({ outdoors: site, outdoorsSaid: site })
    const put = async (more: Record<string, unknown>) => {
      const { version } = await read(entryId)
      return ilse.send<{ changeId: string }>(
        'PUT',
        `/api/entries/${entryId}`,
        entry({ ...more, recurrence: starts, version }),
      )
    }
    // Whoever moves it and says nothing of it leaves it so.
    await put({ title: 'Transceivers' })
    expect(await read(entryId)).toMatchObject({ outdoors: site })
    // What is expected there comes with the days on which it stands, and only there.
    const beside = async (day: string) => {
      const range = `from=${day}T00:00:00Z&to=${day}T23:59:00Z`
      return (await ilse.get<{ forecasts: { siteId: string }[] }>(`/api/entries?${range}`)).body.forecasts
    }
    expect((await beside(starts.slice(0, 10))).map((one) => one.siteId)).toEqual([site])
    expect(await beside('2027-03-03')).toEqual([])
    const inside = await put({ outdoors: null })
    expect(await beside(starts.slice(0, 10))).toEqual([])
    expect(await read(entryId)).toMatchObject({ outdoors: null })
    await ilse.send('POST', `/api/changes/${inside.body.changeId}/undo`, {})
    expect(await read(entryId)).toMatchObject({ outdoors: site })
    const lost = await ilse.send(
      'POST',
      '/api/entries',
      entry({ outdoors: '00000000-0000-0000-0000-000000000000' }),
    )
    expect(problemOf(lost)).toMatchObject({ status: 422, code: 'no-such-site' })
  })

  it('is a meeting that was sent as such, also for those invited, and one whose place is out of doors', async () => {
    const tashi = await marmot.as('Tashi Lhendup')
    const entryId = await marmot.sendMeeting(ilse, {
      title: 'Rescue drill',
      starts,
      outdoors: site,
      people: [{ id: tashi.person.id, required: true }],
      places: [],
    })
    expect((await tashi.get(`/api/meetings/${entryId}`)).body).toMatchObject({ outdoors: site })
    const whole = await ilse.get<{ version: number }>(`/api/meetings/${entryId}`)
    await ilse.send('POST', `/api/meetings/${entryId}/change`, {
      version: whole.body.version,
      outdoors: null,
    })
    expect((await tashi.get(`/api/meetings/${entryId}`)).body).toMatchObject({ outdoors: null })

    const yard = await ilse.send<{ id: string }>('POST', '/api/resources', {
      name: 'The yard',
      kind: 'room',
      siteId: site,
      features: { 'Out of doors': 1 },
    })
    expect(yard.status, yard.text).toBe(200)
    const there = await marmot.sendMeeting(ilse, {
      title: 'Rope drill',
      starts: '2026-12-04T14:00',
      people: [],
      places: [await marmot.placeId('The yard')],
    })
    expect((await ilse.get(`/api/meetings/${there}`)).body).toMatchObject({
      outdoors: site,
      outdoorsSaid: null,
    })
    const { body } = await ilse.get<{ occurrences: { title: string; outdoors: string | null }[] }>(
      '/api/entries?from=2026-12-04T00:00:00Z&to=2026-12-05T00:00:00Z',
    )
    expect(body.occurrences.find((one) => one.title === 'Rope drill')?.outdoors).toBe(site)
  })

  it('goes out as iCalendar and comes in again, once; a program that drops it takes nothing away', async () => {
    const starts = '2027-01-14T09:00'
    const made = await ilse.send<{ entryId: string }>('POST', '/api/entries', {
      ...entry({ title: 'Snow school', starts }),
      outdoors: site,
    })
    const { text } = await ilse.get<string>('/api/export?from=2027-01-14T00:00:00Z&to=2027-01-15T00:00:00Z')
    expect(text).toContain('X-MARMOT-OUTDOORS:Innsbruck')
    const bring = async (who: Client, file: string) => {
      const looked = await who.upload<{ importId: string; made: number; changed: number; same: number }>(
        '/api/imports',
        Buffer.from(file),
      )
      if (looked.body.made + looked.body.changed > 0)
        await who.send('POST', `/api/imports/${looked.body.importId}/take`, {})
      return looked.body
    }
    expect(await bring(ilse, text)).toMatchObject({ made: 0, changed: 0 })
    const dropped = text.replace(/X-MARMOT-OUTDOORS:.*\r\n/g, '')
    expect(await bring(ilse, dropped)).toMatchObject({ made: 0, changed: 0 })
    expect(await read(made.body.entryId)).toMatchObject({ outdoors: site })
    const aroha = await marmot.as('Aroha Pene')
    const foreign = text.replace('X-MARMOT-OUTDOORS:Innsbruck', 'X-MARMOT-OUTDOORS:The moon')
    expect((await bring(aroha, foreign)).made).toBeGreaterThan(0)
    expect(await bring(aroha, foreign)).toMatchObject({ made: 0, changed: 0 })
    const there = await aroha.get<{ occurrences: { title: string; outdoors: string | null }[] }>(
      '/api/entries?from=2027-01-14T00:00:00Z&to=2027-01-15T00:00:00Z',
    )
    expect(there.body.occurrences.find((one) => one.title === 'Snow school')?.outdoors).toBeNull()
  })
})
