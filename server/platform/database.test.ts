import type pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { copyDemo } from '../testing/marmot.ts'
import { openPool, type Sql, together, transaction } from './database.ts'

let pool: pg.Pool
beforeAll(async () => {
  pool = openPool(await copyDemo(), () => undefined, { most: 1 })
  await pool.query('create table noted (n integer primary key)')
})
afterAll(() => pool.end())

const note = (sql: Sql, n: number) => sql.query('insert into noted values ($1)', [n])
const most = (sql: Sql) => sql.query<{ n: number }>('select max(n) as n from noted', [])

describe('statements sent together', () => {
  it('are carried out in their order, and give their answers in it', async () => {
    const [, one, , two] = await transaction(pool, (sql) =>
      together([
        note(sql, 1),
        sql.query<{ n: number }>('select max(n) as n from noted', []),
        note(sql, 2),
        most(sql),
      ]),
    )
    expect([one.rows[0]?.n, two.rows[0]?.n]).toEqual([1, 2])
  })

  it('tell what failed first, and not what failed because of it; nothing of them is left', async () => {
    const failed = transaction(pool, (sql) => together([note(sql, 10), note(sql, 10), note(sql, 11)]))
    await expect(failed).rejects.toMatchObject({ code: '23505' })
    expect((await pool.query('select n from noted where n >= 10')).rowCount).toBe(0)
  })

  it('are all over before a failure is told: what one of them goes on to do is undone with the rest', async () => {
    const later = async (sql: Sql) => {
      await sql.query('select pg_sleep(0.05)', [])
      await note(sql, 20)
    }
    const failed = transaction(pool, (sql) => together([Promise.reject(new Error('no')), later(sql)]))
    await expect(failed).rejects.toThrow('no')
    // There is one connection: whatever was left on it would be carried out meanwhile, in a transaction of its own.
    await pool.query('select pg_sleep(0.1)')
    expect((await pool.query('select n from noted where n = 20')).rowCount).toBe(0)
  })
})
