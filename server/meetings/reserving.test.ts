import type { OccurrenceOnWire } from '@marmot/contract/entries'
import type { Meeting } from '@marmot/contract/meetings'
import type { ReservationOnWire } from '@marmot/contract/resources'
import nodeIcal from 'node-ical'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

const reserve = (who: Client, more: Record<string, unknown>) =>
  who.send<{ entryId: string; changeId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({ title: 'Cutting cores', shows: 'listed', ...more }),
  )

const reserved = async (who: Client, more: Record<string, unknown>) => {
  const answer = await reserve(who, more)
  expect([answer.status, answer.text]).toEqual([200, expect.anything()])
  return answer.body
}

const taken = async (viewer: Client, day: string) =>
  (
    await viewer.get<{ reservations: ReservationOnWire[] }>(
      `/api/reservations?from=${day}T00:00:00Z&to=${day}T23:59:00Z`,
    )
  ).body.reservations

const change = async (who: Client, entryId: string, more: Record<string, unknown>) => {
  const { version } = (await who.get<Meeting>(`/api/meetings/${entryId}`)).body
  return who.send<{ changeId: string; told: number }>('POST', `/api/meetings/${entryId}/change`, {
    version,
    ...more,
  })
}

const ofEntry = async (entryId: string) =>
  (
    await marmot.pool.query<{ name: string; starts: string; state: string }>(
      `select p.name, to_char(lower(r.span) at time zone 'Europe/Vienna', 'DD HH24:MI') as starts, r.state
         from reservation r join occurrence o on o.id = r.occurrence_id join resource p on p.id = r.resource_id
        where o.entry_id = $1 and r.state <> 'released' order by lower(r.span), p.name`,
      [entryId],
    )
  ).rows.map((row) => `${row.starts} ${row.name}`)

