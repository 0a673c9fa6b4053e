import { afterAll, beforeAll, expect, it } from 'vitest'
import { openPool } from '../platform/database.ts'
import { copyDemo } from '../testing/marmot.ts'
import {
  ENTRY_COLUMNS,
  ENTRY_FATE,
  ENTRY_IDENTITY,
  OVERRIDE_COLUMNS,
  PARTICIPANT_COLUMNS,
  PARTICIPANT_IDENTITY,
} from './fields.ts'

let pool: ReturnType<typeof openPool>
beforeAll(async () => {
  pool = openPool(await copyDemo())
})
afterAll(() => pool.end())

/** A column that is in no list is neither copied, nor kept for undo, nor put back. */
it.each([
  ['entry', [...ENTRY_IDENTITY, ...ENTRY_FATE, ...ENTRY_COLUMNS]],
  ['override', ['entry_id', 'words', ...OVERRIDE_COLUMNS]],
  ['participant', [...PARTICIPANT_IDENTITY, ...PARTICIPANT_COLUMNS]],
])(
  'each column of %s is in one of the lists of what an entry is, and each of the lists is one',
  async (table, lists) => {
    const columns = await pool.query<{ name: string }>(
      "select column_name as name from information_schema.columns where table_schema = 'public' and table_name = $1",
      [table],
    )
    expect(lists.toSorted()).toEqual(columns.rows.map((row) => row.name).sort())
  },
)
