import type { CHANGE_KINDS } from '@marmot/contract/entries'
import { detailFor, type Level, mayChange, NO_LEVEL } from '@marmot/core/sharing'
import { z } from 'zod'
import { addActNotice } from '../notices/index.ts'
import { at, type Sql, together } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { levelsFor } from '../sharing/index.ts'
import { takeOffAll, writeOccurrences } from './dates.ts'
import {
  ANSWER_COLUMNS,
  columnsOf,
  ENTRY_COLUMNS,
  ENTRY_FATE,
  OVERRIDE_COLUMNS,
  PARTICIPANT_COLUMNS,
  PARTICIPANT_USUAL,
} from './fields.ts'
import { lookingAt } from './looking.ts'
import { nextVersion, noteAsked } from './store.ts'

type Kind = (typeof CHANGE_KINDS)[number]

/**
 * All of an entry before a change, as JSON of its rows: itself, its overrides, its people with their answers, who takes
 * part in some dates alone, its dates by their names with the answers to each, its places. Null for one that the change makes.
 */
type State = Record<string, unknown> | null

/** What is kept of each entry that a change touched: the version it left, and what was before. */
export interface Touched {
  readonly id: string
  readonly version: number
  readonly was: State
}

const rowsSql = (what: string) => `coalesce((select jsonb_agg(${what}), '[]')`

/** The state of an entry, to be kept with the change that is about to be made. */
export const stateOf = async (sql: Sql, entryId: string): Promise<State> =>
  (
    await sql.query<{ state: State }>(
      `select jsonb_build_object(
                'entry', to_jsonb(e) - 'words',
                'overrides', ${rowsSql("to_jsonb(v) - 'words') from override v where v.entry_id = e.id")},
                'people', ${rowsSql('to_jsonb(p)) from participant p where p.entry_id = e.id')},
                'someDates', ${rowsSql(`to_jsonb(d)) from participant_date d join participant p on p.id = d.participant_id
                               where p.entry_id = e.id`)},
                'dates', ${rowsSql(`jsonb_build_object('id', o.id, 'recurrence', o.recurrence, 'span', o.span) order by o.id)
                           from occurrence o where o.entry_id = e.id and o.gone_at is null`)},
                'answers', ${rowsSql(`to_jsonb(a)) from attendance a join occurrence o on o.id = a.occurrence_id
                             where o.entry_id = e.id and a.answered_at is not null`)},
                'places', ${rowsSql(`to_jsonb(r)) from reservation r join occurrence o on o.id = r.occurrence_id
                            where o.entry_id = e.id and r.state <> 'released'`)}) as state
         from entry e where e.id = $1`,
      [entryId],
    )
  ).rows[0]?.state ?? null

/** Puts the entry itself, its overrides and its people back as they were; with their answers, if so asked. */
const putBackEntry = async (
  sql: Sql,
  entryId: string,
  state: NonNullable<State>,
  answers: boolean,
): Promise<void> => {
  const kept = JSON.stringify(state)
  const entry = [...ENTRY_COLUMNS, ...ENTRY_FATE]
  const answer = answers
    ? PARTICIPANT_COLUMNS
    : PARTICIPANT_COLUMNS.filter((one) => !ANSWER_COLUMNS.includes(one))
  await together([
    // What was added to the table since is as it is now.
    sql.query(
      `update entry e set (${entry.join()}) =
          (select ${columnsOf('r', entry)} from jsonb_populate_record(e, $2::jsonb -> 'entry') r) where e.id = $1`,
      [entryId, kept],
    ),
    sql.query('delete from override where entry_id = $1', [entryId]),
    sql.query(
      `insert into override (entry_id, ${OVERRIDE_COLUMNS.join()})
       select $1, ${columnsOf('r', OVERRIDE_COLUMNS)}
         from jsonb_populate_recordset(null::override, $2::jsonb -> 'overrides') r`,
      [entryId, kept],
    ),
    sql.query(
      `delete from participant p where p.entry_id = $1 and not exists (
         select 1 from jsonb_populate_recordset(null::participant, $2::jsonb -> 'people') r where r.id = p.id)`,
      [entryId, kept],
    ),
    // A category that was deleted since is none; the rest of who somebody is does not change.
    sql.query(
      `insert into participant (id, entry_id, person_id, guest_address, seen_at, ${PARTICIPANT_COLUMNS.join()})
       select r.id, $1, r.person_id, r.guest_address, r.seen_at, ${columnsOf('r', PARTICIPANT_COLUMNS)}
         from jsonb_populate_recordset(null::participant, (
                select jsonb_agg('${PARTICIPANT_USUAL}'::jsonb || one || jsonb_build_object('category_id',
                         (select c.id from category c where c.id = (one ->> 'category_id')::uuid)))
                  from jsonb_array_elements($2::jsonb -> 'people') one)) r
       on conflict (id) do update set (${answer.join()}) = row(${columnsOf('excluded', answer)})`,
      [entryId, kept],
    ),
  ])
}

