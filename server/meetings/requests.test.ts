import type { Request } from '@marmot/contract/asked'
import type { Meeting } from '@marmot/contract/meetings'
import type { ReservationOnWire } from '@marmot/contract/resources'
import { HOUR } from '@marmot/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  aMeeting,
  type Client,
  problemOf,
  startTestMarmot,
  TEST_START,
  type TestMarmot,
} from '../testing/marmot.ts'
import { lapseRequests } from './requests.ts'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
let lab: string
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
  lab = await marmot.placeId('Thin-section lab')
})
afterAll(() => marmot.stop())

interface Now {
  requests: Request[]
  notices: { kind: string; message: string; who: string; entryId: string }[]
}
const nowOf = async (who: Client) => (await who.get<Now>('/api/now')).body

const ask = (starts: string, more: Record<string, unknown> = {}) =>
  marmot.reserve(ilse, 'Thin-section lab', starts, { title: 'Ammonite', purpose: 'Sections', ...more })
const decide = (who: Client, entryId: string, body: Record<string, unknown>, headers = {}) =>
  who.send<{ dates: number }>('POST', `/api/requests/${entryId}/${lab}`, body, headers)
const lettersOf = (entryId: string) =>
  marmot.letters(ilse.person.address, entryId).map((one) => [one.subject, one.where])
const GRANTED = 'Thin-section lab, Innsbruck'
const ASKED = 'Thin-section lab, Innsbruck (asked for, not granted yet)'

