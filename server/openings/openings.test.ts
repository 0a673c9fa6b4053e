import { randomUUID } from 'node:crypto'
import { type Brief, emptyBrief } from '@marmot/contract/briefs'
import { written as entryWritten } from '@marmot/contract/entries'
import { searchLine } from '@marmot/contract/openings'
import type { ReservationOnWire, Resource } from '@marmot/contract/resources'
import { USUAL_RULES } from '@marmot/core/openings'
import { DAY, dayOf, HOUR, toWall, wallText, zoneTable } from '@marmot/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  aMeeting,
  type Client,
  problemOf,
  startTestMarmot,
  TEST_START,
  type TestMarmot,
} from '../testing/marmot.ts'
import { letHoldsGo } from './holds.ts'
import { readBusy, readLanes } from './store.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

const VIENNA = zoneTable('Europe/Vienna')
const TODAY = dayOf(toWall(VIENNA, TEST_START))

const briefWith = async (names: string[], more: Partial<Brief> = {}): Promise<Brief> => {
  const ids = await Promise.all(names.map((name) => marmot.personId(name)))
  const empty = emptyBrief(TODAY, ilse.person.id)
  const people = ids.map((id) => ({ id, required: true, group: null }))
  return { ...empty, people: [...empty.people, ...people], ...more }
}

/** Every line of a search, read by the contract. */
const search = async (brief: Brief) => {
  const answer = await ilse.send('POST', '/api/openings', { brief })
  return answer.text
    .trim()
    .split('\n')
    .map((line) => searchLine.parse(JSON.parse(line)))
}
const lastOf = async (brief: Brief) => {
  const last = (await search(brief)).at(-1)
  if (!last || !('answer' in last)) throw new Error(JSON.stringify(last))
  return last
}

const OF_ENTRY = 'occurrence_id in (select id from occurrence where entry_id = $1)'

describe('what the search reads of people’s time', () => {
  const statesIn = async (from: number, to: number) => {
    const lanes = await readLanes(
      marmot.pool,
      ilse.person.id,
      [ilse.person.id],
      { from, to, apart: [] },
      TEST_START,
    )
    const spans = lanes.get(ilse.person.id)?.time.spans ?? []
    return spans.toSorted((a, b) => a.start - b.start).map((span) => span.state)
  }
  const write = (more: Record<string, unknown> = {}) => ({
    starts: '2027-06-07T09:00',
    minutes: 60,
    zone: 'Europe/Vienna',
    title: 'Calving watch',
    shows: 'busy',
    ...more,
  })

  it('follows what an entry shows, and one date of a series by itself, and a change taken back', async () => {
    const repetition = { rule: 'FREQ=WEEKLY;COUNT=3', added: [], excepted: [] }
    const made = await ilse.send('POST', '/api/entries', write({ repetition }))
    const { entryId, version } = entryWritten.parse(made.body)
    const [from, to] = [Date.parse('2027-06-06T00:00Z'), Date.parse('2027-06-27T00:00Z')]
    expect(await statesIn(from, to)).toEqual(['busy', 'busy', 'busy'])

    const one = await ilse.send('PUT', `/api/entries/${entryId}`, {
      ...write({ starts: '2027-06-14T09:00', shows: 'tentative' }),
      recurrence: '2027-06-14T09:00',
      scope: 'this',
      version,
    })
    expect(one.status, one.text).toBe(200)
    expect(await statesIn(from, to)).toEqual(['busy', 'tentative', 'busy'])

    const all = await ilse.send('PUT', `/api/entries/${entryId}`, {
      ...write({ shows: 'away' }),
      recurrence: '2027-06-07T09:00',
      scope: 'all',
      version: entryWritten.parse(one.body).version,
    })
    expect(all.status, all.text).toBe(200)
    expect(new Set(await statesIn(from, to))).toContain('away')
    const { changeId } = entryWritten.parse(all.body)
    const undone = await ilse.send('POST', `/api/changes/${changeId}/undo`, {})
    expect(undone.status, undone.text).toBeLessThan(300)
    expect(await statesIn(from, to)).toEqual(['busy', 'tentative', 'busy'])
  })

  it('is empty where nothing stands', async () => {
    expect(await statesIn(Date.parse('2028-01-12T00:00Z'), Date.parse('2028-01-13T00:00Z'))).toEqual([])
  })
})

