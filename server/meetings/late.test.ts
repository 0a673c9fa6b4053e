import type { Meeting } from '@marmot/contract/meetings'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
let now = 0
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
  now = Date.parse((await ilse.get<{ now: string }>('/api/session')).body.now)
})
afterAll(() => marmot.stop())

const meet = (title: string, more: Record<string, unknown> = {}) =>
  marmot.sendMeeting(ilse, {
    title,
    people: [{ id: matteo.person.id, required: true }],
    guests: [],
    starts: '2026-12-03T18:00',
    ...more,
  })
const seen = async (entryId: string): Promise<Meeting> =>
  (await matteo.get<Meeting>(`/api/meetings/${entryId}`)).body
const answer = (entryId: string, said: string, more: Record<string, unknown> = {}) =>
  matteo.send('POST', `/api/meetings/${entryId}/answer`, { answer: said, message: '', ...more })
const minutesAgo = (minutes: number) => new Date(now - minutes * 60_000).toISOString()
const move = async (entryId: string, more: Record<string, unknown>) => {
  const { version } = await seen(entryId)
  await ilse.send('POST', `/api/meetings/${entryId}/change`, { version, ...more })
  await marmot.quiet()
}

describe('an answer that was given without a connection and comes later', () => {
  it('counts, also twice, and a change of words alone does not stop it', async () => {
    const entryId = await meet('Rope inspection')
    const late = { given: minutesAgo(30), version: (await seen(entryId)).version }
    await move(entryId, { note: '<p>Bring the long one.</p>' })
    expect((await answer(entryId, 'accepted', { late })).status).toBe(200)
    expect((await answer(entryId, 'accepted', { late })).status).toBe(200)
    expect((await seen(entryId)).myAnswer).toBe('accepted')
    const { notices } = (await ilse.get<{ notices: { entryId: string | null }[] }>('/api/now')).body
    expect(notices.filter((one) => one.entryId === entryId)).toHaveLength(1)
  })

  it('is refused where the meeting was moved meanwhile, and says to when', async () => {
    const entryId = await meet('Anchor drill')
    const late = { given: minutesAgo(30), version: (await seen(entryId)).version }
    await move(entryId, { starts: '2026-12-04T10:00' })
    const refused = await answer(entryId, 'accepted', { late })
    expect(problemOf(refused)).toMatchObject({
      code: 'moved-meanwhile',
      more: { start: '2026-12-04T09:00:00.000Z' },
    })
    expect((await seen(entryId)).myAnswer).toBe('needs-action')
    expect(
      (await answer(entryId, 'accepted', { late: { ...late, version: (await seen(entryId)).version } }))
        .status,
    ).toBe(200)
  })

  it('is refused where it was cancelled meanwhile', async () => {
    const entryId = await meet('Cornice watch')
    const late = { given: minutesAgo(30), version: (await seen(entryId)).version }
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, { reason: '' })
    expect(problemOf(await answer(entryId, 'accepted', { late })).code).toBe('cancelled')
  })

  it('gives way to one that was given later on another device', async () => {
    const entryId = await meet('Two telephones')
    const { version } = await seen(entryId)
    const later = { given: minutesAgo(5), version }
    expect((await answer(entryId, 'declined', { late: later })).status).toBe(200)
    const refused = await answer(entryId, 'accepted', { late: { given: minutesAgo(30), version } })
    expect(problemOf(refused)).toMatchObject({ code: 'answered-meanwhile', more: { answer: 'declined' } })
    expect((await seen(entryId)).myAnswer).toBe('declined')
  })

  it('never stands as given in the future', async () => {
    const entryId = await meet('A clock that is fast')
    const { version } = await seen(entryId)
    await answer(entryId, 'declined', { late: { given: minutesAgo(-600), version } })
    expect((await answer(entryId, 'accepted', { late: { given: minutesAgo(-1), version } })).status).toBe(200)
  })

  it('is for one date of a series where it says so', async () => {
    const entryId = await meet('Snow pit', { series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] } })
    const late = { given: minutesAgo(30), version: (await seen(entryId)).version }
    const second = '2026-12-10T18:00'
    expect((await answer(entryId, 'accepted', { late, recurrence: second })).status).toBe(200)
    const on = await matteo.get<Meeting>(`/api/meetings/${entryId}?recurrence=${second}`)
    expect([(await seen(entryId)).myAnswer, on.body.myAnswer]).toEqual(['needs-action', 'accepted'])
  })
})

describe('an answer that is taken back', () => {
  it('is none any more, and the organizer is told that', async () => {
    const entryId = await meet('Said too early')
    await answer(entryId, 'declined')
    expect((await answer(entryId, 'needs-action')).status).toBe(200)
    expect((await seen(entryId)).myAnswer).toBe('needs-action')
    const mine = (await seen(entryId)).participants.find((one) => one.personId === matteo.person.id)
    expect(mine).toMatchObject({ answer: 'needs-action', answeredAt: null })
    const { notices, organized } = (
      await ilse.get<{ notices: { entryId: string; answer: string }[]; organized: Meeting[] }>('/api/now')
    ).body
    expect(notices.filter((one) => one.entryId === entryId).map((one) => one.answer)).toEqual([
      'needs-action',
      'declined',
    ])
    expect(organized.find((one) => one.entryId === entryId)).toBeDefined()
    const { toAnswer } = (await matteo.get<{ toAnswer: Meeting[] }>('/api/now')).body
    expect(toAnswer.map((one) => one.entryId)).toContain(entryId)
  })

  it('of one date leaves the others as they are', async () => {
    const entryId = await meet('Snow pits', { series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] } })
    const second = '2026-12-10T18:00'
    await answer(entryId, 'accepted')
    await answer(entryId, 'declined', { recurrence: second })
    await answer(entryId, 'accepted', { recurrence: second })
    const on = await matteo.get<Meeting>(`/api/meetings/${entryId}?recurrence=${second}`)
    expect([(await seen(entryId)).myAnswer, on.body.myAnswer]).toEqual(['accepted', 'accepted'])
  })
})
