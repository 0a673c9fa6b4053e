import type { Meeting } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import type { ReservationOnWire } from '@marmot/contract/resources'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { aMeeting, type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

const GUEST = 'noor.haddad@lodestar.example'
const TASHI = 'tashi.lhendup@corrie.example'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
let serac: string
let col: string
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
  serac = await marmot.placeId('Serac')
  col = await marmot.placeId('Col')
})
afterAll(() => marmot.stop())

const guest = { address: GUEST, name: 'Noor Haddad', required: true }

const send = async (more: Record<string, unknown> = {}) => {
  const people = [{ id: tashi.person.id, required: true }]
  const made = await ilse.send<{ entryId: string; changeId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({ people, guests: [guest], ...more }),
  )
  expect([made.status, made.text]).toEqual([200, expect.anything()])
  return made.body
}

const change = (entryId: string, version: number, more: Record<string, unknown>, who = ilse) =>
  who.send<{ version: number; changeId: string }>('POST', `/api/meetings/${entryId}/change`, {
    version,
    ...more,
  })

const read = async (entryId: string, date?: string): Promise<Meeting> =>
  (await ilse.get<Meeting>(`/api/meetings/${entryId}${date ? `?recurrence=${date}` : ''}`)).body

const answers = async (entryId: string, date?: string) =>
  Object.fromEntries((await read(entryId, date)).participants.map((one) => [one.name, one.answer]))

const taken = async (placeId: string) =>
  (
    await ilse.get<{ reservations: ReservationOnWire[] }>(
      `/api/reservations?from=2026-12-01T00:00:00Z&to=2027-01-31T00:00:00Z&places=${placeId}`,
    )
  ).body.reservations
    .filter((one) => one.title?.startsWith('Moraine'))
    .map((one) => ({ id: one.id, start: one.start.slice(5, 16) }))

