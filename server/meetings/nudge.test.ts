import type { Meeting } from '@marmot/contract/meetings'
import type { Notice } from '@marmot/contract/notices'
import { DAY, HOUR } from '@marmot/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, startTestMarmot, TEST_START, type TestMarmot } from '../testing/marmot.ts'
import { nudgeByItself } from './nudges.ts'

const GUEST = 'noor.haddad@lodestar.example'
const TASHI = 'tashi.lhendup@corrie.example'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

const send = async (title: string, more: Record<string, unknown> = {}) => {
  return marmot.sendMeeting(ilse, {
    title,
    people: [{ id: tashi.person.id, required: true }],
    guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
    starts: '2026-12-08T18:00',
    ...more,
  })
}

const nudge = async (entryId: string, body: Record<string, unknown> = {}, who = ilse) => {
  const answer = await who.send<{ nudged: string[]; lately: string[] }>(
    'POST',
    `/api/meetings/${entryId}/nudge`,
    body,
  )
  await marmot.quiet()
  return answer
}

const read = async (entryId: string): Promise<Meeting> =>
  (await ilse.get<Meeting>(`/api/meetings/${entryId}`)).body

/** As if so much time had gone by since all nudges: the oldest first, so that none comes to lie over one before it. */
const later = async (ms: number) => {
  const letters = await marmot.pool.query<{ id: string }>(
    'select id from letter where nudges is not null order by written_at',
  )
  for (const { id } of letters.rows)
    await marmot.pool.query(
      `update letter set written_at = written_at - $2::float8 * interval '1 millisecond',
              nudges = tstzrange(lower(nudges) - $2::float8 * interval '1 millisecond',
                                 upper(nudges) - $2::float8 * interval '1 millisecond')
        where id = $1`,
      [id, ms],
    )
}

describe('those who have not answered', () => {
  it('are asked once more, and nobody else: with the same SEQUENCE, by letter and on the screen', async () => {
    const entryId = await send('Nunatak asks')
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'tentative' })
    const other = await send('Nunatak asks Tashi')
    expect((await nudge(entryId)).body).toEqual({ nudged: ['Noor Haddad'], lately: [] })
    expect((await nudge(other)).body.nudged.sort()).toEqual(['Noor Haddad', 'Tashi Lhendup'])
    expect(marmot.letters(TASHI, entryId)).toHaveLength(1)
    expect(marmot.letters(GUEST, entryId)).toMatchObject([
      { kind: 'Invitation', sequence: '0' },
      { kind: 'Please answer', sequence: '0' },
    ])
    expect(marmot.letters(GUEST, entryId)[1]?.text).toContain('you have not answered yet')
    expect(marmot.letters(GUEST, entryId)[1]?.text).toContain('/i/')
    const now = await tashi.get<{ notices: Notice[] }>('/api/now')
    expect(now.body.notices).toContainEqual(
      expect.objectContaining({ kind: 'nudged', title: 'Nunatak asks Tashi', who: 'Ilse Brandacher' }),
    )
    const { participants } = await read(entryId)
    expect(participants.map((one) => [one.name, one.nudgedAt !== null])).toEqual([
      ['Ilse Brandacher', false],
      ['Noor Haddad', true],
      ['Tashi Lhendup', false],
    ])
  })

  it('are asked anew a day later where the letter before has not left yet', async () => {
    const entryId = await send('Nunatak asks in vain')
    await nudge(entryId)
    const asked = (state: string) =>
      marmot.pool.query(`update letter set ${state} where entry_id = $1 and number = 2`, [entryId])
    await asked("state = 'waiting', tried_at = null, sent_at = null")
    await later(DAY + HOUR)
    const again = await ilse.send<{ nudged: string[] }>('POST', `/api/meetings/${entryId}/nudge`, {})
    expect([again.status, again.body.nudged?.length]).toEqual([200, 2])
    await asked("state = 'failed'")
    await marmot.quiet()
    expect(marmot.letters(GUEST, entryId).map((one) => one.kind)).toEqual([
      'Invitation',
      'Please answer',
      'Please answer',
    ])
  })

  it('are asked by one, and never twice within a day', async () => {
    const entryId = await send('Nunatak daily')
    const noor = (await read(entryId)).participants.find((one) => one.name === 'Noor Haddad')
    expect((await nudge(entryId, { participant: noor?.id })).body.nudged).toEqual(['Noor Haddad'])
    expect((await nudge(entryId)).body).toEqual({ nudged: ['Tashi Lhendup'], lately: ['Noor Haddad'] })
    const all = await Promise.all([nudge(entryId), nudge(entryId)])
    expect(all.map((one) => one.body.nudged)).toEqual([[], []])
    await later(DAY - HOUR)
    expect((await nudge(entryId)).body.nudged).toEqual([])
    await later(HOUR)
    expect((await nudge(entryId)).body.nudged.sort()).toEqual(['Noor Haddad', 'Tashi Lhendup'])
    // The database would not take another.
    await expect(
      marmot.pool.query(
        `insert into letter (id, entry_id, person_id, guest_address, number, method, sequence, version, required, about_id,
                             written_at, nudges)
         select gen_random_uuid(), entry_id, person_id, guest_address, number + 1, method, sequence, version, required,
                about_id, written_at, nudges from letter
          where entry_id = $1 and nudges is not null order by written_at desc limit 1`,
        [entryId],
      ),
    ).rejects.toThrow(/letter_nudged_daily/)
  })

  it('are asked about the one date that they have not answered to', async () => {
    const entryId = await send('Nunatak weekly', {
      starts: '2026-12-03T06:00',
      series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
    })
    await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted' })
    await ilse.send('POST', `/api/meetings/${entryId}/change`, {
      version: 1,
      recurrence: '2026-12-10T06:00',
      scope: 'this',
      starts: '2026-12-10T07:00',
    })
    await marmot.quiet()
    const { body } = await nudge(entryId, { recurrence: '2026-12-10T06:00' })
    expect(body.nudged.sort()).toEqual(['Noor Haddad', 'Tashi Lhendup'])
    expect(marmot.letters(TASHI, entryId).at(-1)).toMatchObject({
      kind: 'Please answer',
      date: '20261210T060000',
    })
    expect(marmot.letters(GUEST, entryId).at(-1)).toMatchObject({ kind: 'Please answer', date: null })
  })

  it('are not asked by whoever takes part, nor about what was cancelled', async () => {
    const entryId = await send('Nunatak closed')
    expect((await nudge(entryId, {}, tashi)).status).toBe(404)
    await ilse.send('POST', `/api/meetings/${entryId}/cancel`, {})
    await marmot.quiet()
    expect((await nudge(entryId)).body).toEqual({ nudged: [], lately: [] })
    expect(marmot.letters(GUEST, entryId).map((one) => one.kind)).toEqual(['Invitation', 'Cancelled'])
  })
})