describe('a search on the server', () => {
  it('gives openings with their reasons, the last line with all of it', async () => {
    const last = await lastOf(await briefWith(['Matteo Ruprechter', 'Wanjiru Kamande']))
    expect(last.share).toBe(1)
    expect(last.answer.found.openings[0]?.parts.stretch).toEqual([])
    expect(last.answer.why).toBeNull()
  })

  it('says who is in the way and what would help, when there is none', async () => {
    const names = ['Wanjiru Kamande', 'Tashi Lhendup', 'Catalina Reyes', 'Declan Furey', 'Aroha Pene']
    const { answer } = await lastOf(await briefWith(names, { minutes: 60 }))
    expect(answer.found.openings).toEqual([])
    expect(answer.why?.people.length).toBeGreaterThan(1)
    expect(answer.help.length).toBeGreaterThan(0)
    expect(answer.help[0]?.openings).toBeGreaterThan(0)
  })

  it('counts the unknown apart and tells nobody’s titles', async () => {
    const brief = await briefWith(['Severin Plattner', 'Wanjiru Kamande'])
    const { answer } = await lastOf(brief)
    expect(answer.found.unknown).toEqual([await marmot.personId('Severin Plattner')])
    const text = JSON.stringify(answer)
    const titles = await marmot.pool.query<{ title: string }>(
      'select distinct title from entry e join participant p on p.entry_id = e.id where p.person_id = $1',
      [await marmot.personId('Wanjiru Kamande')],
    )
    for (const { title } of titles.rows) expect(text).not.toContain(title)
  })

  it('matches a room on each site where people are', async () => {
    const needs: Brief['needs'] = [
      { kind: 'room', siteId: null, least: 1, count: 1, seats: null, features: {} },
    ]
    const { answer } = await lastOf(await briefWith(['Wanjiru Kamande', 'Matteo Ruprechter'], { needs }))
    const resources = (await ilse.get<{ resources: Resource[] }>('/api/resources')).body.resources
    const sites = answer.found.openings[0]?.parts.places?.places.map(
      (id) => resources.find((place) => place.id === id)?.site,
    )
    expect(sites).toEqual(['Innsbruck', 'Nairobi'])
  })

  it.each([
    ['same-person-twice', async () => briefWith(['Tashi Lhendup', 'Tashi Lhendup'])],
    ['window-past', async () => briefWith([], { fromDay: TODAY - 9, toDay: TODAY - 2 })],
    ['window-too-long', async () => briefWith([], { toDay: TODAY + 800 })],
    ['bad-step', async () => briefWith([], { step: 7 })],
    ['no-such-place', async () => briefWith([], { places: [randomUUID()] })],
    [
      'too-many-people',
      async () =>
        briefWith([], {
          people: Array.from({ length: 2000 }, () => ({ id: randomUUID(), required: true, group: null })),
        }),
    ],
  ] as const)('is refused with %s', async (code, make) => {
    expect(await search(await make())).toEqual([{ refused: expect.objectContaining({ code }) }])
  })

  it('that is no brief at all is a problem naming the field', async () => {
    const brief = { ...(await briefWith([])), minutes: 'long' }
    expect(problemOf(await ilse.send('POST', '/api/openings', { brief }))).toMatchObject({
      status: 422,
      code: 'invalid',
      fields: [{ path: 'brief.minutes' }],
    })
  })
})

