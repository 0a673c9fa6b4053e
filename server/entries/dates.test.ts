import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPool, transaction } from '../platform/database.ts'
import { copyDemo } from '../testing/marmot.ts'
import { moveHorizon, tidyDates, writeOccurrences } from './dates.ts'

const NOW = Date.UTC(2026, 10, 23, 8)
let pool: ReturnType<typeof openPool>
beforeAll(async () => {
  pool = openPool(await copyDemo())
})
afterAll(() => pool.end())

const personId = async (name: string) =>
  (await pool.query<{ id: string }>('select id from person where name = $1', [name])).rows[0]?.id ?? ''

const write = (id: string) => transaction(pool, (sql) => writeOccurrences(sql, id, NOW))

/** A series of Ilse's with Tashi in it, written straight into the tables as no screen can yet. */
const series = async (rule: string | null, more: { added?: string[]; excepted?: string[] } = {}) => {
  const id = randomUUID()
  await pool.query(
    `insert into entry (id, uid, owner_id, zone, starts, minutes, rule, title, added, excepted, created_at)
     values ($1::uuid, $1::text, $2, 'Europe/Vienna', '2027-03-18T10:00', 60, $3, 'Series', $4, $5, now())`,
    [id, await personId('Ilse Brandacher'), rule, more.added ?? [], more.excepted ?? []],
  )
  await pool.query(
    "insert into participant (entry_id, person_id, organizer, answer) values ($1, $2, true, 'accepted')",
    [id, await personId('Ilse Brandacher')],
  )
  await pool.query('insert into participant (entry_id, person_id) values ($1, $2)', [
    id,
    await personId('Tashi Lhendup'),
  ])
  await write(id)
  return id
}

const dates = async (id: string) =>
  (
    await pool.query<{ start: Date }>(
      'select lower(span) as start from occurrence where entry_id = $1 and gone_at is null order by 1',
      [id],
    )
  ).rows.map((row) => row.start.toISOString().slice(0, 16))

const answers = async (id: string) =>
  (
    await pool.query<{ answer: string }>(
      `select a.answer from attendance a join occurrence o on o.id = a.occurrence_id join participant p on p.id = a.participant_id
        where o.entry_id = $1 and not p.organizer order by lower(a.span)`,
      [id],
    )
  ).rows.map((row) => row.answer)

