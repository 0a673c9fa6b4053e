import { afterAll, beforeAll, expect, it } from 'vitest'
import { updateEntry } from '../entries/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import { startTestMarmot, TEST_START, type TestMarmot } from '../testing/marmot.ts'
import { writeOwed } from './owed.ts'

let marmot: TestMarmot
beforeAll(async () => {
  marmot = await startTestMarmot()
})
afterAll(() => marmot.stop())

/** Does something after the letters that can be taken back were, and before it is read what was told. */
const between = (sql: Sql, act: () => Promise<unknown>): Sql => {
  let taken: Promise<unknown> = Promise.resolve()
  return {
    query: async (text, values) => {
      if (text.startsWith('select distinct on (x."personId"')) {
        await taken
        await act()
      }
      const done = sql.query<never>(text, values)
      if (text.startsWith('delete from letter')) taken = done
      return done
    },
  }
}

it('a letter that turns out to have stayed while what is owed is worked out is in nobody’s way', async () => {
  const ilse = await marmot.as('Ilse Brandacher')
  const tashi = await marmot.as('Tashi Lhendup')
  const entryId = await marmot.sendMeeting(ilse, {
    title: 'Sastrugi',
    people: [{ id: tashi.person.id, required: true }],
    starts: '2026-12-08T18:00',
  })
  const letter = (state: string) =>
    marmot.pool.query(`update letter set sent_at = null, ${state} where entry_id = $1`, [entryId])
  await letter("state = 'waiting', tried_at = now()")
  await transaction(marmot.pool, async (sql) => {
    await updateEntry(sql, entryId, { title: 'Sastrugi, corrected' })
    await writeOwed(
      between(sql, () => letter('tried_at = null')),
      entryId,
      null,
      TEST_START,
    )
  })
  const kept = await marmot.pool.query<{ number: number }>(
    'select number from letter where entry_id = $1 order by number',
    [entryId],
  )
  expect(kept.rows.map((row) => row.number)).toEqual([1, 2])
  await letter("state = 'failed'")
  await marmot.quiet()
})