describe('a place whose steward decides', () => {
  it('is held while they do, for all dates at once; granted, it is had, and whoever asked is told', async () => {
    const entryId = await ask('2027-01-05T10:00', { series: { rule: 'FREQ=WEEKLY;COUNT=2', changes: [] } })
    expect(await marmot.statesOf(entryId)).toEqual(['requested', 'requested'])
    // It keeps others out meanwhile.
    const other = await matteo.send(
      'POST',
      '/api/meetings',
      aMeeting({ starts: '2027-01-05T10:30', places: [lab] }),
    )
    expect(problemOf(other)).toMatchObject({ status: 409, code: 'place-taken' })
    const { requests, notices } = await nowOf(matteo)
    expect(requests.find((one) => one.entryId === entryId)).toMatchObject({
      place: 'Thin-section lab',
      by: 'Ilse Brandacher',
      purpose: 'Sections',
      dates: [{ start: '2027-01-05T09:00:00.000Z' }, { start: '2027-01-12T09:00:00.000Z' }],
      // Two days after it was asked for.
      lapses: expect.stringMatching(/^2026-11-25T08:1/),
    })
    expect(notices).toContainEqual(
      expect.objectContaining({
        kind: 'asked',
        entryId,
        who: 'Ilse Brandacher',
        message: 'Thin-section lab',
      }),
    )
    expect(JSON.stringify(notices)).not.toContain('Ammonite')
    expect((await ilse.get<Meeting>(`/api/meetings/${entryId}`)).body.places).toMatchObject([
      { requested: true },
    ])
    await marmot.quiet()

    expect((await decide(matteo, entryId, { grant: true, words: 'Mind the saw' })).body).toMatchObject({
      dates: 2,
    })
    expect(await marmot.statesOf(entryId)).toEqual(['taken', 'taken'])
    await marmot.quiet()
    expect(lettersOf(entryId)).toEqual([
      ['Reserved: Ammonite, first Tue 5 Jan 10:00', ASKED],
      ['Changed: Ammonite, next Tue 5 Jan 10:00', GRANTED],
    ])
    expect((await nowOf(ilse)).notices).toContainEqual(
      expect.objectContaining({
        kind: 'granted',
        who: 'Matteo Ruprechter',
        message: 'Thin-section lab: Mind the saw',
      }),
    )
    expect((await nowOf(matteo)).requests.map((one) => one.entryId)).not.toContain(entryId)
    expect(problemOf(await decide(matteo, entryId, { grant: false }))).toMatchObject({
      status: 409,
      code: 'nothing-asked',
    })
  })

  it('refused, is free again; a reservation of it alone is over, with the reason; a meeting goes on without it', async () => {
    const entryId = await ask('2027-01-06T10:00')
    await marmot.quiet()
    await decide(matteo, entryId, { grant: false, words: 'The saw is away. Thursday at ten?' })
    expect(await marmot.statesOf(entryId)).toEqual([])
    await marmot.quiet()
    const [, refusal] = marmot.letters(ilse.person.address, entryId)
    expect(refusal?.subject).toBe('Cancelled: Ammonite, Wed 6 Jan 10:00')
    expect(refusal?.text).toContain('The saw is away. Thursday at ten?')

    const tashi = await marmot.as('Tashi Lhendup')
    const meeting = await ask('2027-01-07T10:00', { people: [{ id: tashi.person.id, required: true }] })
    await marmot.quiet()
    await decide(matteo, meeting, { grant: false })
    expect((await ilse.get<Meeting>(`/api/meetings/${meeting}`)).body).toMatchObject({
      cancelled: false,
      place: '',
    })
  })

  it('lapses by itself, once, also where somebody else had it first; and whoever asked is told', async () => {
    const lapse = (now: number) => lapseRequests({ pool: marmot.pool, clock: () => now })
    const entryId = await ask('2027-01-08T10:00')
    const late = TEST_START + 49 * HOUR
    await lapse(TEST_START + 47 * HOUR)
    expect(await marmot.statesOf(entryId)).toEqual(['requested'])
    await lapse(late)
    await lapse(late)
    expect(await marmot.statesOf(entryId)).toEqual([])
    const lapsed = async (id: string) =>
      (await nowOf(ilse)).notices.filter((one) => one.kind === 'lapsed' && one.entryId === id).length
    expect(await lapsed(entryId)).toBe(1)

    const second = await ask('2027-01-11T10:00')
    await marmot.pool.query(
      `update reservation set lapses_at = $2 where occurrence_id in (select id from occurrence where entry_id = $1)`,
      [second, new Date(TEST_START - 1000)],
    )
    const taken = await matteo.send(
      'POST',
      '/api/meetings',
      aMeeting({ starts: '2027-01-11T10:00', places: [lab] }),
    )
    expect(taken.status).toBe(200)
    expect(await marmot.statesOf(second)).toEqual([])
    await lapse(TEST_START)
    expect(await lapsed(second)).toBe(1)
    expect(problemOf(await decide(matteo, second, { grant: true })).code).toBe('nothing-asked')
  })

  it('is had at once by its own steward, and asked for anew when it is moved', async () => {
    const own = await matteo.send<{ entryId: string }>(
      'POST',
      '/api/meetings',
      aMeeting({ starts: '2027-01-13T10:00', places: [lab] }),
    )
    expect(await marmot.statesOf(own.body.entryId)).toEqual(['taken'])
    const entryId = await ask('2027-01-14T10:00')
    await decide(matteo, entryId, { grant: true })
    const change = (body: Record<string, unknown>) =>
      ilse.send<{ changeId: string }>('POST', `/api/meetings/${entryId}/change`, body)
    expect((await change({ version: 1, title: 'Belemnite' })).status).toBe(200)
    expect(await marmot.statesOf(entryId)).toEqual(['taken'])
    const moved = await change({ version: 2, starts: '2027-01-14T11:00' })
    expect(await marmot.statesOf(entryId)).toEqual(['requested'])
    // Taken back it is what it was: granted.
    expect((await ilse.send('POST', `/api/changes/${moved.body.changeId}/undo`)).status).toBe(200)
    expect(await marmot.statesOf(entryId)).toEqual(['taken'])
  })

  it('is decided about by its steward alone, once however often they press, and shown as held to everybody else', async () => {
    const entryId = await ask('2027-01-15T10:00')
    expect((await decide(ilse, entryId, { grant: true })).status).toBe(404)
    expect(await marmot.statesOf(entryId)).toEqual(['requested'])
    const henrike = await marmot.as('Henrike Aasland')
    const { body } = await henrike.get<{ reservations: ReservationOnWire[] }>(
      '/api/reservations?from=2027-01-15T00:00:00Z&to=2027-01-16T00:00:00Z',
    )
    expect(body.reservations.find((one) => one.resourceId === lab)).toMatchObject({
      state: 'held',
      requested: true,
    })
    const pressed = await Promise.all(
      [1, 2, 3].map(() => decide(matteo, entryId, { grant: true }, { 'idempotency-key': 'twice' })),
    )
    expect(pressed.map((one) => one.status)).toEqual([200, 200, 200])
    const both = await ask('2027-01-18T10:00')
    const racing = await Promise.all([true, false].map((grant) => decide(matteo, both, { grant })))
    expect(racing.map((one) => one.status).sort()).toEqual([200, 409])
  })

  it('calls off the one date of a series that has nothing else, when it is refused; the others stand', async () => {
    const serac = await marmot.placeId('Serac')
    const changes = [{ recurrence: '2027-04-14T10:00', starts: '2027-04-14T10:00', places: [lab] }]
    const series = { rule: 'FREQ=WEEKLY;COUNT=3', changes }
    const entryId = await ask('2027-04-07T10:00', { places: [serac], series })
    expect(await marmot.statesOf(entryId)).toEqual(['taken', 'requested', 'taken'])
    await decide(matteo, entryId, { grant: false, words: 'The saw is away' })
    expect(await marmot.statesOf(entryId)).toEqual(['taken', 'taken'])
    const dates = await marmot.pool.query<{ date: string }>(
      "select to_char(recurrence, 'MM-DD') as date from occurrence where entry_id = $1 and gone_at is null order by 1",
      [entryId],
    )
    expect(dates.rows.map((row) => row.date)).toEqual(['04-07', '04-21'])
  })
})
