import { randomUUID } from 'node:crypto'
import type { ImportPreview, ImportProgress } from '@marmot/contract/feeds'
import type { Site } from '@marmot/contract/people'
import { MOST_NOTE, noteOfText, textOfNote } from '@marmot/core/entries'
import {
  BadCalendar,
  type CalendarEntry,
  type CalendarTodo,
  type Cancelled,
  decodeText,
  isNewer,
  NOTHING_CHANGED,
  type Refused,
  readCalendar,
  sameEntry,
  sameTodo,
} from '@marmot/core/feeds'
import { instantOf, toWall, wallText, zoneTable } from '@marmot/core/time'
import {
  categoriesFor,
  firstDatesOf,
  insertEntries,
  nextVersion,
  noteChange,
  replaceOverrides,
  setDeleted,
  setOwnOfMany,
  stateOf,
  updateEntry,
  writeFirstDates,
  writeOccurrences,
} from '../entries/index.ts'
import { listSites, peopleByIds } from '../people/index.ts'
import { cleanNote } from '../platform/clean.ts'
import { at, type Sql, transaction } from '../platform/database.ts'
import { tellTime, tellTodos } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { ThreadWork } from '../platform/threads.ts'
import { changeTodoTo, insertTodos, type KnownTodo, todosOf } from '../todos/index.ts'
import { entriesOf, type KnownEntry } from './calendar.ts'
import { fileOf, forgetFile, keepFile } from './store.ts'

const MOST_REFUSED_SHOWN = 200
const MOST_ENTRIES = 50_000
const SAMPLES = 6
/** So many entries are written in one statement, and then progress is told. */
const STEP = 1000

/** What a file would do: entries that are not here yet, and those that are here and differ. */
interface Plan {
  readonly made: readonly CalendarEntry[]
  readonly changed: readonly { readonly known: KnownEntry; readonly next: CalendarEntry }[]
  /** Entries that the file says are off. */
  readonly removed: readonly KnownEntry[]
  readonly same: number
  readonly refused: readonly Refused[]
  /** What of its to-dos is not here yet, and what is here and differs. */
  readonly todosMade: readonly CalendarTodo[]
  readonly todosChanged: readonly { readonly known: KnownTodo; readonly next: CalendarTodo }[]
}

/** A note as it may be kept: cleaned, and where it is longer than one that can be typed, its beginning as plain text. */
const fittingNote = (html: string): string => {
  const clean = cleanNote(html)
  if (clean.length <= MOST_NOTE) return clean
  const text = textOfNote(clean)
  let most = Math.min(text.length, MOST_NOTE)
  let note = noteOfText(text.slice(0, most))
  while (note.length > MOST_NOTE) {
    most = Math.floor(most / 2)
    note = noteOfText(text.slice(0, most))
  }
  return note
}

/** An entry with notes that may be kept: itself where they may be already, since a large file has many. */
export const fitting = (entry: CalendarEntry): CalendarEntry => {
  const note = fittingNote(entry.note)
  const overrides = entry.overrides.map((one) => ({
    ...one,
    note: one.note === null ? null : fittingNote(one.note),
  }))
  const same = note === entry.note && overrides.every((one, i) => one.note === entry.overrides[i]?.note)
  return same ? entry : { ...entry, note, overrides }
}

/** A series without a date that the file says is off; the series itself where that changes nothing. */
const without = (entry: CalendarEntry, { date }: Cancelled): CalendarEntry => {
  if (!date) return entry
  const recurrence = entry.allDay ? date.wall : toWall(zoneTable(entry.zone), date.instant)
  const others = entry.overrides.filter((one) => one.recurrence !== recurrence)
  return {
    ...entry,
    overrides: [...others, { ...NOTHING_CHANGED, recurrence, cancelled: true }],
  }
}

/** Sites by their names in small letters. */
const sitesByName = async (sql: Sql): Promise<ReadonlyMap<string, Site>> =>
  new Map((await listSites(sql)).map((site) => [site.name.toLowerCase(), site]))

