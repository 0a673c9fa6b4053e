import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { gunzipSync } from 'node:zlib'
import type { EntryOnWire } from '@marmot/contract/entries'
import type { Meeting } from '@marmot/contract/meetings'
import { runner } from 'node-pg-migrate'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { z } from 'zod'
import { startMarmot } from '../app.ts'
import { writeOwed } from '../letters/owed.ts'
import { openPool, transaction } from '../platform/database.ts'
import { migrate } from '../platform/migrate.ts'
import { type Client, signInAs, TEST_START, testSettings } from './marmot.ts'

/*
 * What the release of 0.1.0 left behind, in `release/`: its database with the demo in it (cut to some people and the weeks
 * around its day) and meetings, answers, entries, an import, a hold and addresses made over HTTP since; and what it
 * answered to five of its people. Brought along, everybody has to be answered the same.
 */

const LAST_MIGRATION = 16
const read = (name: string): string =>
  gunzipSync(readFileSync(new URL(`./release/${name}.gz`, import.meta.url))).toString('utf8')

const { ids, asked, publishedText } = z
  .object({
    ids: z.record(z.string(), z.string()),
    asked: z.record(z.string(), z.record(z.string(), z.unknown())),
    publishedText: z.string(),
  })
  .parse(JSON.parse(read('answers.json')))

let running: Awaited<ReturnType<typeof startMarmot>>
let pool: ReturnType<typeof openPool>
let ilse: Client
beforeAll(async () => {
  const admin = openPool(inject('clusterUrl'))
  await admin.query('create database last_release')
  await admin.end()
  const databaseUrl = inject('clusterUrl').replace(/\/postgres$/, '/last_release')
  await runner({
    databaseUrl,
    dir: fileURLToPath(new URL('../migrations', import.meta.url)),
    direction: 'up',
    migrationsTable: 'migration',
    count: LAST_MIGRATION,
    log: () => undefined,
  })
  // As it was left: nothing is worked out anew while it is put in.
  const filling = openPool(databaseUrl, () => undefined, { most: 1, filling: true })
  await filling.query('set session_replication_role = replica')
  await filling.query(read('data.sql'))
  await filling.end()
  await migrate(databaseUrl)
  pool = openPool(databaseUrl)
  running = await startMarmot(testSettings(databaseUrl))
  ilse = await signInAs(running.url, 'Ilse Brandacher')
})
afterAll(async () => {
  await running.stop()
  await pool.end()
})

/**
 * Where something is was words that were copied once, and is composed of places since: that is compared by itself, and a
 * date that differs in its place alone is none that was changed. Who looked when, and when an address was read, changes by asking.
 * The places of a meeting are those of the date that is shown.
 */
const APART = new Set(['place', 'places', 'changed', 'seenAt', 'readAt'])
const withoutPlaces = (answer: unknown): unknown =>
  JSON.parse(JSON.stringify(answer, (name, value) => (APART.has(name) ? undefined : value)))

const placesIn = (answer: unknown): string[] => {
  const found: string[] = []
  JSON.stringify(answer, (name, value) => {
    if (name === 'place' && typeof value === 'string') found.push(value.split('; ').sort().join('; '))
    return value
  })
  return found
}

describe('a database of the last release, brought along', () => {
  it.each(Object.keys(asked))('has all that it had for %s', async (name) => {
    const client = await signInAs(running.url, name)
    for (const [path, before] of Object.entries(asked[name] ?? {})) {
      const now = (await client.get(path)).body
      // What is said only since is beside it.
      expect([path, withoutPlaces(now)]).toMatchObject([path, withoutPlaces(before)])
      // Nothing that was said of where something is is lost; what was reserved and not said is said now.
      const [was, is] = [placesIn(before), placesIn(now)]
      expect([path, is.length]).toEqual([path, was.length])
      for (const [i, words] of was.entries())
        for (const part of words.split('; ')) expect(is[i]).toContain(part)
    }
  })

  it('publishes the same at the same address', async () => {
    const now = await (await fetch(`${running.url}${ids.published}`)).text()
    const times = (text: string) => text.match(/^(DTSTART|DTEND|SUMMARY).*$/gm)
    expect(times(now)).toEqual(times(publishedText))
  })

  it('owes nobody a letter for that', async () => {
    const meetings = await pool.query<{ id: string }>('select distinct entry_id as id from letter')
    expect(meetings.rowCount).toBeGreaterThan(10)
    const letters = async () => (await pool.query('select 1 from letter')).rowCount
    const before = await letters()
    for (const { id } of meetings.rows) await transaction(pool, (sql) => writeOwed(sql, id, null, TEST_START))
    expect(await letters()).toBe(before)
  })

  it('lets a guest answer by the link that they were sent', async () => {
    const page = await fetch(`${running.url}/api/invitations/${ids.token}`)
    expect(page.status).toBe(200)
    const answer = await fetch(`${running.url}/api/invitations/${ids.token}/answer`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'idempotency-key': 'once' },
      body: JSON.stringify({ answer: 'accepted' }),
    })
    expect(answer.status).toBe(200)
  })

  it('lets a change of before be taken back', async () => {
    expect((await ilse.send('POST', `/api/changes/${ids.movedChange}/undo`)).status).toBe(200)
    const date = await ilse.get<EntryOnWire>(`/api/entries/${ids.own}?recurrence=2026-12-15T20:00`)
    expect(date.body).toMatchObject({
      title: 'Release own',
      start: '2026-12-15T19:00:00.000Z',
      private: false,
    })
  })

  it('lets its meetings be moved, each date with its own place and answers', async () => {
    const moved = await ilse.send('POST', `/api/meetings/${ids.series}/change`, {
      recurrence: '2026-12-18T20:00',
      scope: 'this',
      starts: '2026-12-18T20:30',
      version: (await ilse.get<Meeting>(`/api/meetings/${ids.series}`)).body.version,
    })
    expect([moved.status, moved.text]).toEqual([200, expect.anything()])
    const date = await ilse.get<Meeting>(`/api/meetings/${ids.series}?recurrence=2026-12-18T20:00`)
    expect(date.body).toMatchObject({ start: '2026-12-18T19:30:00.000Z', place: 'Col, Innsbruck' })
  })
})
