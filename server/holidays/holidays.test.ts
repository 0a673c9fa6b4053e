import { randomUUID } from 'node:crypto'
import type { PersonTime } from '@marmot/contract/availability'
import type { SiteDay, SiteHolidays } from '@marmot/contract/holidays'
import type { Resource } from '@marmot/contract/resources'
import ical from 'node-ical'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'
import { knownRegions, publicHolidays } from './public.ts'

let marmot: TestMarmot
let ilse: Client
let wanjiru: Client
let gita: Client
let siteId: (name: string) => string
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  wanjiru = await marmot.as('Wanjiru Kamande')
  gita = await marmot.as('Gita Shrestha')
  const { body } = await ilse.get<{ sites: { id: string; name: string }[] }>('/api/session')
  siteId = (name) => body.sites.find((site) => site.name === name)?.id ?? ''
})
afterAll(() => marmot.stop())

interface Listed {
  readonly sites: SiteHolidays[]
  readonly days: SiteDay[]
  readonly worked: string[]
}
const list = async (who = ilse) => (await who.get<Listed>('/api/site-days')).body
const add = (who: Client, more: Record<string, unknown> = {}, key: string = randomUUID()) =>
  who.send<{ day: SiteDay; reservations: number }>(
    'POST',
    '/api/site-days',
    {
      siteId: siteId('Innsbruck'),
      first: '2027-02-10',
      last: '2027-02-11',
      name: 'Heating is mended',
      shut: false,
      ...more,
    },
    { 'idempotency-key': key },
  )
const offOf = async (of: Client, from: string, to: string, asker = ilse) => {
  const range = `from=${from}T00:00:00Z&to=${to}T00:00:00Z`
  const { body } = await asker.timeOf<{ people: PersonTime[] }>([of.person.id], range)
  return body.people[0]?.spans
    .filter((span) => span.dayOff)
    .map((span) => [span.title, span.state, span.start])
}

describe('public holidays', () => {
  it('are those of the site, on the lanes of whoever works there, in the hours of their own zone', async () => {
    expect(await offOf(ilse, '2026-12-07', '2026-12-10', wanjiru)).toEqual([
      ['Immaculate Conception', 'away', '2026-12-07T23:00:00.000Z'],
    ])
    expect(await offOf(wanjiru, '2026-12-07', '2026-12-14')).toEqual([
      ['Jamhuri Day', 'away', '2026-12-11T21:00:00.000Z'],
    ])
    expect(await offOf(gita, '2026-12-07', '2026-12-14')).toEqual([])
    const own = await ilse.get<{ daysOff: { title: string }[] }>(
      '/api/entries?from=2026-12-24T00:00:00Z&to=2026-12-27T12:00:00Z',
    )
    expect(own.body.daysOff.map((one) => one.title)).toEqual(['Christmas Day', 'Boxing Day'])
  })

  it('are told of nobody who shares nothing, and stand in what one publishes', async () => {
    const declan = await marmot.as('Declan Furey')
    await declan.send('PUT', '/api/sharing', {
      to: 'person',
      id: ilse.person.id,
      sees: 'nothing',
      does: 'look',
      seesPrivate: false,
    })
    expect(await offOf(declan, '2026-12-24', '2026-12-27')).toEqual([])
    expect(await offOf(declan, '2026-12-24', '2026-12-27', wanjiru)).toMatchObject([
      ['Christmas Day', 'away', '2026-12-25T03:30:00.000Z'],
    ])
  })

  it('are known for countries and their parts, those that move included; and of others it is said that they are not', () => {
    const codes = new Set(knownRegions().map((one) => one.code))
    expect([codes.has('AT-7'), codes.has('KE'), codes.has('NP')]).toEqual([true, true, false])
    expect(publicHolidays({ region: 'NP', fromYear: 2026, toYear: 2027 })).toBeNull()
    expect(publicHolidays({ region: 'AT-99', fromYear: 2026, toYear: 2027 })).toBeNull()
    const found = publicHolidays({ region: 'KE', fromYear: 2026, toYear: 2027 }) ?? []
    const easter = found.filter((one) => one.name === 'Good Friday')
    expect(easter.map((one) => new Date(one.first * 86_400_000).toISOString().slice(0, 10))).toEqual([
      '2026-04-03',
      '2027-03-26',
    ])
    expect(found.filter((one) => one.uncertain).map((one) => one.name)).toContain(
      'End of Ramadan (Eid al-Fitr)',
    )
  })

  it('come anew with another region, for those who may say so, and go with none', async () => {
    const site = siteId('Dunedin')
    const aroha = await marmot.as('Aroha Pene')
    const put = (who: Client, region: string | null) =>
      who.send('PUT', `/api/sites/${site}/holidays`, { region })
    const names = async () =>
      (await list()).days
        .filter((day) => day.siteId === site && day.kind === 'holiday')
        .map((day) => day.name)
    expect(problemOf(await put(wanjiru, 'KE'))).toMatchObject({ status: 403, code: 'not-your-site' })
    expect(problemOf(await put(aroha, 'XX'))).toMatchObject({ status: 422, code: 'unknown-region' })
    expect(await names()).toContain('Waitangi Day')
    expect((await put(aroha, 'NO')).status).toBe(200)
    expect(await names()).toContain('Constitution Day')
    expect(await names()).not.toContain('Waitangi Day')
    expect((await put(aroha, null)).status).toBe(200)
    expect(await names()).toEqual([])
    expect((await put(aroha, 'NZ-OTA')).status).toBe(200)
  })
})