describe('the balance of bad hours', () => {
  it('counts minutes outside hours in meetings of at least two of those asked, not of those who share nothing', async () => {
    const at = (hours: number) => new Date(TEST_START - 7 * DAY + hours * HOUR).toISOString()
    const meeting = await ilse.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({ title: 'Late one', people: [{ id: tashi.person.id, required: true }], places: [] }),
    )
    // Moved into the past, to 19:00 in Vienna and 23:45 in Kathmandu.
    const span = `[${at(10)},${at(11)})`
    await marmot.pool.query(
      `update attendance a set span = $2::tstzrange, answer = 'accepted' from occurrence o
        where o.id = a.occurrence_id and o.entry_id = $1`,
      [meeting.body.entryId, span],
    )
    const read = async (people: string[]) =>
      (
        await ilse.send<{ people: { personId: string; minutes: number }[] }>(
          'POST',
          '/api/openings/balance',
          { people },
        )
      ).body.people
    const severin = await marmot.personId('Severin Plattner')
    const both = await read([ilse.person.id, tashi.person.id, severin])
    expect(both.map((one) => one.personId)).toEqual([ilse.person.id, tashi.person.id])
    expect(both[1]?.minutes).toBeGreaterThan(both[0]?.minutes ?? 0)
    expect(await read([tashi.person.id])).toEqual([{ personId: tashi.person.id, minutes: 0, meetings: 0 }])
  })
})

describe('a template', () => {
  it('is kept, used, listed newest first, and forgotten; never somebody else’s', async () => {
    const [one, other] = [randomUUID(), randomUUID()]
    const keep = async (client: Client, id: string, name: string) =>
      client.send('PUT', `/api/briefs/${id}`, { name, brief: await briefWith(['Tashi Lhendup']) })
    await keep(ilse, one, 'Fortnightly station call')
    await keep(ilse, other, 'Core review')
    const names = async (client: Client) =>
      (await client.get<{ templates: { name: string }[] }>('/api/briefs')).body.templates.map(
        (each) => each.name,
      )
    expect((await names(ilse)).sort()).toEqual(['Core review', 'Fortnightly station call'])
    expect(await names(tashi)).toEqual([])
    expect(problemOf(await keep(tashi, one, 'Mine now')).status).toBe(404)
    await ilse.send('DELETE', `/api/briefs/${one}`)
    expect(await names(ilse)).toEqual(['Core review'])
  })
})

