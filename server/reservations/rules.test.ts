import type { Resource } from '@marmot/contract/resources'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let matteo: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  matteo = await marmot.as('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

const WEEK = [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 420, to: 1260 }))
const NONE = {
  trainedOnly: false,
  teams: [] as string[],
  asksApproval: false,
  approvalHours: 48,
  hours: WEEK,
  before: 0,
  after: 0,
  shortest: null,
  longest: null,
  aheadDays: null,
  notice: null,
  atOnce: null,
}
const pathOf = async (place: string) => `/api/resources/${await marmot.placeId(place)}/rules`
const set = async (place: string, rules: Partial<typeof NONE> | Record<string, unknown>) => {
  const path = await pathOf(place)
  const { version } = (await ilse.get<{ version: number }>(path)).body
  return ilse.send<{ version: number }>('PUT', path, { ...NONE, version, ...rules })
}
const reserve = (who: Client, place: string, starts: string, more: Record<string, unknown> = {}) =>
  marmot.askForPlace(who, place, starts, { title: 'Adit', ...more })
const refused = async (who: Client, place: string, starts: string, more: Record<string, unknown> = {}) => {
  const { code, detail } = problemOf(await reserve(who, place, starts, more))
  return [code, detail.split('.')[0]]
}

describe('the rules of a place', () => {
  it('each refuse by their name, and are the same wherever one reserves', async () => {
    expect(
      (
        await set('Col', {
          shortest: 45,
          longest: 120,
          aheadDays: 200,
          notice: 1440,
          teams: ['Office'],
        })
      ).status,
    ).toBe(200)
    const on = '2027-03-30'
    expect(await refused(tashi, 'Col', `${on}T09:00`)).toEqual(['not-for-you', 'Col is only for Office'])
    expect(await refused(ilse, 'Col', `${on}T09:00`, { minutes: 30 })).toEqual([
      'too-short',
      'Col is reserved for 45 min at least',
    ])
    expect(await refused(ilse, 'Col', `${on}T09:00`, { minutes: 180 })).toEqual([
      'too-long',
      'Col is reserved for 2 h at most',
    ])
    expect(await refused(ilse, 'Col', '2027-07-01T09:00')).toEqual([
      'too-far-ahead',
      'Col can be reserved up to 200 days ahead',
    ])
    expect(await refused(ilse, 'Col', '2026-11-23T20:00')).toEqual([
      'too-late',
      'Col has to be reserved at least 1 day before',
    ])
    expect(await refused(ilse, 'Col', '2027-04-03T09:00')).toEqual([
      'place-closed',
      'Col is closed then: it is open Monday to Friday 07:00 to 21:00',
    ])
    const looked = await ilse.send<{ dates: { clashes: { words: string }[] }[] }>(
      'POST',
      '/api/reservations/look',
      {
        starts: `${on}T09:00`,
        minutes: 30,
        zone: 'Europe/Vienna',
        places: [await marmot.placeId('Col')],
      },
    )
    expect(looked.body.dates[0]?.clashes[0]?.words).toBe('Col is reserved for 45 min at least.')
  })

  it('count what somebody has at once, in one act as well, and not what is moved', async () => {
    await set('Firn', { atOnce: 2 })
    const matteos = (
      await marmot.pool.query(
        'select 1 from reservation r join resource p on p.id = r.resource_id where p.name = $1 and r.person_id = $2 and upper(r.span) > $3',
        ['Firn', tashi.person.id, '2026-11-23T08:12Z'],
      )
    ).rowCount
    expect(matteos).toBe(0)
    const first = await reserve(tashi, 'Firn', '2027-04-05T09:00')
    expect(first.status).toBe(200)
    const series = { series: { rule: 'FREQ=WEEKLY;COUNT=2', changes: [] } }
    expect((await refused(tashi, 'Firn', '2027-04-06T09:00', series))[0]).toBe('too-many')
    expect((await reserve(tashi, 'Firn', '2027-04-06T09:00')).status).toBe(200)
    expect((await refused(tashi, 'Firn', '2027-04-07T09:00'))[0]).toBe('too-many')
    const moved = await tashi.send('POST', `/api/meetings/${first.body.entryId}/change`, {
      version: 1,
      starts: '2027-04-05T11:00',
    })
    expect(moved.status).toBe(200)
  })

  it('that are changed say first what they would not allow; that stays, and is not asked again when it is renamed', async () => {
    const made = await reserve(tashi, 'Serac', '2027-04-08T09:00', { minutes: 240 })
    const path = await pathOf('Serac')
    const look = await ilse.send<{ hits: { by: string; words: string }[] }>('POST', `${path}/look`, {
      ...NONE,
      longest: 60,
      teams: ['Office'],
    })
    const hits = look.body.hits.filter((one) => one.by === 'Tashi Lhendup')
    expect(hits).toMatchObject([{ words: 'Serac is only for Office.' }])
    const unchanged = await ilse.get<{ rules: { longest: number | null } }>(path)
    expect(unchanged.body.rules.longest).toBeNull()

    expect((await set('Serac', { longest: 60, before: 15, after: 15 })).status).toBe(200)
    const renamed = await tashi.send('POST', `/api/meetings/${made.body.entryId}/change`, {
      version: 1,
      title: 'Shaft',
    })
    expect(renamed.status).toBe(200)
    const longer = await tashi.send('POST', `/api/meetings/${made.body.entryId}/change`, {
      version: 2,
      minutes: 250,
    })
    expect(problemOf(longer).code).toBe('too-long')
    // A quarter of an hour after one and one before the next are kept free.
    await reserve(matteo, 'Serac', '2027-04-09T09:00')
    expect((await refused(tashi, 'Serac', '2027-04-09T10:15'))[0]).toBe('place-taken')
    expect((await reserve(tashi, 'Serac', '2027-04-09T10:30')).status).toBe(200)
  })

  it('ask for training that is still good on the day', async () => {
    await marmot.pool.query(`update trained_person set until_day = '2026-11-22' where person_id = $1`, [
      matteo.person.id,
    ])
    expect((await refused(matteo, 'Cold lab −5', '2027-04-12T09:00'))[0]).toBe('training-over')
    await marmot.pool.query(`update trained_person set until_day = '2026-11-23' where person_id = $1`, [
      matteo.person.id,
    ])
    expect((await reserve(matteo, 'Cold lab −5', '2027-04-12T09:00')).status).toBe(200)
    expect((await refused(tashi, 'Cold lab −5', '2027-04-13T09:00'))[0]).toBe('not-trained')
  })

  it('are set by whoever looks after it, as they were seen, and refused in words', async () => {
    const path = await pathOf('Moraine')
    expect((await tashi.get(path)).status).toBe(404)
    expect((await tashi.send('PUT', path, { ...NONE, version: 1 })).status).toBe(404)
    expect(problemOf(await ilse.send('PUT', path, { ...NONE, version: 7 })).code).toBe('stale')
    for (const [rules, words] of [
      [{ shortest: 60, longest: 30 }, 'shorter than the shortest'],
      [{ hours: [{ weekday: 1, from: 600, to: 500 }] }, 'Monday'],
      [{ teams: ['Nobody at all'] }, 'no team called'],
      [{ aheadDays: 1, notice: 2880 }, 'sooner than it can be'],
    ] as const) {
      const answer = await set('Moraine', rules)
      expect([answer.status, problemOf(answer).detail]).toEqual([422, expect.stringContaining(words)])
    }
    expect((await set('Moraine', { longest: -5 })).status).toBe(422)
    expect((await set('Moraine', { longest: 90 })).status).toBe(200)
    const { body } = await tashi.get<{ resources: Resource[] }>('/api/resources')
    expect(body.resources.find((one) => one.name === 'Moraine')?.rules.longest).toBe(90)
  })
})