/** Puts the dates of an entry back under their names, wherever they have gone. */
const putBackDates = async (sql: Sql, entryId: string, state: NonNullable<State>): Promise<void> => {
  const kept = JSON.stringify(state)
  await together([
    sql.query(
      `update occurrence o set gone_at = clock_timestamp() where o.entry_id = $1 and o.gone_at is null and not exists (
         select 1 from jsonb_populate_recordset(null::occurrence, $2::jsonb -> 'dates') r where r.id = o.id)`,
      [entryId, kept],
    ),
    sql.query(
      `insert into occurrence (id, entry_id, recurrence, span)
       select r.id, $1, r.recurrence, r.span from jsonb_populate_recordset(null::occurrence, $2::jsonb -> 'dates') r
       on conflict (id) do update
          set entry_id = excluded.entry_id, recurrence = excluded.recurrence, span = excluded.span, gone_at = null`,
      [entryId, kept],
    ),
    sql.query(
      `delete from attendance a using occurrence o where o.id = a.occurrence_id and o.entry_id = $1`,
      [entryId],
    ),
  ])
}

/** Puts back who took part in some dates alone. */
const putBackSomeDates = async (sql: Sql, entryId: string, state: NonNullable<State>): Promise<void> => {
  await sql.query(
    `delete from participant_date d using participant p where p.id = d.participant_id and p.entry_id = $1`,
    [entryId],
  )
  await sql.query(
    `insert into participant_date (participant_id, occurrence_id, takes_part)
     select r.participant_id, r.occurrence_id, r.takes_part
       from jsonb_populate_recordset(null::participant_date, coalesce($1::jsonb -> 'someDates', '[]')) r
       join occurrence o on o.id = r.occurrence_id`,
    [JSON.stringify(state)],
  )
}

/** Puts each person's answers to single dates back. */
const putBackAnswers = async (sql: Sql, state: NonNullable<State>): Promise<void> => {
  await sql.query(
    `update attendance a set answer = r.answer, message = r.message, answered_at = r.answered_at,
            answered_by = r.answered_by, answer_stamp = r.answer_stamp, answered_version = r.answered_version,
            quiet = coalesce(r.quiet, false)
       from jsonb_populate_recordset(null::attendance, $1::jsonb -> 'answers') r
      where a.occurrence_id = r.occurrence_id and a.participant_id = r.participant_id`,
    [JSON.stringify(state)],
  )
}

/** Whether an entry stands at the times that it stood at in a state. */
const standsAsIn = async (sql: Sql, entryId: string, state: NonNullable<State>): Promise<boolean> => {
  const dates = await sql.query<{ same: boolean }>(
    `select coalesce(jsonb_agg(jsonb_build_object('id', o.id, 'recurrence', o.recurrence, 'span', o.span) order by o.id), '[]')
              = $2::jsonb -> 'dates' as same
       from occurrence o where o.entry_id = $1 and o.gone_at is null`,
    [entryId, JSON.stringify(state)],
  )
  return dates.rows[0]?.same ?? false
}

/**
 * Puts an entry back as it was. What was answered since stays, as long as the change that is taken back did not touch
 * the time that the answer is to. Gives whether its times were the same all along.
 */
const putBack = async (
  sql: Sql,
  entryId: string,
  state: NonNullable<State>,
  now: number,
): Promise<boolean> => {
  const sameTimes = await standsAsIn(sql, entryId, state)
  await putBackEntry(sql, entryId, state, !sameTimes)
  if (!sameTimes) await putBackDates(sql, entryId, state)
  await putBackSomeDates(sql, entryId, state)
  await writeOccurrences(sql, entryId, now)
  if (!sameTimes) await putBackAnswers(sql, state)
  return sameTimes
}