describe('occurrences', () => {
  it('are written out on the same clock through the change of March, with added and excepted dates', async () => {
    const id = await series('FREQ=WEEKLY;COUNT=4', {
      added: ['2027-03-20T15:00'],
      excepted: ['2027-03-25T10:00'],
    })
    expect(await dates(id)).toEqual([
      '2027-03-18T09:00',
      '2027-03-20T14:00',
      '2027-04-01T08:00',
      '2027-04-08T08:00',
    ])
  })

  it('of a series without an end reach as far as the horizon', async () => {
    const found = await dates(await series('FREQ=DAILY'))
    expect(found.length).toBeGreaterThan(400)
    expect(found.length).toBeLessThan(450)
  })

  it('keep each answer to a date when the others change, and when it moves itself', async () => {
    const id = await series('FREQ=WEEKLY;COUNT=3')
    await pool.query(
      `update attendance set answer = 'declined' where occurrence_id =
         (select id from occurrence where entry_id = $1 and recurrence = '2027-03-25T10:00') and person_id = $2`,
      [id, await personId('Tashi Lhendup')],
    )
    await pool.query(
      "insert into override (entry_id, recurrence, starts) values ($1, '2027-03-25T10:00', '2027-03-26T16:00')",
      [id],
    )
    await write(id)
    expect(await dates(id)).toEqual(['2027-03-18T09:00', '2027-03-26T15:00', '2027-04-01T08:00'])
    expect(await answers(id)).toEqual(['needs-action', 'declined', 'needs-action'])
    const spans = await pool.query(
      'select 1 from attendance a join occurrence o on o.id = a.occurrence_id where o.entry_id = $1 and a.span <> o.span',
      [id],
    )
    expect(spans.rowCount).toBe(0)
  })

  it('go when the entry is deleted, and come back with it', async () => {
    const id = await series(null)
    await pool.query('update entry set deleted_at = now() where id = $1', [id])
    await write(id)
    expect(await dates(id)).toEqual([])
    await pool.query('update entry set deleted_at = null where id = $1', [id])
    await write(id)
    expect(await dates(id)).toEqual(['2027-03-18T09:00'])
  })

  it('are the same however often they are written', async () => {
    const id = await series('FREQ=WEEKLY;COUNT=5')
    const ids = async () =>
      (
        await pool.query<{ id: number }>('select id from occurrence where entry_id = $1 order by id', [id])
      ).rows.map((row) => row.id)
    const before = await ids()
    await write(id)
    expect(await ids()).toEqual(before)
  })

  /** Each date of an entry that stands, by its wall time, with its name. */
  const named = async (id: string) =>
    new Map(
      (
        await pool.query<{ id: string; wall: string }>(
          `select id, to_char(recurrence, 'MM-DD HH24:MI') as wall from occurrence
            where entry_id = $1 and gone_at is null order by recurrence`,
          [id],
        )
      ).rows.map((row) => [row.wall, row.id]),
    )

  it('keep their names, and who said what of them, when the series moves by a week and an hour', async () => {
    const id = await series('FREQ=WEEKLY;COUNT=3')
    const before = [...(await named(id)).values()]
    await pool.query(
      "update attendance set answer = 'declined', answered_at = now() where occurrence_id = $1 and person_id = $2",
      [before[1], await personId('Tashi Lhendup')],
    )
    await pool.query("update entry set starts = '2027-03-25T11:00' where id = $1", [id])
    await transaction(pool, (sql) => writeOccurrences(sql, id, NOW, 7 * 86_400_000 + 3_600_000))
    const after = await named(id)
    expect([...after.keys()]).toEqual(['03-25 11:00', '04-01 11:00', '04-08 11:00'])
    expect([...after.values()]).toEqual(before)
    expect(await answers(id)).toEqual(['needs-action', 'declined', 'needs-action'])
  })

  it('that the series gives no more are off the lanes, keep their names, and come back under them', async () => {
    const id = await series('FREQ=WEEKLY;COUNT=3')
    const before = await named(id)
    await pool.query("update entry set excepted = '{2027-03-25T10:00}' where id = $1", [id])
    await write(id)
    expect([...(await named(id)).keys()]).toEqual(['03-18 10:00', '04-01 10:00'])
    expect(await answers(id)).toHaveLength(2)
    await pool.query("update entry set excepted = '{}' where id = $1", [id])
    await write(id)
    expect(await named(id)).toEqual(before)
  })

  it('that are long over stay as they were, whatever becomes of the series', async () => {
    const id = await series('FREQ=DAILY;COUNT=5')
    const long = NOW + 500 * 86_400_000
    const past = await dates(id)
    await transaction(pool, (sql) => writeOccurrences(sql, id, long + 400 * 86_400_000))
    expect(await dates(id)).toEqual(past)
  })

  it('that are gone are forgotten by night, but for those that something refers to', async () => {
    const id = await series('FREQ=WEEKLY;COUNT=3')
    const before = await named(id)
    const kept = before.get('03-25 10:00')
    await pool.query(
      'insert into reminder (occurrence_id, person_id, due_at, next_at) values ($1, $2, now(), now())',
      [kept, await personId('Ilse Brandacher')],
    )
    await pool.query('update entry set rule = null where id = $1', [id])
    await write(id)
    expect(await tidyDates(pool)).toBe(0)
    await pool.query("update occurrence set gone_at = gone_at - interval '2 days' where entry_id = $1", [id])
    expect(await tidyDates(pool)).toBe(1)
    const left = await pool.query<{ id: string; gone: boolean }>(
      'select id, gone_at is not null as gone from occurrence where entry_id = $1 order by recurrence',
      [id],
    )
    expect(left.rows).toEqual([
      { id: before.get('03-18 10:00'), gone: false },
      { id: kept, gone: true },
    ])
  })

  it('reach further when the horizon moves on by night', async () => {
    const id = await series('FREQ=WEEKLY')
    const before = await dates(id)
    const ended = await series('FREQ=WEEKLY;COUNT=2')
    const month = 30 * 86_400_000
    expect(await moveHorizon(pool, NOW + month)).toBeGreaterThan(10)
    const after = await dates(id)
    expect(after.slice(0, before.length)).toEqual(before)
    expect(after.length - before.length).toBeGreaterThanOrEqual(4)
    expect(await dates(ended)).toHaveLength(2)
  })
})