/** An entry out of doors at one of our sites, or at none. */
const atKnownSite = (entry: CalendarEntry, sites: ReadonlyMap<string, Site>): CalendarEntry => {
  if (!entry.outdoors) return entry
  const { outdoors, ...rest } = entry
  const site = sites.get(outdoors.toLowerCase())
  return site ? { ...rest, outdoors: site.name } : rest
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
  if (read.entries.length + read.todos.length > MOST_ENTRIES)
    throw new ProblemError(
      413,
      'too-many-entries',
      `It has ${read.entries.length + read.todos.length} entries and to-dos; the most is ${MOST_ENTRIES}.`,
    )
  const sites = await sitesByName(sql)
  const entries = read.entries.map(fitting).map((entry) => atKnownSite(entry, sites))
  const uids = [...entries, ...read.cancelled].map((one) => one.uid)
  const known = new Map((await entriesOf(sql, ownerId, { uids })).map((one) => [one.entry.uid, one]))
  // A meeting of ours is changed where its participants are told of it, not by a file; somebody else's by them alone.
  const isOurs = ({ own, entry }: KnownEntry, contacts: number) =>
    !own || (entry.contacts.length > 0 && contacts === 0)
  const made: CalendarEntry[] = []
  const changed: { known: KnownEntry; next: CalendarEntry }[] = []
  const removed: KnownEntry[] = []
  const refused = [...read.refused]
  const tell = (title: string, reason: string) => refused.push({ line: 0, title, reason, unknown: null })
  let same = 0
  for (const read of entries) {
    const here = known.get(read.uid)
    // A program that drops what it does not know takes nothing away by that.
    const next = { ...read, outdoors: read.outdoors ?? here?.entry.outdoors ?? null }
    if (!here) made.push(next)
    else if (sameEntry(here.entry, next) || isOurs(here, next.contacts.length)) same++
    else if (isNewer(here.entry, next)) tell(next.title, 'What is here already is newer.')
    else changed.push({ known: here, next })
  }
  for (const one of read.cancelled) {
    const here = known.get(one.uid)
    if (!here || isOurs(here, 0)) tell('', 'It was cancelled, and is not here.')
    else if (isNewer(here.entry, one)) tell(here.entry.title, 'What is here already is newer.')
    else if (one.date) changed.push({ known: here, next: without(here.entry, one) })
    else removed.push(here)
  }
  const todosMade: CalendarTodo[] = []
  const todosChanged: { known: KnownTodo; next: CalendarTodo }[] = []
  const todos = read.todos.map((todo) => ({ ...todo, note: fittingNote(todo.note) }))
  const uidsOfTodos = todos.map((todo) => todo.uid)
  const here = new Map((await todosOf(sql, ownerId, uidsOfTodos)).map((one) => [one.todo.uid, one]))
  for (const next of todos) {
    const one = here.get(next.uid)
    if (!one) todosMade.push(next)
    else if (sameTodo(one.todo, next)) same++
    else if (isNewer(one.todo, next)) tell(next.title, 'What is here already is newer.')
    else todosChanged.push({ known: one, next })
  }
  return { made, changed, removed, same, refused, todosMade, todosChanged }
}

/** An entry of a calendar as it is kept. */
export const stateFrom = ({ outdoors: _, ...entry }: CalendarEntry) => ({
  ...entry,
  starts: wallText(entry.starts),
  added: entry.added.map(wallText),
  excepted: entry.excepted.map(wallText),
  sourceSequence: entry.sequence,
  sourceStamp: entry.stamp === null ? null : at(entry.stamp),
})

/** The dates of it that differ, as they are kept. */
export const overridesFrom = (entry: CalendarEntry) =>
  entry.overrides.map((one) => ({
    ...one,
    recurrence: wallText(one.recurrence),
    starts: one.starts === null ? null : wallText(one.starts),
  }))

/** What is the owner's own of an entry: how it is sorted, and when they are reminded. */
const ownOf = (entryId: string, entry: CalendarEntry, categories: ReadonlyMap<string, string>) => ({
  entryId,
  categoryId: entry.category === null ? null : (categories.get(entry.category) ?? null),
  reminders: entry.reminders,
})

/** Writes a batch of new entries with their dates, a statement for each table. */
const insertMany = async (
  sql: Sql,
  ownerId: string,
  entries: readonly CalendarEntry[],
  categories: ReadonlyMap<string, string>,
  siteOf: (entry: CalendarEntry) => string | null,
  now: number,
): Promise<string[]> => {
  const rows = entries.map((entry) => ({ id: randomUUID(), entry }))
  await insertEntries(
    sql,
    ownerId,
    rows.map(({ id, entry }) => ({ ...stateFrom(entry), id, sourceUid: entry.uid, outdoors: siteOf(entry) })),
    now,
  )
  await setOwnOfMany(
    sql,
    rows.map(({ id, entry }) => ownOf(id, entry, categories)),
  )
  for (const { id, entry } of rows)
    if (entry.overrides.length) await replaceOverrides(sql, id, overridesFrom(entry))
  await writeFirstDates(
    sql,
    rows.flatMap(({ id, entry }) => firstDatesOf(id, entry, entry.overrides, entry.zone, now)),
  )
  return rows.map((row) => row.id)
}

const countOf = (plan: Plan): number =>
  plan.made.length +
  plan.changed.length +
  plan.removed.length +
  plan.todosMade.length +
  plan.todosChanged.length