describe('by itself', () => {
  const at = Date.parse('2026-12-08T17:00:00Z')
  const pass = async (now: number) => {
    await nudgeByItself({ pool: marmot.pool, clock: () => now })
    await marmot.quiet()
  }

  it('it is done two days before, once, where it was chosen', async () => {
    const entryId = await send('Nunatak alone', { autoNudge: true })
    const silent = await send('Nunatak silent')
    await pass(at - 2 * DAY - HOUR)
    expect(marmot.letters(GUEST, entryId)).toHaveLength(1)
    await Promise.all([pass(at - 2 * DAY + HOUR), pass(at - 2 * DAY + HOUR)])
    await pass(at - HOUR)
    expect(marmot.letters(GUEST, entryId).map((one) => one.kind)).toEqual(['Invitation', 'Please answer'])
    expect(marmot.letters(GUEST, silent)).toHaveLength(1)
  })

  it('it is done again for the day that it was moved to, and not once it was unchosen', async () => {
    const entryId = await send('Nunatak moves', { starts: '2026-12-14T18:00', autoNudge: true })
    await pass(TEST_START + 20 * DAY)
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 1, starts: '2026-12-21T18:00' })
    await marmot.quiet()
    await pass(Date.parse('2026-12-20T09:00:00Z'))
    expect(marmot.letters(TASHI, entryId).map((one) => one.kind)).toEqual([
      'Invitation',
      'Please answer',
      'Changed',
      'Please answer',
    ])
    const changed = await ilse.send<{ told: number; version: number }>(
      'POST',
      `/api/meetings/${entryId}/change`,
      { version: 2, autoNudge: false },
    )
    expect(changed.body.told).toBe(0)
    expect(await read(entryId)).toMatchObject({ autoNudge: false })
    await ilse.send('POST', `/api/meetings/${entryId}/change`, { version: 3, starts: '2026-12-28T18:00' })
    await marmot.quiet()
    await pass(Date.parse('2026-12-27T09:00:00Z'))
    expect(marmot.letters(TASHI, entryId)).toHaveLength(5)
  })
})