describe('places reserved without a meeting', () => {
  it('are had all or none, take none of one’s own time, and are confirmed by a letter that asks nothing', async () => {
    const places = [await marmot.placeId('Serac'), await marmot.placeId('Col')]
    const { entryId } = await reserved(ilse, {
      starts: '2027-01-08T18:30',
      places,
      purpose: 'Sorting',
      headCount: 3,
      contact: { name: 'Ilse', address: 'ilse.brandacher@corrie.example', telephone: '+43 1' },
      note: '<p>Bring <b>boxes</b></p><script>alert(1)</script>',
    })
    const others = (await taken(tashi, '2027-01-08')).filter(
      (one) => one.start === '2027-01-08T17:30:00.000Z' && one.by === 'Ilse Brandacher',
    )
    expect(others.map((one) => one.resourceId).sort()).toEqual([...places].sort())
    const own = await ilse.get<{ occurrences: OccurrenceOnWire[] }>(
      '/api/entries?from=2027-01-08T00:00:00Z&to=2027-01-09T00:00:00Z',
    )
    expect(own.body.occurrences.find((one) => one.entryId === entryId)).toMatchObject({
      title: 'Cutting cores',
      state: 'listed',
      meeting: false,
      reserved: true,
      place: 'Col, Innsbruck; Serac, Innsbruck',
    })
    await marmot.quiet()
    const [letter, ...more] = marmot.letters('ilse.brandacher@corrie.example', entryId)
    expect(more).toEqual([])
    expect(letter?.subject).toBe('Reserved: Cutting cores, Fri 8 Jan 18:30')
    expect(letter?.text).toContain('This is reserved for you.')
    expect(letter?.calendar).toContain('METHOD:PUBLISH')
    expect(letter?.calendar).not.toContain('ATTENDEE')
    const event = Object.values(nodeIcal.sync.parseICS(letter?.calendar ?? '')).find(
      (each) => each?.type === 'VEVENT',
    )
    expect(event).toMatchObject({ summary: 'Cutting cores', location: 'Col, Innsbruck; Serac, Innsbruck' })
    expect((await ilse.get<Meeting>(`/api/meetings/${entryId}`)).body).toMatchObject({
      purpose: 'Sorting',
      headCount: 3,
      contact: { telephone: '+43 1' },
      note: '<p>Bring <b>boxes</b></p>',
    })
    const notices = await marmot.pool.query('select 1 from notice where entry_id = $1', [entryId])
    expect(notices.rowCount).toBe(0)

    // One of the two is taken now, so neither is had; who has it is said.
    const refused = await reserve(tashi, {
      starts: '2027-01-08T19:00',
      places: [places[0], await marmot.placeId('Moraine')],
    })
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(problemOf(refused).detail).toContain('Ilse Brandacher has it from 18:30 to 19:30')
    expect((await taken(tashi, '2027-01-08')).filter((one) => one.by === 'Tashi Lhendup')).toEqual([])
  })

  it('repeat with a date left out, move one by one, and are given back one by one', async () => {
    const [firn, moraine] = [await marmot.placeId('Firn'), await marmot.placeId('Moraine')]
    const { entryId } = await reserved(ilse, {
      starts: '2027-01-05T18:30',
      places: [firn],
      series: {
        rule: 'FREQ=WEEKLY;INTERVAL=2;COUNT=7',
        excepted: ['2027-01-19T18:30'],
        changes: [{ recurrence: '2027-02-02T18:30', starts: '2027-02-02T19:00', places: [moraine] }],
      },
    })
    expect(await ofEntry(entryId)).toEqual([
      '05 18:30 Firn',
      '02 19:00 Moraine',
      '16 18:30 Firn',
      '02 18:30 Firn',
      '16 18:30 Firn',
      '30 18:30 Firn',
    ])
    await marmot.quiet()
    const moved = await change(ilse, entryId, {
      recurrence: '2027-02-16T18:30',
      scope: 'this',
      places: [moraine],
    })
    expect(moved.status).toBe(200)
    await marmot.quiet()
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, { recurrence: '2027-01-05T18:30' })
    expect(await ofEntry(entryId)).toEqual([
      '02 19:00 Moraine',
      '16 18:30 Moraine',
      '02 18:30 Firn',
      '16 18:30 Firn',
      '30 18:30 Firn',
    ])
    await marmot.quiet()
    const letters = marmot.letters('ilse.brandacher@corrie.example', entryId)
    expect(letters.map((one) => one.subject)).toEqual([
      'Reserved: Cutting cores, first Tue 5 Jan 18:30',
      'Changed, this date only: Cutting cores, Tue 16 Feb 18:30',
      'Cancelled, this date only: Cutting cores, Tue 5 Jan 18:30',
    ])
  })

  it('are kept until what they are moved to is had', async () => {
    const [serac, firn] = [await marmot.placeId('Serac'), await marmot.placeId('Firn')]
    const { entryId } = await reserved(ilse, { starts: '2027-01-12T18:30', places: [serac] })
    await reserved(tashi, { starts: '2027-01-12T19:30', places: [firn] })
    const refused = await change(ilse, entryId, { starts: '2027-01-12T19:00', places: [firn] })
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(await ofEntry(entryId)).toEqual(['12 18:30 Serac'])
    const moved = await change(ilse, entryId, { starts: '2027-01-12T18:15', minutes: 75, places: [firn] })
    expect(moved.status).toBe(200)
    expect(await ofEntry(entryId)).toEqual(['12 18:15 Firn'])
    expect((await ilse.send('POST', `/api/changes/${moved.body.changeId}/undo`)).status).toBe(200)
    expect(await ofEntry(entryId)).toEqual(['12 18:30 Serac'])
  })

  it('are given back when their making is taken back, and had again when their end is, while they are free', async () => {
    const serac = await marmot.placeId('Serac')
    const first = await reserved(ilse, { starts: '2027-01-13T18:30', places: [serac] })
    expect((await ilse.send('POST', `/api/changes/${first.changeId}/undo`)).status).toBe(200)
    expect(await ofEntry(first.entryId)).toEqual([])

    const second = await reserved(ilse, { starts: '2027-01-13T18:30', places: [serac] })
    const end = await ilse.send<{ changeId: string }>('POST', `/api/meetings/${second.entryId}/cancel`, {})
    expect(await ofEntry(second.entryId)).toEqual([])
    expect((await ilse.send('POST', `/api/changes/${end.body.changeId}/undo`)).status).toBe(200)
    expect(await ofEntry(second.entryId)).toEqual(['13 18:30 Serac'])

    const again = await ilse.send<{ changeId: string }>('POST', `/api/meetings/${second.entryId}/cancel`, {})
    await reserved(tashi, { starts: '2027-01-13T19:00', places: [serac] })
    const late = await ilse.send('POST', `/api/changes/${again.body.changeId}/undo`)
    expect(problemOf(late)).toMatchObject({ status: 409, code: 'place-taken' })
  })

  it('become a meeting: the time stays and counts, who is invited is told, and it is cancelled for both', async () => {
    const { entryId } = await reserved(ilse, {
      starts: '2027-01-14T18:30',
      places: [await marmot.placeId('Col')],
      contact: { name: 'Ilse', address: '', telephone: '+43 2' },
    })
    const gained = await change(ilse, entryId, { people: [{ id: tashi.person.id, required: true }] })
    expect(gained.body).toMatchObject({ told: 1 })
    const theirs = await tashi.get<{ occurrences: OccurrenceOnWire[] }>(
      '/api/entries?from=2027-01-14T00:00:00Z&to=2027-01-15T00:00:00Z',
    )
    expect(theirs.body.occurrences.find((one) => one.entryId === entryId)).toMatchObject({
      shows: 'busy',
      meeting: true,
      place: 'Col, Innsbruck',
    })
    expect((await tashi.get<Meeting>(`/api/meetings/${entryId}`)).body.contact).toBeNull()
    await marmot.quiet()
    expect(marmot.letters(tashi.person.address, entryId).map((one) => one.subject)).toEqual([
      'Invitation: Cutting cores, Thu 14 Jan 23:15',
    ])
    // Whose it was knows of it already.
    expect(marmot.letters('ilse.brandacher@corrie.example', entryId)).toHaveLength(1)
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})
    await marmot.quiet()
    expect(marmot.letters('ilse.brandacher@corrie.example', entryId).at(-1)).toMatchObject({
      calendar: expect.stringContaining('METHOD:CANCEL'),
    })
    expect(marmot.letters(tashi.person.address, entryId)).toHaveLength(2)
  })

  it('can be had for somebody whom one acts for, who is told by whom', async () => {
    const henrike = await marmot.as('Henrike Aasland')
    const { entryId } = await reserved(ilse, {
      starts: '2027-01-15T18:30',
      places: [await marmot.placeId('Col')],
      of: henrike.person.id,
    })
    await marmot.quiet()
    const [letter] = marmot.letters(henrike.person.address, entryId)
    expect(letter?.text).toContain('Ilse Brandacher has reserved this for you.')
    expect((await taken(tashi, '2027-01-15')).map((one) => one.by)).toContain('Henrike Aasland')
    const refused = await reserve(tashi, {
      starts: '2027-01-15T20:30',
      places: [],
      of: henrike.person.id,
    })
    expect(refused.status).toBe(404)
  })

  it('are neither moved nor deleted as an entry that has no places', async () => {
    const { entryId } = await reserved(ilse, {
      starts: '2027-01-18T18:30',
      places: [await marmot.placeId('Col')],
    })
    const asEntry = { recurrence: '2027-01-18T18:30', version: 1 }
    const moved = await ilse.send('PUT', `/api/entries/${entryId}`, {
      ...asEntry,
      title: 'Away from its place',
      starts: '2027-01-18T20:30',
      minutes: 60,
      zone: 'Europe/Vienna',
    })
    expect(problemOf(moved)).toMatchObject({ status: 409, code: 'has-places' })
    const deleted = await ilse.send(
      'DELETE',
      `/api/entries/${entryId}?recurrence=${asEntry.recurrence}&version=1`,
    )
    expect(problemOf(deleted)).toMatchObject({ status: 409, code: 'has-places' })
    expect(await ofEntry(entryId)).toEqual(['18 18:30 Col'])
  })

  it.each([
    ['an end before its start', 422, 'ends-before-start', { minutes: -30 }],
    ['a series without an end', 422, 'series-too-long', { series: { rule: 'FREQ=DAILY', changes: [] } }],
    [
      'a series of which every date is left out',
      422,
      'no-dates',
      { series: { rule: 'FREQ=WEEKLY;COUNT=1', excepted: ['2027-01-20T18:30'], changes: [] } },
    ],
    ['a rule that is none', 422, 'bad-rule', { series: { rule: 'FREQ=SOMETIMES', changes: [] } }],
    ['fewer than nobody', 422, 'invalid', { headCount: -1 }],
    ['a time that is over', 422, 'in-the-past', { starts: '2026-01-20T18:30' }],
  ])('are refused in words: %s', async (_, status, code, more) => {
    const answer = await reserve(ilse, {
      title: 'Refused in words',
      starts: '2027-01-20T18:30',
      places: [await marmot.placeId('Col')],
      ...more,
    })
    expect([answer.status, problemOf(answer).code]).toEqual([status, expect.stringContaining(code)])
    expect((await marmot.pool.query("select 1 from entry where title = 'Refused in words'")).rowCount).toBe(0)
  })
})