/**
 * Keeps a change with what was before it, and tells the owner when somebody else made it. Run after the entries have
 * their new versions, in the same transaction.
 */
export const noteChange = async (
  sql: Sql,
  change: { ownerId: string; actorId: string; kind: Kind; title: string; entries: readonly Touched[] },
  now: number,
): Promise<string> => {
  const rows = await sql.query<{ id: string }>(
    `insert into change (owner_id, actor_id, entry_id, kind, title, entries, at)
     values ($1, $2, $3, $4, $5, $6, $7) returning id`,
    [
      change.ownerId,
      change.actorId,
      change.entries[0]?.id ?? null,
      change.kind,
      change.title,
      JSON.stringify(change.entries),
      at(now),
    ],
  )
  const id = rows.rows[0]?.id ?? ''
  if (change.actorId !== change.ownerId) await addActNotice(sql, change.ownerId, change.actorId, id, now)
  return id
}

const changedSince = (): ProblemError =>
  new ProblemError(
    409,
    'changed-since',
    'It was changed again since, so this cannot be taken back. Nothing was changed now.',
  )

/** Deletes what a change made, all at once: an import can be ten thousand entries. */
const unmake = async (sql: Sql, made: readonly Touched[], now: number): Promise<void> => {
  if (made.length === 0) return
  const gone = await sql.query(
    `update entry e set deleted_at = $3, version = e.version + 1
       from unnest($1::uuid[], $2::integer[]) m(id, version) where e.id = m.id and e.version = m.version`,
    [made.map((one) => one.id), made.map((one) => one.version), at(now)],
  )
  if (gone.rowCount !== made.length) throw changedSince()
  await takeOffAll(
    sql,
    made.map((one) => one.id),
  )
}

const versionIn = (state: NonNullable<State>): number => {
  const { entry } = state
  return entry && typeof entry === 'object' && 'version' in entry ? Number(entry.version) : 0
}

/**
 * The state that an entry had at one version is back under another, so the change that led to it can be taken back in
 * its turn: undo goes as far as one likes.
 */
const carryVersion = async (sql: Sql, entryId: string, from: number, to: number): Promise<void> => {
  await sql.query(
    `update change set entries =
        (select jsonb_agg(case when e @> $1::jsonb then jsonb_set(e, '{version}', $2::jsonb) else e end)
           from jsonb_array_elements(entries) e)
      where entries @> jsonb_build_array($1::jsonb) and undone_at is null`,
    [JSON.stringify({ id: entryId, version: from }), JSON.stringify(to)],
  )
}

interface ChangeRow {
  owner_id: string
  actor_id: string
  entries: Touched[]
  undone: boolean
  /** Whether it did something to to-dos, too: an import does. */
  more: boolean
}

const privacyState = z.object({
  entry: z.object({ private: z.boolean() }),
  overrides: z.array(z.object({ private: z.boolean().nullable() })),
})

/** Whether a kept state has anything private in it. */
const isPrivateState = (state: State): boolean => {
  const parts = privacyState.safeParse(state)
  return (
    parts.success && (parts.data.entry.private || parts.data.overrides.some((one) => one.private === true))
  )
}

/** Throws unless whoever made a change for somebody may still make such a one. */
const stillMay = async (sql: Sql, change: ChangeRow, askerId: string, now: number): Promise<void> => {
  const looking = await lookingAt(sql, askerId, change.owner_id, null, now)
  if (!mayChange({ private: change.entries.some((one) => isPrivateState(one.was)) }, looking))
    throw notFound('change')
}

/** An entry after a change of it was taken back, with the places that were reserved for it before. */
export interface UndoneEntry {
  readonly entryId: string
  readonly places: readonly KeptPlace[]
}

/** A reservation as a state keeps it. */
export type KeptPlace = z.infer<typeof keptPlace>
const keptPlace = z.object({
  id: z.uuid(),
  resource_id: z.uuid(),
  span: z.string(),
  state: z.string().optional(),
})

const placedState = z.object({ places: z.array(keptPlace) })

const placesIn = (state: State): KeptPlace[] => {
  // An import that is taken back made tens of thousands of entries, none of which was anything before.
  const read = state === null ? null : placedState.safeParse(state)
  return read?.success ? read.data.places : []
}

