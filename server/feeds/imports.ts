import { randomUUID } from 'node:crypto'
import { PassThrough } from 'node:stream'
import { type importProgress, previewImport, takeImport } from '@marmot/contract/feeds'
import { BadCalendar, type CalendarEntry, readCalendar, sameEntry } from '@marmot/core/feeds'
import { instantOf, wallText, zoneTable } from '@marmot/core/time'
import type { z } from 'zod'
import {
  datesOf,
  noteChange,
  replaceOverrides,
  stateOf,
  updateEntry,
  writeDates,
  writeOccurrences,
} from '../entries/index.ts'
import { peopleByIds } from '../people/index.ts'
import { cleanNote } from '../platform/clean.ts'
import { at, type Sql, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { type KnownEntry, ownEntries } from './calendar.ts'

const MOST_REFUSED_SHOWN = 200
const MOST_ENTRIES = 50_000
const SAMPLES = 6
/** So many entries are written in one statement, and then progress is told. */
const STEP = 1000

type Progress = z.infer<typeof importProgress>

/** What a file would do: entries that are not here yet, and those that are here and differ. */
interface Plan {
  readonly made: readonly CalendarEntry[]
  readonly changed: readonly { readonly known: KnownEntry; readonly next: CalendarEntry }[]
  readonly same: number
  readonly refused: readonly { line: number; title: string; reason: string }[]
}

const planOf = async (sql: Sql, ownerId: string, text: string): Promise<Plan> => {
  const [owner] = await peopleByIds(sql, [ownerId])
  let read: ReturnType<typeof readCalendar>
  try {
    read = readCalendar(text, owner?.zone ?? 'UTC')
  } catch (error) {
    if (!(error instanceof BadCalendar)) throw error
    throw new ProblemError(422, 'not-a-calendar', `${error.message} Nothing was imported.`)
  }
  if (read.entries.length > MOST_ENTRIES)
    throw new ProblemError(
      413,
      'too-many-entries',
      `It has ${read.entries.length} entries; the most is ${MOST_ENTRIES}.`,
    )
  const entries = read.entries.map((entry) => ({
    ...entry,
    note: cleanNote(entry.note),
    overrides: entry.overrides.map((one) => ({
      ...one,
      note: one.note === null ? null : cleanNote(one.note),
    })),
  }))
  const known = new Map(
    (await ownEntries(sql, ownerId, { uids: entries.map((entry) => entry.uid) })).map((one) => [
      one.entry.uid,
      one,
    ]),
  )
  const made: CalendarEntry[] = []
  const changed: { known: KnownEntry; next: CalendarEntry }[] = []
  const refused = [...read.refused]
  let same = 0
  for (const next of entries) {
    const here = known.get(next.uid)
    if (!here) made.push(next)
    else if (sameEntry(here.entry, next)) same++
    // A meeting of ours is changed where its participants are told of it, not by a file.
    else if (here.entry.contacts.length && !next.contacts.length) same++
    else changed.push({ known: here, next })
  }
  return { made, changed, same, refused }
}

const stateFrom = (entry: CalendarEntry) => ({
  ...entry,
  starts: wallText(entry.starts),
  added: entry.added.map(wallText),
  excepted: entry.excepted.map(wallText),
})

const overridesFrom = (entry: CalendarEntry) =>
  entry.overrides.map((one) => ({
    ...one,
    recurrence: wallText(one.recurrence),
    starts: one.starts === null ? null : wallText(one.starts),
  }))

/** The owner's categories by name; those that are missing are made. */
const categoriesFor = async (
  sql: Sql,
  ownerId: string,
  names: readonly string[],
): Promise<Map<string, string>> => {
  await sql.query(
    `insert into category (person_id, name, tone)
     select $1, name, (row_number() over (order by name) - 1) % 10 from unnest($2::text[]) name
     on conflict (person_id, name) do nothing`,
    [ownerId, [...new Set(names)]],
  )
  const rows = await sql.query<{ id: string; name: string }>(
    'select id, name from category where person_id = $1 and name = any($2)',
    [ownerId, names],
  )
  return new Map(rows.rows.map((row) => [row.name, row.id]))
}

/** Writes a batch of new entries with their dates, a statement for each table. */
const insertMany = async (
  sql: Sql,
  ownerId: string,
  entries: readonly CalendarEntry[],
  categories: ReadonlyMap<string, string>,
  now: number,
): Promise<string[]> => {
  const rows = entries.map((entry) => ({ id: randomUUID(), entry }))
  const column = <T>(of: (row: (typeof rows)[number]) => T): T[] => rows.map(of)
  await sql.query(
    `insert into entry (id, uid, source_uid, owner_id, created_at, zone, starts, minutes, all_day, rule, added, excepted,
                        title, place, note, shows, private, contacts)
     select i, i::text || '@marmot.corrie.example', u, $1, $2, z, s, m, a, r, ad::timestamp[], ex::timestamp[], t, p, n, sh,
            pr, co
       from unnest($3::uuid[], $4::text[], $5::text[], $6::timestamp[], $7::integer[], $8::boolean[], $9::text[],
                   $10::text[], $11::text[], $12::text[], $13::text[], $14::text[], $15::text[], $16::boolean[],
                   $17::jsonb[]) d(i, u, z, s, m, a, r, ad, ex, t, p, n, sh, pr, co)`,
    [
      ownerId,
      at(now),
      column((row) => row.id),
      column((row) => row.entry.uid),
      column((row) => row.entry.zone),
      column((row) => wallText(row.entry.starts)),
      column((row) => row.entry.minutes),
      column((row) => row.entry.allDay),
      column((row) => row.entry.rule),
      column((row) => `{${row.entry.added.map(wallText).join()}}`),
      column((row) => `{${row.entry.excepted.map(wallText).join()}}`),
      column((row) => row.entry.title),
      column((row) => row.entry.place),
      column((row) => row.entry.note),
      column((row) => row.entry.shows),
      column((row) => row.entry.private),
      column((row) => JSON.stringify(row.entry.contacts)),
    ],
  )
  await sql.query(
    `insert into participant (entry_id, person_id, organizer, answer, category_id, reminders)
     select i, $1, true, 'accepted', c, r::integer[] from unnest($2::uuid[], $3::uuid[], $4::text[]) d(i, c, r)`,
    [
      ownerId,
      column((row) => row.id),
      column((row) => (row.entry.category === null ? null : (categories.get(row.entry.category) ?? null))),
      column((row) => `{${row.entry.reminders.join()}}`),
    ],
  )
  for (const { id, entry } of rows)
    if (entry.overrides.length) await replaceOverrides(sql, id, overridesFrom(entry))
  await writeDates(
    sql,
    rows.flatMap(({ id, entry }) => datesOf(id, entry, entry.overrides, entry.zone, now)),
  )
  return rows.map((row) => row.id)
}

/** Carries a plan out, telling how far it is; the caller's transaction makes it all or nothing. */
const carryOut = async (
  sql: Sql,
  ownerId: string,
  plan: Plan,
  now: number,
  tell: (progress: Progress) => void,
): Promise<string> => {
  const of = plan.made.length + plan.changed.length
  const touched: { id: string; version: number; was: Record<string, unknown> | null }[] = []
  const names = [...plan.made, ...plan.changed.map((one) => one.next)].flatMap(
    (entry) => entry.category ?? [],
  )
  const categories = await categoriesFor(sql, ownerId, names)
  for (let i = 0; i < plan.made.length; i += STEP) {
    const ids = await insertMany(sql, ownerId, plan.made.slice(i, i + STEP), categories, now)
    touched.push(...ids.map((id) => ({ id, version: 1, was: null })))
    tell({ done: touched.length, of })
  }
  for (const { known, next } of plan.changed) {
    const was = await stateOf(sql, known.id)
    await updateEntry(sql, known.id, stateFrom(next))
    await replaceOverrides(sql, known.id, overridesFrom(next))
    await sql.query('update entry set contacts = $2, version = version + 1 where id = $1', [
      known.id,
      JSON.stringify(next.contacts),
    ])
    await sql.query(
      'update participant set category_id = $2, reminders = $3 where entry_id = $1 and organizer',
      [known.id, next.category === null ? null : (categories.get(next.category) ?? null), next.reminders],
    )
    await writeOccurrences(sql, known.id, now)
    touched.push({ id: known.id, version: known.version + 1, was })
    if (touched.length % 100 === 0) tell({ done: touched.length, of })
  }
  await tellTime(sql, [ownerId])
  const title = `${plan.made.length} new, ${plan.changed.length} changed entries`
  return noteChange(sql, { ownerId, actorId: ownerId, kind: 'imported', title, entries: touched }, now)
}

export const importRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(previewImport, async ({ raw, asker }) => {
    const text = raw.toString('utf8')
    const plan = await planOf(pool, asker.id, text)
    const kept = await pool.query<{ id: string }>(
      'insert into import (person_id, text, at) values ($1, $2, $3) returning id',
      [asker.id, text.replace(/\0/g, ''), at(clock())],
    )
    const sample = (entry: CalendarEntry, change: 'made' | 'changed') => ({
      title: entry.title,
      start: at(instantOf(zoneTable(entry.zone), entry.starts)),
      change,
    })
    return {
      importId: kept.rows[0]?.id ?? '',
      made: plan.made.length,
      changed: plan.changed.length,
      same: plan.same,
      refused: plan.refused.slice(0, MOST_REFUSED_SHOWN),
      refusedCount: plan.refused.length,
      samples: [
        ...plan.made.slice(0, SAMPLES).map((entry) => sample(entry, 'made')),
        ...plan.changed.slice(0, SAMPLES).map((one) => sample(one.next, 'changed')),
      ].slice(0, SAMPLES),
    }
  })

  mount(takeImport, async ({ params, asker, context }) => {
    const kept = await pool.query<{ text: string }>(
      'select text from import where id = $1 and person_id = $2',
      [params.importId, asker.id],
    )
    const text = kept.rows[0]?.text
    if (text === undefined) throw notFound('file that was looked at')
    const stream = new PassThrough()
    context.type = 'application/x-ndjson'
    context.body = stream
    let stopped = false
    context.req.on('close', () => (stopped = true))
    context.res.on('close', () => (stopped = true))
    const tell = (progress: Progress) => {
      // Whoever went away has stopped it: nothing is left half done.
      if (stopped) throw new ProblemError(499, 'stopped', 'It was stopped. Nothing was imported.')
      stream.write(`${JSON.stringify(progress)}\n`)
    }
    const work = transaction(pool, async (sql) => {
      // One import of a person at a time: two of the same file would both find its entries missing.
      await sql.query("select pg_advisory_xact_lock(hashtextextended('import ' || $1, 0))", [asker.id])
      const plan = await planOf(sql, asker.id, text)
      const of = plan.made.length + plan.changed.length
      tell({ done: 0, of })
      const changeId = of ? await carryOut(sql, asker.id, plan, clock(), tell) : undefined
      await sql.query('delete from import where id = $1', [params.importId])
      return { done: of, of, ...(changeId ? { changeId } : {}) }
    })
    work.then(
      (last) => stream.end(`${JSON.stringify(last)}\n`),
      (error) => {
        const trouble =
          error instanceof ProblemError
            ? error.detail
            : 'Something went wrong on our side. Nothing was imported; try again.'
        stream.end(`${JSON.stringify({ done: 0, of: 0, trouble } satisfies Progress)}\n`)
      },
    )
    return {}
  })
}

/** Throws away files that were looked at and not imported. */
export const tidyImports = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from import where at < $1::timestamptz - interval '1 day'", [at(now)])
}