describe('a site’s own days', () => {
  it('are added once, changed, taken away and brought back by whoever looks after its places', async () => {
    expect(problemOf(await add(wanjiru))).toMatchObject({ status: 403, code: 'not-your-site' })
    const key = randomUUID()
    const [one, again] = [await add(ilse, {}, key), await add(ilse, {}, key)]
    expect([one.status, again.body.day.id]).toEqual([200, one.body.day.id])
    const { id, version } = one.body.day
    expect(await offOf(ilse, '2027-02-09', '2027-02-14')).toMatchObject([
      ['Heating is mended', 'away', '2027-02-09T23:00:00.000Z'],
    ])
    const change = (body: Record<string, unknown>) =>
      ilse.send('PUT', `/api/site-days/${id}`, { ...one.body.day, name: 'Heating', ...body })
    expect((await change({ version })).status).toBe(200)
    expect(problemOf(await change({ version }))).toMatchObject({ status: 409, code: 'stale' })
    expect((await ilse.send('DELETE', `/api/site-days/${id}`)).status).toBe(200)
    expect(await offOf(ilse, '2027-02-09', '2027-02-14')).toEqual([])
    expect((await ilse.send('POST', `/api/site-days/${id}/restore`, {})).status).toBe(200)
    expect(await offOf(ilse, '2027-02-09', '2027-02-14')).toMatchObject([
      ['Heating', 'away', '2027-02-09T23:00:00.000Z'],
    ])
    await ilse.send('DELETE', `/api/site-days/${id}`)
  })

  it('are kept by everybody of a site where nobody looks after its places', async () => {
    const made = await add(gita, {
      siteId: siteId('Kathmandu'),
      name: 'Losar',
      first: '2027-02-07',
      last: '2027-02-07',
    })
    expect(made.status, made.text).toBe(200)
    expect(await offOf(gita, '2027-02-06', '2027-02-09')).toMatchObject([
      ['Losar', 'away', '2027-02-06T18:15:00.000Z'],
    ])
    expect((await list(gita)).sites.filter((site) => site.mayChange).map((site) => site.siteId)).toEqual([
      siteId('Kathmandu'),
    ])
  })

  it('are refused in the wrong order, without a name, or for more than a year', async () => {
    const no = async (more: Record<string, unknown>) => problemOf(await add(ilse, more)).fields?.[0]?.path
    expect(await no({ last: '2027-02-01' })).toBe('last')
    expect(await no({ last: '2029-02-01' })).toBe('last')
    expect(await no({ name: '  ' })).toBe('name')
    expect(await no({ first: '2027-02-30' })).toBe('first')
    expect(await no({ first: '0000-01-01' })).toBe('first')
    expect(await no({ first: '9999-01-01', last: '9999-01-02' })).toBe('first')
  })

  it('are so many that nobody would have more', async () => {
    await marmot.pool.query(
      `insert into site_day (site_id, days, name, kind, shut)
       select $1, daterange(date '2029-01-01' + n, date '2029-01-02' + n), 'Filled ' || n, 'closed', false
         from generate_series(1, 400) n`,
      [siteId('Innsbruck')],
    )
    expect(problemOf(await add(ilse))).toMatchObject({ status: 422, code: 'too-many-days' })
    await marmot.pool.query("delete from site_day where name like 'Filled %'")
  })

  it('close its places where nobody gets in, which is said of what is reserved', async () => {
    const serac = await marmot.placeId('Serac')
    const then = { starts: '2027-06-16T10:00', places: [serac], people: [] }
    expect((await ilse.send('POST', '/api/meetings', aMeeting({ ...then, title: 'Before' }))).status).toBe(
      200,
    )
    const shut = await add(ilse, { first: '2027-06-16', last: '2027-06-17', name: 'No power', shut: true })
    expect(shut.body.reservations).toBe(1)
    const { body } = await ilse.get<{ resources: Resource[] }>('/api/resources')
    const closed = (name: string) =>
      body.resources.find((one) => one.name === name)?.closed.some((one) => one.reason === 'No power')
    expect([closed('Serac'), closed('Thermal drone 1')]).toEqual([true, true])
    const late = await ilse.send('POST', '/api/meetings', aMeeting({ ...then, starts: '2027-06-17T10:00' }))
    expect(late.status).toBeGreaterThanOrEqual(400)
    expect(late.text).toContain('No power')
    await ilse.send('DELETE', `/api/site-days/${shut.body.day.id}`)
  })

  it('are no public holidays, which stay as they are, but can be worked on by the site', async () => {
    const epiphany = (await list()).days.find(
      (day) => day.siteId === siteId('Innsbruck') && day.name === 'Epiphany',
    )
    const renamed = { ...epiphany, name: 'Three Kings' }
    expect(problemOf(await ilse.send('PUT', `/api/site-days/${epiphany?.id}`, renamed))).toMatchObject({
      code: 'public-holiday',
    })
    await ilse.send('DELETE', `/api/site-days/${epiphany?.id}`)
    expect(await offOf(ilse, '2027-01-05', '2027-01-08')).toEqual([])
    await ilse.send('POST', `/api/site-days/${epiphany?.id}/restore`, {})
    expect(await offOf(ilse, '2027-01-05', '2027-01-08')).toMatchObject([
      ['Epiphany', 'away', '2027-01-05T23:00:00.000Z'],
    ])
  })

  it('go out as iCalendar that another program reads', async () => {
    const { text } = await ilse.get<string>(`/api/sites/${siteId('Innsbruck')}/holidays/file`)
    const events = Object.values(ical.sync.parseICS(text)).flatMap((one) =>
      one?.type === 'VEVENT' ? [one] : [],
    )
    expect(events.map((one) => one.summary)).toContain('Epiphany')
    expect(events.every((one) => one.datetype === 'date')).toBe(true)
  })
})