describe('a single meeting that is moved', () => {
  it('takes its place along, asks again, and tells each once what was and what is', async () => {
    const { entryId } = await send({ title: 'Moraine walk', places: [serac], starts: '2026-12-03T18:00' })
    await marmot.quiet()
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    const [before] = await taken(serac)
    const moved = await change(entryId, 1, { starts: '2026-12-04T19:00' })
    expect(moved.status).toBe(200)
    expect(await taken(serac)).toEqual([{ id: before?.id, start: '12-04T18:00' }])
    expect(await answers(entryId)).toMatchObject({
      'Ilse Brandacher': 'accepted',
      'Tashi Lhendup': 'needs-action',
      'Noor Haddad': 'needs-action',
    })
    await marmot.quiet()
    expect(marmot.letters(GUEST, entryId)).toMatchObject([
      { kind: 'Invitation', sequence: '0', start: '20261203T180000', where: 'Serac, Innsbruck' },
      { kind: 'Changed', sequence: '1', start: '20261204T190000', where: 'Serac, Innsbruck' },
    ])
    const [, told] = marmot.letters(GUEST, entryId)
    expect(told?.text).toContain('Please answer again.')
    expect(told?.text).toMatch(/When: +Friday 4 December, 19:00.*\nBefore: +Thursday 3 December, 18:00/)
    const now = await tashi.get<{ notices: Notice[]; toAnswer: Meeting[] }>('/api/now')
    expect(now.body.notices).toContainEqual(
      expect.objectContaining({ kind: 'changed', title: 'Moraine walk', who: 'Ilse Brandacher' }),
    )
    expect(now.body.toAnswer.map((one) => one.entryId)).toContain(entryId)
  })

  it('exchanges its place, or keeps it and everything else when the other cannot be had', async () => {
    const { entryId } = await send({ title: 'Moraine plan', places: [serac], starts: '2026-12-07T18:00' })
    const other = await send({ title: 'In the way', places: [col], starts: '2026-12-08T18:00' })
    const refused = await change(entryId, 1, { starts: '2026-12-08T18:00', places: [col] })
    expect(problemOf(refused)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(await read(entryId)).toMatchObject({ version: 1, place: 'Serac, Innsbruck' })
    expect(await taken(serac)).toContainEqual(expect.objectContaining({ start: '12-07T17:00' }))
    await ilse.send('POST', `/api/meetings/${other.entryId}/cancel`, {})
    expect((await change(entryId, 1, { starts: '2026-12-08T18:00', places: [col] })).status).toBe(200)
    expect(await read(entryId)).toMatchObject({ place: 'Col, Innsbruck', start: '2026-12-08T17:00:00.000Z' })
    expect(await taken(serac)).not.toContainEqual(expect.objectContaining({ start: '12-07T17:00' }))
  })

  it('whose title alone is corrected keeps the answers, and the letter says so', async () => {
    const { entryId } = await send({ title: 'Moraine tallk', starts: '2026-12-09T18:00' })
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'tentative' })
    await change(entryId, 1, { title: 'Moraine talk' })
    await marmot.quiet()
    expect(await answers(entryId)).toMatchObject({ 'Tashi Lhendup': 'tentative' })
    const [, told] = marmot.letters(TASHI, entryId)
    expect(told).toMatchObject({ kind: 'Changed', sequence: '0' })
    expect(told?.text).toContain('Your answer stands.')
    expect(told?.text).toMatch(/Before: +Moraine tallk/)
  })

  it('to which one is added, and from which another is let off, tells those two alone', async () => {
    const { entryId } = await send({ title: 'Moraine people', starts: '2026-12-10T18:00' })
    await marmot.quiet()
    const matteo = await marmot.personId('Matteo Ruprechter')
    const people = [
      { id: tashi.person.id, required: true },
      { id: matteo, required: false },
    ]
    expect((await change(entryId, 1, { people, guests: [] })).status).toBe(200)
    await marmot.quiet()
    expect(marmot.letters(TASHI, entryId)).toHaveLength(1)
    expect(marmot.letters('matteo.ruprechter@corrie.example', entryId)).toMatchObject([
      { kind: 'Invitation' },
    ])
    expect(marmot.letters(GUEST, entryId)).toMatchObject([
      { kind: 'Invitation' },
      { kind: 'You are not expected' },
    ])
    expect(Object.keys(await answers(entryId)).sort()).toEqual([
      'Ilse Brandacher',
      'Matteo Ruprechter',
      'Tashi Lhendup',
    ])
  })

  it('says nothing of what becomes of it to whoever was let off', async () => {
    const { entryId } = await send({ title: 'Moraine known', starts: '2026-12-11T18:00', guests: [] })
    await change(entryId, 1, { people: [], guests: [guest] })
    await change(entryId, 2, { title: 'Quillwort secret' })
    const now = await tashi.get<{ notices: Notice[] }>('/api/now')
    expect(now.text).not.toContain('Quillwort')
    expect(now.body.notices).toContainEqual(
      expect.objectContaining({ kind: 'cancelled', title: 'Moraine known' }),
    )
    expect((await tashi.get(`/api/meetings/${entryId}`)).status).toBe(404)
  })

  it('comes back whole when that is taken back: people, answers, time and place', async () => {
    const { entryId } = await send({ title: 'Moraine undone', places: [serac], starts: '2026-12-14T18:00' })
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted', message: 'With boots' })
    const before = await read(entryId)
    const place = await taken(serac)
    const moved = await change(entryId, 1, { starts: '2026-12-15T18:00', places: [col], guests: [] })
    await marmot.quiet()
    expect((await ilse.send('POST', `/api/changes/${moved.body.changeId}/undo`)).status).toBe(200)
    const after = await read(entryId)
    expect(after).toMatchObject({ start: before.start, place: before.place, version: 3 })
    expect(after.participants.map((one) => [one.id, one.name]).sort()).toEqual(
      before.participants.map((one) => [one.id, one.name]).sort(),
    )
    expect(await taken(serac)).toEqual(place)
    await marmot.quiet()
    // All were told of the move, so all are told that it is as it was, and asked again.
    expect(marmot.letters(TASHI, entryId).map((one) => [one.kind, one.start])).toEqual([
      ['Invitation', '20261214T180000'],
      ['Changed', '20261215T180000'],
      ['Changed', '20261214T180000'],
    ])
    expect(marmot.letters(GUEST, entryId).map((one) => one.kind)).toEqual([
      'Invitation',
      'You are not expected',
      'Invitation',
    ])
    expect(await answers(entryId)).toMatchObject({ 'Tashi Lhendup': 'needs-action' })
  })

  it('cannot be taken back when its place is somebody else’s by now, and stays as it is', async () => {
    const { entryId } = await send({ title: 'Moraine late', places: [serac], starts: '2026-12-16T18:00' })
    const moved = await change(entryId, 1, { starts: '2026-12-17T18:00' })
    await send({ title: 'Quicker', places: [serac], starts: '2026-12-16T18:00' })
    const undone = await ilse.send('POST', `/api/changes/${moved.body.changeId}/undo`)
    expect(problemOf(undone)).toMatchObject({ status: 409, code: 'place-taken' })
    expect(await read(entryId)).toMatchObject({ start: '2026-12-17T17:00:00.000Z', version: 2 })
  })

  it('goes where it was sent, whatever date somebody calls it, and once however often that is asked', async () => {
    const { entryId } = await send({ title: 'Moraine date', starts: '2026-12-28T18:00' })
    const body = { version: 1, recurrence: '2026-12-01T09:00', starts: '2026-12-29T17:00' }
    const ask = () =>
      ilse.send<{ version: number }>('POST', `/api/meetings/${entryId}/change`, body, {
        'idempotency-key': `moraine ${entryId}`,
      })
    const [first, again] = [await ask(), await ask()]
    expect([first.status, again.text]).toEqual([200, first.text])
    expect(await read(entryId)).toMatchObject({ start: '2026-12-29T16:00:00.000Z', version: 2 })
    await marmot.quiet()
    expect(marmot.letters(TASHI, entryId)).toHaveLength(2)
  })

  it('by two at once is changed by one, and the other sees what it has become', async () => {
    const { entryId } = await send({ title: 'Moraine twice', starts: '2026-12-18T18:00' })
    const both = await Promise.all([
      change(entryId, 1, { starts: '2026-12-19T18:00' }),
      change(entryId, 1, { title: 'Moraine otherwise' }),
    ])
    expect(both.map((one) => one.status).sort()).toEqual([200, 409])
    const stale = both.find((one) => one.status === 409)
    expect(stale && problemOf(stale)).toMatchObject({ code: 'stale', more: { newest: { entryId } } })
  })

  it('onto a place that is taken is offered others that seat those who will be there', async () => {
    const at = { starts: '2026-12-23T18:00' }
    await send({ title: 'Moraine was first', ...at, places: [serac] })
    const { entryId } = await send({ title: 'Moraine grows', ...at })
    const guests = Array.from({ length: 11 }, (_, i) => ({
      address: `walker-${i}@lodestar.example`,
      name: 'Walker',
      required: true,
    }))
    const refused = await change(entryId, 1, { places: [serac], guests })
    expect(problemOf(refused)).toMatchObject({ code: 'place-taken' })
    const { free } = problemOf(refused).more as { free: { name: string; seats: number }[] }
    expect(free.map((one) => one.name)).toContain('Col')
    expect(free.filter((one) => one.seats < 12)).toEqual([])
  })

  it('is nobody’s to change but its organizer’s and their stand-ins’, and not once it was cancelled', async () => {
    const { entryId } = await send({ title: 'Moraine mine', starts: '2026-12-21T18:00' })
    expect((await change(entryId, 1, { title: 'Theirs' }, tashi)).status).toBe(404)
    expect((await change(entryId, 1, { starts: '2026-11-01T10:00' })).status).toBe(422)
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})
    expect(problemOf(await change(entryId, 2, { title: 'Too late' }))).toMatchObject({ code: 'cancelled' })
  })

  it('that was cancelled is on again when that is taken back, with its place', async () => {
    const { entryId } = await send({ title: 'Moraine again', places: [col], starts: '2026-12-22T18:00' })
    await marmot.quiet()
    const off = await ilse.send<{ changeId: string }>('POST', `/api/meetings/${entryId}/cancel`, {})
    await marmot.quiet()
    expect((await ilse.send('POST', `/api/changes/${off.body.changeId}/undo`)).status).toBe(200)
    await marmot.quiet()
    expect(await read(entryId)).toMatchObject({ cancelled: false, place: 'Col, Innsbruck' })
    expect(marmot.letters(GUEST, entryId).map((one) => one.kind)).toEqual([
      'Invitation',
      'Cancelled',
      'Invitation',
    ])
  })
})

