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
let places: string[]
/** Reservations that stood alone: each is an entry of its person since. */
interface Alone {
  readonly id: string
  readonly personId: string
  readonly span: string
  readonly purpose: string
  readonly state: string
}
let alone: Alone[]
let entriesBefore: ReadonlySet<string>
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
  alone = (
    await filling.query<Alone>(
      `select id, person_id as "personId", span::text, purpose, state from public.reservation where entry_id is null and state <> 'released'`,
    )
  ).rows
  entriesBefore = new Set(
    (await filling.query<{ id: string }>('select id from public.entry')).rows.map((row) => row.id),
  )
  await filling.end()
  await migrate(databaseUrl)
  pool = openPool(databaseUrl)
  running = await startMarmot(testSettings(databaseUrl))
  ilse = await signInAs(running.url, 'Ilse Brandacher')
  places = (await pool.query<{ id: string }>('select id from resource')).rows.map((row) => row.id)
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

const ofLane = z.object({
  entryId: z.string().optional(),
  start: z.string(),
  state: z.string(),
  title: z.string().optional(),
})
/** Whether something on a lane is a reservation that stood alone before, and on nobody's lane. */
const wasAlone = (one: unknown): boolean => {
  const read = ofLane.safeParse(one)
  if (!read.success) return false
  const { entryId, state, start } = read.data
  if (entryId && !/^0+-/.test(entryId)) return !entriesBefore.has(entryId)
  return (
    ['listed', 'held'].includes(state) &&
    alone.some(({ span }) => Date.parse(`${span.slice(2, 21)}Z`) === Date.parse(start))
  )
}
const withoutAlone = (answer: unknown): unknown =>
  JSON.parse(
    JSON.stringify(answer, (name, value) =>
      Array.isArray(value) && name !== 'reservations' ? value.filter((one) => !wasAlone(one)) : value,
    ),
  )

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
      // In so long a time what is reserved is read of places by their names: of all of them.
      const all = path.startsWith('/api/reservations?') ? `&places=${places.join()}` : ''
      const now = withoutAlone((await client.get(`${path}${all}`)).body)
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
    const events = (text: string) =>
      text.split('BEGIN:VEVENT').map((one) => (one.match(/^(DTSTART|DTEND|SUMMARY).*$/gm) ?? []).join(' '))
    const [was, is] = [events(publishedText), events(now)]
    expect(is.filter((one) => was.includes(one)).sort()).toEqual(was.sort())
    // What was reserved alone is among them since.
    const purposes = new Set(alone.map((one) => one.purpose))
    for (const one of is) if (!was.includes(one)) expect(purposes).toContain(one.split('SUMMARY:')[1])
  })

  it('has an entry of its person for each reservation that stood alone, which takes none of their time', async () => {
    expect(alone.length).toBeGreaterThan(100)
    const rows = await pool.query<Alone & { title: string; shows: string }>(
      `select r.id, e.owner_id as "personId", o.span::text, r.state, e.title, a.shows
         from reservation r join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
         join attendance a on a.occurrence_id = o.id where r.id = any($1)`,
      [alone.map((one) => one.id)],
    )
    const now = new Map(rows.rows.map((one) => [one.id, one]))
    for (const { id, purpose, ...one } of alone)
      expect(now.get(id)).toMatchObject({
        ...one,
        title: purpose || expect.any(String),
        shows: one.state === 'held' ? 'held' : 'listed',
      })
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