describe('whoever works on a day off', () => {
  it('is not away then, alone', async () => {
    const works = (yes: boolean) => ilse.send('PUT', '/api/site-days/worked/2026-12-08', { works: yes })
    await works(true)
    await works(true)
    expect((await list()).worked).toEqual(['2026-12-08'])
    expect(await offOf(ilse, '2026-12-07', '2026-12-10')).toEqual([])
    const matteo = await marmot.as('Matteo Ruprechter')
    expect(await offOf(matteo, '2026-12-07', '2026-12-10')).toHaveLength(1)
    const none = await ilse.send('PUT', '/api/site-days/worked/2026-12-09', { works: true })
    expect(problemOf(none)).toMatchObject({ status: 422, code: 'no-day-off' })
    await works(false)
    expect(await offOf(ilse, '2026-12-07', '2026-12-10')).toHaveLength(1)
  })
})

describe('an invitation to a series', () => {
  it('says which of its dates are days off', async () => {
    const entryId = await marmot.sendMeeting(ilse, {
      title: 'Weekly sounding',
      starts: '2026-12-01T14:00',
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
      people: [{ id: (await marmot.as('Matteo Ruprechter')).person.id, required: true }],
      places: [],
    })
    const matteo = await marmot.as('Matteo Ruprechter')
    const { body } = await matteo.get<{ dates: { clash: { title: string } | null }[] }>(
      `/api/meetings/${entryId}/dates`,
    )
    expect(body.dates.map((date) => date.clash?.title)[1]).toBe('Immaculate Conception')
  })
})