describe('a hold', () => {
  const START = '2026-12-08T10:00'
  const body = async (more: object = {}) => ({
    title: 'Firn core review',
    starts: START,
    minutes: 60,
    zone: 'Europe/Vienna',
    places: [await marmot.placeId('Col')],
    until: new Date(TEST_START + 15 * 60_000).toISOString(),
    ...more,
  })
  const RANGE = 'from=2026-12-08T00:00:00Z&to=2026-12-09T00:00:00Z'
  const states = async (viewer: Client) => {
    const time = await viewer.timeOf<{ people: { spans: { state: string }[] }[] }>([ilse.person.id], RANGE)
    const reserved = await viewer.get<{ reservations: ReservationOnWire[] }>(`/api/reservations?${RANGE}`)
    const col = await marmot.placeId('Col')
    return [
      time.body.people[0]?.spans.filter((span) => span.state === 'held').length,
      reserved.body.reservations.filter((taken) => taken.resourceId === col && taken.state === 'held').length,
    ]
  }

  it('shows as held to others, keeps the place, moves in place, and goes when it is let go', async () => {
    const id = randomUUID()
    expect((await ilse.send('PUT', `/api/holds/${id}`, await body())).status).toBe(200)
    expect(await states(tashi)).toEqual([1, 1])
    const rival = await tashi.send('PUT', `/api/holds/${randomUUID()}`, await body())
    expect(problemOf(rival)).toMatchObject({ status: 409, code: 'place-taken' })
    expect((await tashi.get(`/api/holds/${id}`)).status).toBe(404)
    // Again, at another time: one hold, moved.
    await ilse.send('PUT', `/api/holds/${id}`, await body({ starts: '2026-12-08T14:00' }))
    expect(await states(tashi)).toEqual([1, 1])
    expect((await ilse.get<{ start: string }>(`/api/holds/${id}`)).body.start).toBe(
      '2026-12-08T13:00:00.000Z',
    )
    await tashi.send('DELETE', `/api/holds/${id}`)
    expect(await states(tashi)).toEqual([1, 1])
    await ilse.send('DELETE', `/api/holds/${id}`)
    await ilse.send('DELETE', `/api/holds/${id}`)
    expect(await states(tashi)).toEqual([0, 0])
  })

  it('stays as it was when it is moved to where the place is taken', async () => {
    const [mine, theirs] = [randomUUID(), randomUUID()]
    await ilse.send('PUT', `/api/holds/${mine}`, await body())
    await tashi.send('PUT', `/api/holds/${theirs}`, await body({ starts: '2026-12-08T15:00' }))
    const refused = await ilse.send('PUT', `/api/holds/${mine}`, await body({ starts: '2026-12-08T15:00' }))
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'place-taken' })
    expect((await ilse.get<{ start: string }>(`/api/holds/${mine}`)).body.start).toBe(
      '2026-12-08T09:00:00.000Z',
    )
    await ilse.send('DELETE', `/api/holds/${mine}`)
    await tashi.send('DELETE', `/api/holds/${theirs}`)
  })

  it('moves with the places that are held with it, which stay held', async () => {
    const id = randomUUID()
    const given = await body()
    await ilse.send('PUT', `/api/holds/${id}`, given)
    const { starts, minutes, zone } = given
    const apart = { title: 'Held', starts, minutes: minutes + 15, zone, recurrence: starts, version: 1 }
    const refused = await ilse.send('PUT', `/api/entries/${id}`, apart)
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'has-places' })
    const moved = await ilse.send('POST', `/api/meetings/${id}/change`, {
      version: 1,
      starts: `${starts.slice(0, 11)}11:30`,
      title: 'Held for Noor',
    })
    expect([moved.status, moved.text]).toEqual([200, expect.anything()])
    const kept = await marmot.pool.query<{ wall: string; state: string; lapses: boolean }>(
      `select to_char(lower(span) at time zone 'Europe/Vienna', 'HH24:MI') as wall, state, lapses_at is not null as lapses
         from reservation where ${OF_ENTRY} and state <> 'released'`,
      [id],
    )
    expect(kept.rows).toEqual(given.places.map(() => ({ wall: '11:30', state: 'held', lapses: true })))
    await ilse.send('DELETE', `/api/holds/${id}`)
  })

  it('goes by itself: reads pass over it from that moment, and the job takes it away', async () => {
    const id = randomUUID()
    await ilse.send('PUT', `/api/holds/${id}`, await body())
    await marmot.pool.query('update entry set lapses_at = $2 where id = $1', [
      id,
      new Date(TEST_START - 1000),
    ])
    await marmot.pool.query(`update reservation set lapses_at = $2 where ${OF_ENTRY}`, [
      id,
      new Date(TEST_START - 1000),
    ])
    expect(await states(tashi)).toEqual([0, 0])
    await letHoldsGo({ pool: marmot.pool, clock: () => TEST_START })
    expect((await marmot.pool.query('select 1 from entry where id = $1', [id])).rowCount).toBe(0)
    expect((await marmot.pool.query(`select 1 from reservation where ${OF_ENTRY}`, [id])).rowCount).toBe(0)
  })

  it('put twice at once is one, and no mistake', async () => {
    for (let round = 0; round < 5; round++) {
      const id = randomUUID()
      const given = await body()
      const answers = await Promise.all([1, 2, 3, 4].map(() => ilse.send('PUT', `/api/holds/${id}`, given)))
      expect(answers.map((answer) => answer.status)).toEqual([200, 200, 200, 200])
      expect((await marmot.pool.query('select 1 from occurrence where entry_id = $1', [id])).rowCount).toBe(1)
      await ilse.send('DELETE', `/api/holds/${id}`)
    }
  })

  it('that lapses just while its meeting is sent is in nobody’s way, and no mistake', async () => {
    for (let round = 0; round < 8; round++) {
      const id = randomUUID()
      const given = await body()
      await ilse.send('PUT', `/api/holds/${id}`, given)
      const lapsed = new Date(TEST_START - 1000)
      await marmot.pool.query('update entry set lapses_at = $2 where id = $1', [id, lapsed])
      await marmot.pool.query(`update reservation set lapses_at = $2 where ${OF_ENTRY}`, [id, lapsed])
      const { starts, minutes, zone, places } = given
      const [sent] = await Promise.all([
        ilse.send<{ entryId: string }>('POST', '/api/meetings', {
          ...aMeeting(),
          starts,
          minutes,
          zone,
          places,
          hold: id,
        }),
        letHoldsGo({ pool: marmot.pool, clock: () => TEST_START }),
        ilse.send('DELETE', `/api/holds/${id}`),
      ])
      expect(sent.status).toBe(200)
      await ilse.send('POST', `/api/meetings/${sent.body.entryId}/cancel`, {})
    }
  })

  it('that has lapsed is passed over wherever time is read', async () => {
    const id = randomUUID()
    await ilse.send('PUT', `/api/holds/${id}`, await body())
    const range = 'from=2026-12-08T00:00:00Z&to=2026-12-09T00:00:00Z'
    const seen = async () => [
      (await ilse.get(`/api/entries?${range}`)).text.includes(id),
      (await ilse.get(`/api/export?${range}`)).text.includes(id),
      (await ilse.get(`/api/entries/${id}`)).status,
      (await ilse.get(`/api/holds/${id}`)).status,
    ]
    expect(await seen()).toEqual([true, false, 200, 200])
    await marmot.pool.query('update entry set lapses_at = $2 where id = $1', [
      id,
      new Date(TEST_START - 1000),
    ])
    expect(await seen()).toEqual([false, false, 404, 404])
    await letHoldsGo({ pool: marmot.pool, clock: () => TEST_START })
  })

  it('that has lapsed stands in no search’s way', async () => {
    const id = randomUUID()
    await ilse.send('PUT', `/api/holds/${id}`, await body())
    const [from, to] = [Date.parse('2026-12-08T00:00:00Z'), Date.parse('2026-12-09T00:00:00Z')]
    const busy = async () =>
      (await readBusy(marmot.pool, [ilse.person.id], from, to, TEST_START, [])).get(ilse.person.id)?.length ??
      0
    const held = await busy()
    await marmot.pool.query('update entry set lapses_at = $2 where id = $1', [
      id,
      new Date(TEST_START - 1000),
    ])
    expect(await busy()).toBe(held - 1)
    await letHoldsGo({ pool: marmot.pool, clock: () => TEST_START })
  })

  it('makes way for the meeting it was for', async () => {
    const id = randomUUID()
    await ilse.send('PUT', `/api/holds/${id}`, await body())
    const sent = await ilse.send(
      'POST',
      '/api/meetings',
      aMeeting({
        title: 'Decided',
        starts: START,
        minutes: 60,
        places: [await marmot.placeId('Col')],
        hold: id,
      }),
    )
    expect(sent.status).toBe(200)
    expect(await states(tashi)).toEqual([0, 0])
    expect((await ilse.get(`/api/holds/${id}`)).status).toBe(404)
  })

  it.each([
    ['over', { starts: '2026-11-20T10:00' }],
    ['lapsed', { until: '2026-11-20T10:00:00Z' }],
    ['endless', { until: '2027-11-20T10:00:00Z' }],
  ])('that is %s is refused', async (_, more) => {
    const answer = await ilse.send('PUT', `/api/holds/${randomUUID()}`, await body(more))
    expect(problemOf(answer)).toMatchObject({ status: 422, code: 'bad-hold' })
  })
})