describe('cancelling with a reason', () => {
  const calendars = (entryId: string) =>
    marmot.mail.mailboxes
      .of(GUEST)
      .filter((one) => one.calendar?.includes(entryId) && one.method === 'CANCEL')
      .map((one) => ({ comment: /COMMENT:(.*)/.exec(one.calendar ?? '')?.[1]?.trim(), text: one.text }))

  it('tells it in the letter, on the screen and on the guest’s page, until it is taken back', async () => {
    const { entryId } = await send({ title: 'Moraine off', starts: '2026-12-30T18:00' })
    await marmot.quiet()
    const off = await ilse.send<{ changeId: string }>('POST', `/api/meetings/${entryId}/cancel`, {
      reason: 'The ropeway stands still',
    })
    await marmot.quiet()
    expect(calendars(entryId)).toMatchObject([{ comment: 'The ropeway stands still' }])
    expect(calendars(entryId)[0]?.text).toMatch(/Why: +The ropeway stands still/)
    expect(await read(entryId)).toMatchObject({ cancelled: true, cancelReason: 'The ropeway stands still' })
    const now = await tashi.get<{ notices: Notice[] }>('/api/now')
    expect(now.body.notices).toContainEqual(
      expect.objectContaining({ kind: 'cancelled', message: 'The ropeway stands still' }),
    )
    await ilse.send('POST', `/api/changes/${off.body.changeId}/undo`)
    expect(await read(entryId)).toMatchObject({ cancelled: false, cancelReason: '' })
  })

  it('is of one date where one is cancelled, and nobody’s who was let off', async () => {
    const { entryId } = await send({
      title: 'Moraine once off',
      starts: '2026-12-02T06:30',
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
    })
    await marmot.quiet()
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {
      recurrence: '2026-12-09T06:30',
      reason: 'Stocktaking',
    })
    await marmot.quiet()
    expect(calendars(entryId)).toMatchObject([{ comment: 'Stocktaking' }])
    await change(entryId, 2, { guests: [] })
    await marmot.quiet()
    expect(calendars(entryId).map((one) => one.comment)).toEqual([undefined, 'Stocktaking'])
  })
})

