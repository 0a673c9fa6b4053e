import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { generate } from '../../demo/generate.ts'
import { makeLarge } from '../../demo/large.ts'
import { writeOccurrences } from '../entries/index.ts'
import { openPool, transaction } from '../platform/database.ts'
import { startTestMarmot, TEST_START, type TestMarmot } from './marmot.ts'

const SIZE = { people: 90, resources: 60, entries: 3000 }

let marmot: TestMarmot
let indexes: unknown[]
const indexesNow = async () =>
  (
    await marmot.pool.query(
      "select indexname, indexdef from pg_indexes where schemaname = 'public' order by indexname",
    )
  ).rows
const count = async (from: string): Promise<number> =>
  (await marmot.pool.query<{ n: number }>(`select count(*)::int as n from ${from}`)).rows[0]?.n ?? -1

let before = 0
beforeAll(async () => {
  marmot = await startTestMarmot()
  indexes = await indexesNow()
  before = await count('entry')
  const filling = openPool(marmot.databaseUrl, () => undefined, { filling: true })
  await makeLarge(filling, generate(TEST_START), TEST_START, SIZE, () => undefined)
  await filling.end()
})
afterAll(() => marmot.stop())

describe('a large demo', () => {
  it('has the size that was asked for, and a full year for Ilse', async () => {
    expect(await count('person')).toBe(SIZE.people)
    expect(await count('resource')).toBe(SIZE.resources)
    expect(await count('entry')).toBe(before + SIZE.entries)
    const year = `attendance a join person p on p.id = a.person_id
      where p.name = 'Ilse Brandacher' and a.span && tstzrange('2026-10-25Z', '2027-11-02Z')`
    expect(await count(year)).toBeGreaterThan(2000)
    expect(await count("agenda where text <> ''")).toBeGreaterThan(10)
    expect(await count('message')).toBeGreaterThan(10)
  })

  it('refers to nothing that is not there, though its rows were not checked as they came', async () => {
    const keys = await marmot.pool.query<{ sql: string }>(
      `select format('%s t where t.%I is not null and not exists (select 1 from %s f where f.%I = t.%I)',
                     c.conrelid::regclass, a.attname, c.confrelid::regclass, b.attname, a.attname) as sql
         from pg_constraint c
         join pg_attribute a on a.attrelid = c.conrelid and a.attnum = c.conkey[1]
         join pg_attribute b on b.attrelid = c.confrelid and b.attnum = c.confkey[1]
        where c.contype = 'f' and array_length(c.conkey, 1) = 1 and c.connamespace = 'public'::regnamespace`,
    )
    expect(keys.rows.length).toBeGreaterThan(20)
    for (const { sql } of keys.rows) expect([sql, await count(sql)]).toEqual([sql, 0])
  })

  it('has every index again that was let go to make it', async () => {
    expect(await indexesNow()).toEqual(indexes)
  })

  it('has the dates that Marmot itself would write out', async () => {
    const dates = async (id: string) =>
      (
        await marmot.pool.query(
          `select o.recurrence, o.span::text, a.person_id, a.answer, a.shows
             from occurrence o join attendance a on a.occurrence_id = o.id
            where o.entry_id = $1 order by o.recurrence, a.person_id`,
          [id],
        )
      ).rows
    const some = await marmot.pool.query<{ id: string }>(
      `(select id from entry where id::text like '0000%' and rule is not null order by id limit 12)
       union all (select id from entry where id::text like '0000%' and rule is null order by md5(id::text) limit 40)`,
    )
    expect(some.rows).toHaveLength(52)
    for (const { id } of some.rows) {
      const made = await dates(id)
      expect(made.length).toBeGreaterThan(0)
      await transaction(marmot.pool, (sql) => writeOccurrences(sql, id, TEST_START))
      expect(await dates(id)).toEqual(made)
    }
  })

  it('is searched and looked at like any other', async () => {
    const ilse = await marmot.as('Ilse Brandacher')
    const year = await ilse.get<{ occurrences: unknown[] }>(
      '/api/entries?from=2026-10-25T00:00:00Z&to=2027-11-02T00:00:00Z',
    )
    expect(year.status).toBe(200)
    expect(year.body.occurrences.length).toBeGreaterThan(2000)
  })
})
