import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { loadDemo } from '../../demo/load.ts'
import { startCluster } from '../../scripts/lib/postgres.mjs'
import { startMarmot } from '../app.ts'
import { DEMO_PASSWORD } from '../people/index.ts'
import {
  aMeeting,
  type Client,
  signInAs,
  startLetterBox,
  TEST_START,
  testSettings,
  until,
} from '../testing/marmot.ts'
import { openPool } from './database.ts'
import { migrate } from './migrate.ts'

/** How often the database is restarted; `MARMOT_RESTARTS=20` for a longer look. */
const RESTARTS = Number(process.env.MARMOT_RESTARTS ?? 4)
const CLIENTS = 3

const releases: (() => unknown)[] = []
afterAll(async () => {
  for (const release of releases.reverse()) await release()
})

/** A database of its own that keeps what it has said yes to, with the demo in it. */
const open = async () => {
  const folder = mkdtempSync(join(tmpdir(), 'marmot-restart-'))
  releases.push(() => rmSync(folder, { recursive: true, force: true }))
  const cluster = await startCluster(folder)
  releases.push(() => cluster.stop())
  const databaseUrl = cluster.url('postgres')
  await migrate(databaseUrl)
  const pool = openPool(databaseUrl)
  releases.push(() => pool.end())
  await loadDemo(pool, TEST_START, DEMO_PASSWORD)
  return { cluster, databaseUrl, pool }
}

/** Sends the same request until it is answered with yes, as a page does whose network went away. */
const insist = async (client: Client, title: string, guest: string): Promise<void> => {
  const key = randomUUID()
  const body = aMeeting({ title, guests: [{ address: guest, name: 'Noor Haddad', required: true }] })
  await until(
    () =>
      client
        .send('POST', '/api/meetings', body, { 'idempotency-key': key })
        .then((answer) => answer.status)
        .catch(() => 0),
    (status) => status === 200,
    60,
  )
}

it('a database that is restarted again and again, with letters waiting, loses nothing and doubles nothing', async () => {
  const { cluster, databaseUrl, pool } = await open()
  const letters = await startLetterBox()
  releases.push(() => letters.stop())
  const smtpUrl = `smtp://127.0.0.1:${letters.smtpPort}`
  const running = await startMarmot(testSettings(databaseUrl, { smtpUrl }))
  releases.push(() => running.stop())
  const ilse = await signInAs(running.url, 'Ilse Brandacher')

  let sending = true
  const sent: string[] = []
  const load = Array.from({ length: CLIENTS }, async (_, who) => {
    for (let i = 0; sending; i++) {
      const name = `restart-${who}-${i}`
      await insist(ilse, name, `${name}@lodestar.example`)
      sent.push(name)
    }
  })
  for (let i = 0; i < RESTARTS; i++) {
    const before = sent.length
    await until(
      () => sent.length,
      (count) => count > before + CLIENTS,
      60,
    )
    const mode = i % 2 ? 'immediate' : 'fast'
    expect(cluster.restart(mode)).toMatchObject({ ok: true })
    // It serves again by itself.
    const answers = () => fetch(`${running.url}/api/health`).then((answer) => answer.status)
    await until(answers, (status) => status === 200, 30)
  }
  sending = false
  await Promise.all(load)

  const copies = () =>
    sent.map((name) => letters.mailboxes.of(`${name}@lodestar.example`).map((one) => one.copies))
  await until(copies, (seen) => seen.every((mails) => mails.length === 1), 90)
  expect(copies().filter((mails) => mails.length !== 1)).toEqual([])
  const meetings = await pool.query<{ title: string }>("select title from entry where title like 'restart-%'")
  expect(meetings.rows.map((row) => row.title).sort()).toEqual([...sent].sort())
  const listeners = await pool.query("select 1 from pg_stat_activity where query = 'listen marmot'")
  expect(listeners.rowCount).toBe(1)
}, 600_000)