/**
 * Takes a change back: every entry it touched gets its state of before, if it still has the version that the change
 * left. The owner may, and whoever made the change as long as they may still make one. Doing it twice is doing it once.
 * Gives the owner's id, and the entries with the places that each had: those are the caller's to put back.
 */
export const undo = async (
  sql: Sql,
  changeId: string,
  askerId: string,
  now: number,
): Promise<{ ownerId: string; entries: UndoneEntry[] }> => {
  const rows = await sql.query<ChangeRow>(
    `select owner_id, actor_id, entries, undone_at is not null as undone,
            exists (select 1 from todo_change t where t.change_id = change.id) as more from change
      where id = $1 and (owner_id = $2 or actor_id = $2) for update`,
    [changeId, askerId],
  )
  const [change] = rows.rows
  if (!change) throw notFound('change')
  if (change.owner_id !== askerId) await stillMay(sql, change, askerId, now)
  if (change.undone) return { ownerId: change.owner_id, entries: [] }
  if (change.entries.length === 0 && !change.more)
    throw new ProblemError(409, 'too-late', 'That was too long ago to be taken back.')
  const made = change.entries.filter((one) => one.was === null)
  await unmake(sql, made, now)
  for (const { id, version, was } of change.entries) {
    if (!was) continue
    const current = await sql.query<{ version: number }>(
      'select version from entry where id = $1 for update',
      [id],
    )
    if (current.rows[0]?.version !== version) throw changedSince()
    const sameTimes = await putBack(sql, id, was, now)
    await carryVersion(sql, id, versionIn(was), await nextVersion(sql, id))
    if (!sameTimes) await noteAsked(sql, id)
  }
  await sql.query('update change set undone_at = $2 where id = $1', [changeId, at(now)])
  const entries = change.entries.map(({ id, was }) => ({ entryId: id, places: placesIn(was) }))
  return { ownerId: change.owner_id, entries }
}

/** The change that left an entry at a version, which somebody may take back; null when there is none such. */
export const newestChange = async (
  sql: Sql,
  entryId: string,
  version: number,
  askerId: string,
): Promise<string | null> =>
  (
    await sql.query<{ id: string }>(
      `select id from change where entries @> jsonb_build_array($1::jsonb) and undone_at is null
          and (owner_id = $2 or actor_id = $2) order by at desc limit 1`,
      [JSON.stringify({ id: entryId, version }), askerId],
    )
  ).rows[0]?.id ?? null

/**
 * What others did for a person, and what they did for others, newest first. Of what they did for others they get the
 * title as far as they may see it now.
 */
export const readChanges = async (sql: Sql, personId: string, now: number) => {
  const rows = await sql.query<{
    id: string
    kind: Kind
    title: string
    actor: string
    owner: string
    ownerId: string
    forMe: boolean
    private: boolean
    at: Date
    undone: boolean
  }>(
    `select c.id, c.kind, c.title, a.name as actor, o.name as owner, c.owner_id as "ownerId",
            c.owner_id = $1 as "forMe", c.at, c.undone_at is not null as undone,
            coalesce(e.private or exists (select 1 from override v where v.entry_id = e.id and v.private), false) as private
       from change c join person a on a.id = c.actor_id join person o on o.id = c.owner_id
       left join entry e on e.id = c.entry_id
      where c.actor_id <> c.owner_id and (c.owner_id = $1 or c.actor_id = $1) order by c.at desc limit 100`,
    [personId],
  )
  const owners = [...new Set(rows.rows.map((row) => row.ownerId))]
  const levels: ReadonlyMap<string, Level> = await levelsFor(sql, personId, owners, now)
  return rows.rows.map(({ ownerId, private: isPrivate, ...row }) => {
    const level = levels.get(ownerId) ?? NO_LEVEL
    const detail = detailFor({ private: isPrivate }, { level, owns: row.forMe, participates: false })
    return { ...row, title: detail === 'everything' ? row.title : '', at: row.at.toISOString() }
  })
}

/** Forgets the states of long ago: what was done stays to be looked up, but cannot be taken back any more. */
export const tidyChanges = async (sql: Sql, now: number): Promise<void> => {
  await sql.query(
    "update change set entries = '[]' where at < $1::timestamptz - interval '60 days' and entries <> '[]'",
    [at(now)],
  )
}