describe('a series', () => {
  const series = (more: Record<string, unknown> = {}) =>
    send({
      starts: '2026-12-03T20:30',
      minutes: 45,
      places: [serac],
      series: { rule: 'FREQ=WEEKLY;COUNT=4', changes: [] },
      ...more,
    })
  const [FIRST, SECOND] = ['2026-12-03T20:30', '2026-12-10T20:30']

  it('of which one date is moved tells of that date, asks for it again, and its place goes along', async () => {
    const { entryId } = await series({ title: 'Moraine weekly' })
    await marmot.quiet()
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    const before = await taken(serac)
    const moved = await change(entryId, 1, { recurrence: SECOND, scope: 'this', starts: '2026-12-11T21:00' })
    expect([moved.status, moved.text]).toEqual([200, expect.anything()])
    await marmot.quiet()
    expect(marmot.letters(GUEST, entryId)).toMatchObject([
      { kind: 'Invitation', date: null },
      { kind: 'Changed, this date only', date: '20261210T203000', start: '20261211T210000' },
    ])
    expect(await answers(entryId, SECOND)).toMatchObject({ 'Tashi Lhendup': 'needs-action' })
    expect(await answers(entryId, FIRST)).toMatchObject({ 'Tashi Lhendup': 'accepted' })
    const after = await taken(serac)
    expect(after.map((one) => one.id)).toEqual(before.map((one) => one.id))
    expect(after.map((one) => one.start)).toContain('12-11T20:00')
    await ilse.send('POST', `/api/changes/${moved.body.changeId}/undo`)
    expect(await taken(serac)).toEqual(before)
    expect(await read(entryId, SECOND)).toMatchObject({ start: '2026-12-10T19:30:00.000Z' })
  })

  it('of which one date is elsewhere says so of that date alone', async () => {
    const { entryId } = await series({ title: 'Moraine elsewhere', places: [], starts: '2026-12-03T07:00' })
    await marmot.quiet()
    await change(entryId, 1, { recurrence: '2026-12-10T07:00', scope: 'this', places: [col] })
    await marmot.quiet()
    expect(marmot.letters(TASHI, entryId)).toMatchObject([
      { kind: 'Invitation', where: null },
      { kind: 'Changed, this date only', date: '20261210T070000', where: 'Col, Innsbruck' },
    ])
  })

  it('is not changed on one date that nobody named', async () => {
    const { entryId } = await series({ title: 'Moraine which', places: [], starts: '2026-12-03T05:00' })
    expect(problemOf(await change(entryId, 1, { scope: 'this', title: 'One of them' }))).toMatchObject({
      status: 422,
      code: 'which-date',
    })
  })

  it('is not moved so far that dates of it would be lost', async () => {
    const { entryId } = await series({ title: 'Moraine far', places: [], starts: '2026-12-03T06:00' })
    const far = await change(entryId, 1, { recurrence: '2026-12-03T06:00', starts: '2028-12-07T06:00' })
    expect(problemOf(far)).toMatchObject({ status: 422, code: 'series-too-far' })
    expect(await read(entryId, '2026-12-03T06:00')).toMatchObject({ version: 1 })
  })

  it('that moves as a whole keeps its dates’ names, places and what was said of single dates is asked again', async () => {
    const { entryId } = await series({ title: 'Moraine all', starts: '2027-01-07T06:00' })
    await marmot.quiet()
    const names = () =>
      marmot.pool
        .query<{ id: string }>(
          'select id from occurrence where entry_id = $1 and gone_at is null order by recurrence',
          [entryId],
        )
        .then((found) => found.rows.map((row) => row.id))
    const before = { names: await names(), places: await taken(serac) }
    await change(entryId, 1, { recurrence: '2027-01-14T06:00', starts: '2027-01-15T06:30' })
    expect(await names()).toEqual(before.names)
    const after = (await taken(serac)).filter((one) => one.start.startsWith('01'))
    expect(after.map((one) => one.id)).toEqual(
      before.places.filter((one) => one.start.startsWith('01')).map((one) => one.id),
    )
    expect(after[0]?.start).toBe('01-08T05:30')
    await marmot.quiet()
    expect(marmot.letters(GUEST, entryId)).toMatchObject([
      { kind: 'Invitation', sequence: '0' },
      { kind: 'Changed', sequence: '1', date: null, start: '20270108T063000' },
    ])
  })
})