/** Carries a plan out, telling how far it is; the caller's transaction makes it all or nothing. */
const carryOut = async (
  sql: Sql,
  ownerId: string,
  plan: Plan,
  now: number,
  tell: (progress: ImportProgress) => void,
): Promise<string> => {
  const of = countOf(plan)
  const touched: { id: string; version: number; was: Record<string, unknown> | null }[] = []
  const changed = [...plan.changed, ...plan.todosChanged].map((one) => one.next)
  const names = [...plan.made, ...plan.todosMade, ...changed].flatMap((one) => one.category ?? [])
  const categories = await categoriesFor(sql, ownerId, names)
  const sites = await sitesByName(sql)
  const siteOf = ({ outdoors }: CalendarEntry) => sites.get(outdoors?.toLowerCase() ?? '')?.id ?? null
  for (let i = 0; i < plan.made.length; i += STEP) {
    const ids = await insertMany(sql, ownerId, plan.made.slice(i, i + STEP), categories, siteOf, now)
    touched.push(...ids.map((id) => ({ id, version: 1, was: null })))
    tell({ done: touched.length, of })
  }
  for (const { known, next } of plan.changed) {
    const was = await stateOf(sql, known.id)
    await updateEntry(sql, known.id, { ...stateFrom(next), outdoors: siteOf(next) })
    await replaceOverrides(sql, known.id, overridesFrom(next))
    await setOwnOfMany(sql, [ownOf(known.id, next, categories)])
    await writeOccurrences(sql, known.id, now, next.starts - known.entry.starts)
    touched.push({ id: known.id, version: await nextVersion(sql, known.id), was })
    if (touched.length % 100 === 0) tell({ done: touched.length, of })
  }
  for (const known of plan.removed) {
    const was = await stateOf(sql, known.id)
    await setDeleted(sql, known.id, now)
    await writeOccurrences(sql, known.id, now)
    touched.push({ id: known.id, version: await nextVersion(sql, known.id), was })
  }
  tell({ done: touched.length, of })
  await tellTime(sql, [ownerId])
  const gone = plan.removed.length ? `, ${plan.removed.length} removed` : ''
  const title = `${plan.made.length} new, ${plan.changed.length} changed${gone} entries`
  const change = { ownerId, actorId: ownerId, kind: 'imported' as const, title, entries: touched }
  const changeId = await noteChange(sql, change, now)
  for (let i = 0; i < plan.todosMade.length; i += STEP) {
    const some = plan.todosMade.slice(i, i + STEP)
    await insertTodos(sql, ownerId, some, categories, changeId, now)
    tell({ done: touched.length + i + some.length, of })
  }
  for (const { known, next } of plan.todosChanged)
    await changeTodoTo(sql, known.id, next, categories, changeId, now)
  await tellTodos(sql, [ownerId])
  return changeId
}

/** A file that came to be looked at. `bytes` as they came; `now` in milliseconds. */
export interface LookInput {
  readonly personId: string
  readonly bytes: Uint8Array
  readonly charset: string | null
  readonly now: number
}

/** Reads a file, keeps it for a day, and says what it would do. Throws `ProblemError` when it is no calendar. */
export const lookAtImport: ThreadWork<LookInput, ImportPreview> = async (
  { personId, bytes, charset, now },
  { pool },
) => {
  const text = decodeText(bytes, charset).replaceAll('\0', '')
  const plan = await planOf(pool, personId, text)
  const importId = await keepFile(pool, personId, text, now)
  const sample = (entry: CalendarEntry, change: 'made' | 'changed' | 'removed') => ({
    title: entry.title,
    start: at(instantOf(zoneTable(entry.zone), entry.starts)),
    change,
  })
  return {
    importId,
    made: plan.made.length,
    changed: plan.changed.length,
    todos: { made: plan.todosMade.length, changed: plan.todosChanged.length },
    removed: plan.removed.length,
    same: plan.same,
    refused: plan.refused
      .slice(0, MOST_REFUSED_SHOWN)
      .map(({ line, title, reason }) => ({ line, title, reason })),
    refusedCount: plan.refused.length,
    samples: [
      ...plan.made.slice(0, SAMPLES).map((entry) => sample(entry, 'made')),
      ...plan.changed.slice(0, SAMPLES).map((one) => sample(one.next, 'changed')),
      ...plan.removed.slice(0, SAMPLES).map((one) => sample(one.entry, 'removed')),
    ].slice(0, SAMPLES),
  }
}

export interface TakeInput {
  readonly personId: string
  readonly importId: string
  readonly now: number
}

/** Imports a file that was looked at, all of it or nothing. Gives the change, null when there was nothing to do. */
export const carryOutImport: ThreadWork<TakeInput, { of: number; changeId: string | null }> = (
  { personId, importId, now },
  { pool, tell },
) =>
  transaction(pool, async (sql) => {
    // One import of a person at a time: two of the same file would both find its entries missing.
    const free = await sql.query<{ free: boolean }>(
      "select pg_try_advisory_xact_lock(hashtextextended('import ' || $1, 0)) as free",
      [personId],
    )
    if (!free.rows[0]?.free) throw importing()
    const text = await fileOf(sql, importId, personId)
    if (text === null) throw notFound('file that was looked at')
    // A large file takes longer than a request may; the locks it holds are on what it makes itself.
    await sql.query("set local statement_timeout = '5min'")
    const plan = await planOf(sql, personId, text)
    const of = countOf(plan)
    tell({ done: 0, of } satisfies ImportProgress)
    const changeId = of ? await carryOut(sql, personId, plan, now, tell) : null
    await forgetFile(sql, importId)
    return { of, changeId }
  })

/** Somebody asks for a second import while their first goes on. */
export const importing = (): ProblemError =>
  new ProblemError(409, 'importing', 'An import of yours goes on already. Wait for it, or stop it first.')
