import type { SeenDate } from '@marmot/contract/reservations'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  aMeeting,
  type Client,
  heldUp,
  problemOf,
  startTestMarmot,
  type TestMarmot,
} from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

const look = (who: Client, more: Record<string, unknown>) =>
  who.send<{ dates: SeenDate[] }>('POST', '/api/reservations/look', {
    starts: '2027-01-07T18:30',
    minutes: 60,
    zone: 'Europe/Vienna',
    ...more,
  })

describe('a reservation that is looked at', () => {
  it('says who is in the way of which date, and what else there is, and takes nothing', async () => {
    const serac = await marmot.placeId('Serac')
    await tashi.send(
      'POST',
      '/api/meetings',
      aMeeting({ starts: '2027-01-14T19:00', minutes: 30, places: [serac] }),
    )
    const series = { rule: 'FREQ=WEEKLY;COUNT=4', excepted: ['2027-01-21T18:30'], changes: [] }
    const { body } = await look(ilse, { places: [serac], series, headCount: 5 })
    expect(body.dates.map((one) => [one.recurrence, one.clashes.length])).toEqual([
      ['2027-01-07T18:30', 0],
      ['2027-01-14T18:30', 1],
      ['2027-01-28T18:30', 0],
    ])
    const [, clashing] = body.dates
    expect(clashing?.clashes[0]?.words).toBe(
      'Serac is taken at 18:30: Tashi Lhendup has it from 19:00 to 19:30.',
    )
    expect(clashing?.repairs.map((one) => one.starts)).toEqual(['2027-01-14T18:30', '2027-01-14T18:00'])

    // With its repairs it is taken as it was looked at.
    const changes = clashing?.repairs
      .slice(0, 1)
      .map(({ recurrence, starts, places }) => ({ recurrence, starts, places }))
    const mended = await look(ilse, { places: [serac], series: { ...series, changes } })
    expect(mended.body.dates.every((one) => one.clashes.length === 0)).toBe(true)
    const none = await marmot.pool.query(
      `select 1 from reservation where person_id = $1 and span && tstzrange('2027-01-07T17:30Z', '2027-01-07T18:30Z')`,
      [ilse.person.id],
    )
    expect(none.rowCount).toBe(0)
  })

  it('does not name whoever shares nothing', async () => {
    const col = await marmot.placeId('Col')
    await tashi.send('PUT', '/api/sharing', {
      to: 'organisation',
      id: null,
      sees: 'nothing',
      does: 'look',
      seesPrivate: false,
    })
    await tashi.send(
      'POST',
      '/api/meetings',
      aMeeting({ title: 'Unseen', starts: '2027-01-07T18:30', places: [col] }),
    )
    const { body, text } = await look(ilse, { places: [col] })
    expect(body.dates[0]?.clashes[0]?.words).toContain('somebody has it')
    expect(text).not.toContain('Tashi')
    expect(text).not.toContain('Unseen')
  })

  it('holds nobody up however long it repeats, and says what is wrong in words all the same', async () => {
    const serac = await marmot.placeId('Serac')
    const daily = (count: number) => ({ series: { rule: `FREQ=DAILY;COUNT=${count}`, changes: [] } })
    const whole = { starts: '2026-11-24T02:00', places: [serac, await marmot.placeId('Col')], ...daily(400) }
    const waited = await heldUp(tashi, () => look(ilse, whole))
    expect(waited).toBeLessThan(0.5)
    const { body } = await look(ilse, whole)
    // At two in the morning it is closed: at six it is not, and at weekends it is all day.
    expect(body.dates).toHaveLength(400)
    expect(body.dates.every((one) => one.clashes.length === 2)).toBe(true)
    expect(body.dates.filter((one) => one.repairs.length === 0).length).toBeGreaterThan(100)
    const nowhere = { places: ['00000000-0000-4000-8000-000000000000'], ...daily(60) }
    expect(problemOf(await look(ilse, nowhere)).code).toBe('no-such-place')
  })

  it('is refused in words', async () => {
    expect(problemOf(await look(ilse, { places: ['00000000-0000-4000-8000-000000000000'] }))).toMatchObject({
      status: 422,
      code: 'no-such-place',
    })
    expect(problemOf(await look(ilse, { places: [], minutes: -5 })).code).toBe('ends-before-start')
    expect((await look(ilse, { places: [], of: tashi.person.id })).status).toBe(404)
  })
})

describe('how full places are', () => {
  it('is said for each day by a clock, of all of a kind together; what runs over midnight counts on both', async () => {
    // All labs: what is taken on Saturday evening runs into Sunday by Innsbruck's clock, and is all of one day in Santiago.
    const labs = ['Cold lab −20', 'Cold lab −5', 'Thin-section lab']
    const rows = await marmot.pool.query<{ id: string }>(
      "select id from resource where kind = 'lab' and retired_at is null and name = any($1)",
      [labs],
    )
    const fill = async (zone: string) =>
      (
        await ilse.get<{ fill: number[] }>(
          `/api/reservations/fill?first=2027-07-03&days=3&zone=${zone}&kind=lab`,
        )
      ).body.fill
    expect(await fill('Europe/Vienna')).toEqual([0, 0, 0])
    await marmot.pool.query(
      `with made as (insert into entry (uid, owner_id, zone, starts, minutes, title, created_at)
                       values ('full', $2, 'Europe/Vienna', '2027-07-03 22:00', 240, 'Night run', now()) returning id),
            dated as (insert into occurrence (entry_id, recurrence, span)
                       select id, '2027-07-03 22:00', tstzrange('2027-07-03 20:00Z', '2027-07-04 00:00Z') from made returning id)
       insert into reservation (resource_id, occurrence_id, person_id, span)
         select $1, id, $2, tstzrange('2027-07-03 20:00Z', '2027-07-04 00:00Z') from dated`,
      [rows.rows[0]?.id, ilse.person.id],
    )
    const many = (await marmot.pool.query("select 1 from resource where kind = 'lab' and retired_at is null"))
      .rowCount
    const [first = 0, second = 0, third = 0] = (await fill('Europe/Vienna')).map(
      (one) => one * 8 * (many ?? 0),
    )
    expect([first, third]).toEqual([expect.closeTo(2), 0])
    // With what is kept free after it.
    expect(second).toBeGreaterThanOrEqual(2)
    expect((await fill('America/Santiago'))[1]).toBe(0)
    const wrong = await ilse.get('/api/reservations/fill?first=2027-07-03&days=3&zone=Mars/Olympus')
    expect(problemOf(wrong).code).toBe('unknown-zone')
    expect((await ilse.get('/api/reservations/fill?first=2027-07-03&days=9999&zone=UTC')).status).toBe(422)
  })

  it('is not to be had by reading what is reserved of every place for ever', async () => {
    const all = await ilse.get('/api/reservations?from=2026-12-01T00:00:00Z&to=2027-02-01T00:00:00Z')
    expect(problemOf(all).code).toBe('range-too-long')
  })
})
