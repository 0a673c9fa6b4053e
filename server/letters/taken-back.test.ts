import { afterAll, beforeAll, expect, it } from 'vitest'
import { transaction } from '../platform/database.ts'
import {
  aMeeting,
  type Client,
  somebodyWaits,
  startTestMarmot,
  TEST_START,
  type TestMarmot,
} from '../testing/marmot.ts'
import { writeOwed } from './owed.ts'
import { startSending } from './store.ts'

const GUEST = 'noor.haddad@lodestar.example'

let marmot: TestMarmot
let ilse: Client
let tashi: Client
beforeAll(async () => {
  // Far longer than the tests take: what passes, passes because they say so.
  marmot = await startTestMarmot({ takeBackMs: 3_600_000 })
  ilse = await marmot.as('Ilse Brandacher')
  tashi = await marmot.as('Tashi Lhendup')
})
afterAll(() => marmot.stop())

/** Sends a meeting of Ilse's, and waits until all know of it. */
const sent = async (starts: string): Promise<string> => {
  const people = [{ id: tashi.person.id, required: true }]
  const guests = [{ address: GUEST, name: 'Noor Haddad', required: true }]
  const made = await ilse.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({ title: 'Bergschrund', people, guests, starts }),
  )
  await marmot.pass()
  return made.body.entryId
}

const move = async (entryId: string, starts: string): Promise<string> =>
  (await ilse.send<{ changeId: string }>('POST', `/api/meetings/${entryId}/change`, { version: 1, starts }))
    .body.changeId

const undo = (changeId: string) =>
  ilse.send<{ undone: boolean; told: number }>('POST', `/api/changes/${changeId}/undo`)

const kinds = (entryId: string) => marmot.letters(GUEST, entryId).map((one) => one.kind)

/** How many there are of all that tells of a meeting. */
const keptOf = async (entryId: string) => {
  const count = async (table: 'letter' | 'telling' | 'notice') =>
    (await marmot.pool.query(`select 1 from ${table} where entry_id = $1`, [entryId])).rowCount
  const answers = await marmot.pool.query<{ answer: string; message: string }>(
    `select p.answer, p.message, a.answer as here from participant p join attendance a on a.participant_id = p.id
      where p.entry_id = $1 order by p.id`,
    [entryId],
  )
  return {
    letters: await count('letter'),
    tellings: await count('telling'),
    notices: await count('notice'),
    answers: answers.rows,
  }
}

/** Lets a moment pass so far that the letters are written; whatever sends them is busy with others until `sendOn`. */
const writeAlone = (entryId: string) =>
  transaction(marmot.pool, async (sql) => {
    await writeOwed(sql, entryId, null, TEST_START)
    await sql.query(
      "update graphile_worker._private_jobs set run_at = now() + interval '1 hour' where key like 'mail:%'",
    )
  })

const sendOn = () =>
  marmot.pool.query("update graphile_worker._private_jobs set run_at = now() where key like 'mail:%'")

it('what is written and has not left is taken back with its notices, and never leaves', async () => {
  const entryId = await sent('2026-12-21T18:00')
  await tashi.send('POST', `/api/meetings/${entryId}/answer`, { answer: 'accepted', message: 'Gladly' })
  const before = await keptOf(entryId)
  const changeId = await move(entryId, '2026-12-22T18:00')
  await writeAlone(entryId)
  expect(await keptOf(entryId)).toMatchObject({ letters: 4, tellings: 2, notices: 3 })
  expect((await undo(changeId)).body).toEqual({ undone: true, told: 0 })
  await sendOn()
  await marmot.pass()
  expect(kinds(entryId)).toEqual(['Invitation'])
  expect(await keptOf(entryId)).toEqual(before)
})

it('what is leaving while it is taken back is told again, and that is said', async () => {
  const entryId = await sent('2026-12-21T20:00')
  const changeId = await move(entryId, '2026-12-22T20:00')
  await writeAlone(entryId)
  const sender = await marmot.pool.connect()
  const written = await sender.query<{ id: string }>(
    "select id from letter where entry_id = $1 and state = 'waiting'",
    [entryId],
  )
  const ids = written.rows.map((one) => one.id)
  await sender.query('begin')
  expect((await startSending(sender, ids, false, TEST_START)).letters).toHaveLength(2)
  const undone = undo(changeId)
  await Promise.race([undone, somebodyWaits(marmot.pool)])
  await sender.query('commit')
  sender.release()
  await sendOn()
  expect((await undone).body).toEqual({ undone: true, told: 2 })
  await marmot.pass()
  expect(kinds(entryId)).toEqual(['Invitation', 'Changed', 'Changed'])
})