describe('a series', () => {
  const series = (changes: object[], more: object = {}) =>
    aMeeting({
      title: 'Station call',
      starts: '2027-03-23T12:15',
      minutes: 60,
      zone: 'Europe/Vienna',
      people: [{ id: tashi.person.id, required: true }],
      guests: [],
      places: [],
      series: { rule: 'FREQ=WEEKLY;INTERVAL=2;COUNT=12', changes },
      ...more,
    })

  it('is made with its repairs: one entry, its places date by date, on the clock on the wall', async () => {
    const [col, firn] = [await marmot.placeId('Moraine'), await marmot.placeId('Firn')]
    const made = await ilse.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      series(
        [
          { recurrence: '2027-04-20T12:15', starts: '2027-04-20T16:00', places: [col] },
          { recurrence: '2027-06-01T12:15', starts: '2027-06-01T12:15', places: [firn] },
        ],
        { places: [col] },
      ),
    )
    expect([made.status, made.text]).toEqual([200, expect.anything()])
    const dates = await marmot.pool.query<{ start: Date; place: string }>(
      `select lower(o.span) as start, s.name as place from occurrence o
         join reservation r on r.occurrence_id = o.id
         join resource s on s.id = r.resource_id where o.entry_id = $1 order by 1`,
      [made.body.entryId],
    )
    const words = dates.rows.map((row) => `${wallText(toWall(VIENNA, row.start.getTime()))} ${row.place}`)
    expect(words).toHaveLength(12)
    expect(words.slice(1, 6)).toEqual([
      '2027-04-06T12:15 Moraine',
      '2027-04-20T16:00 Moraine',
      '2027-05-04T12:15 Moraine',
      '2027-05-18T12:15 Moraine',
      '2027-06-01T12:15 Firn',
    ])
  })

  it('takes no place at all when one date cannot have it, and says which', async () => {
    const col = await marmot.placeId('Col')
    await tashi.send('PUT', `/api/holds/${randomUUID()}`, {
      title: 'In the way',
      starts: '2027-05-13T12:00',
      minutes: 60,
      zone: 'Europe/Vienna',
      places: [],
      until: new Date(TEST_START + DAY).toISOString(),
    })
    await ilse.send(
      'POST',
      '/api/meetings',
      aMeeting({ starts: '2027-05-25T11:30', minutes: 60, places: [col] }),
    )
    const refused = await ilse.send(
      'POST',
      '/api/meetings',
      series([], { title: 'Refused call', starts: '2027-04-13T11:30', places: [col] }),
    )
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(problemOf(refused).detail).toContain('On Tue 25 May')
    expect((await marmot.pool.query("select 1 from entry where title = 'Refused call'")).rowCount).toBe(0)
  })

  it.each([
    [
      'no-such-date',
      () => series([{ recurrence: '2027-03-24T12:15', starts: '2027-03-24T13:15', places: [] }]),
    ],
    [
      'series-too-long',
      () => series([], { series: { rule: 'FREQ=MONTHLY;INTERVAL=12;COUNT=5', changes: [] } }),
    ],
  ])('is refused with %s', async (code, body) => {
    expect(problemOf(await ilse.send('POST', '/api/meetings', body()))).toMatchObject({ status: 422, code })
  })
})

it('of a brief is what core takes for granted', () => {
  expect(emptyBrief(TODAY, ilse.person.id).rules).toEqual(USUAL_RULES)
})

describe('reservations', () => {
  const RANGE = 'from=2026-11-23T00:00:00Z&to=2026-12-20T00:00:00Z'

  it('are given of some places alone where that is asked for, and of nothing that there is not', async () => {
    const list = async (more: string) =>
      (await ilse.get<{ reservations: ReservationOnWire[] }>(`/api/reservations?${RANGE}${more}`)).body
        .reservations
    const { resources } = (await ilse.get<{ resources: Resource[] }>('/api/resources')).body
    const all = await list('')
    const of = (wanted: (place: Resource) => boolean) => {
      const ids = new Set(resources.filter(wanted).map((place) => place.id))
      return all.filter((each) => ids.has(each.resourceId))
    }
    const here = ilse.person.siteId
    const inRooms = of((place) => place.siteId === here && place.kind === 'room')
    expect(inRooms.length).toBeGreaterThan(0)
    expect(inRooms.length).toBeLessThan(all.length)
    expect(await list(`&sites=${here}&kinds=room`)).toEqual(inRooms)
    const other = all.find((each) => !inRooms.includes(each))?.resourceId ?? ''
    const both = all.filter((each) => each.resourceId === other || inRooms.includes(each))
    expect(await list(`&sites=${here}&kinds=room&places=${other}`)).toEqual(both)
    expect(await list(`&places=${other}`)).toEqual(all.filter((each) => each.resourceId === other))
    expect(await list(`&sites=&kinds=&places=${randomUUID()}`)).toEqual([])
    const odd = await ilse.get<{ code: string }>(`/api/reservations?${RANGE}&places=somewhere`)
    expect([odd.status, odd.body.code]).toEqual([422, 'bad-id'])
  })
})
