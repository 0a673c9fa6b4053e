import { randomUUID } from 'node:crypto'
import type { OccurrenceOnWire } from '@marmot/contract/entries'
import { type Answer, type SpanState, stateOnLane } from '@marmot/core/sharing'
import { at, endMs, type Sql, startMs, wallSql } from '../platform/database.ts'

interface Row {
  entry_id: string
  recurrence: string
  start: number
  end: number
  zone: string
  title: string
  place: string
  note: string
  shows: SpanState
  answer: Answer
  repeats: boolean
  meeting: boolean
  mine: boolean
  private: boolean
  version: number
}

/** The dates on a person's own lane in `[from, to)`, in order. Declined ones are left out. */
export const ownOccurrences = async (
  sql: Sql,
  personId: string,
  from: number,
  to: number,
): Promise<OccurrenceOnWire[]> => {
  const rows = await sql.query<Row>(
    `select e.id as entry_id, ${wallSql('o.recurrence')} as recurrence, ${startMs('a.span')} as start,
            ${endMs('a.span')} as end, e.zone, coalesce(v.title, e.title) as title,
            coalesce(v.place, e.place) as place, coalesce(v.note, e.note) as note,
            coalesce(v.shows, e.shows) as shows, a.answer, e.rule is not null as repeats,
            exists (select 1 from participant x where x.entry_id = e.id and x.person_id is distinct from e.owner_id)
              as meeting,
            e.owner_id = a.person_id as mine, coalesce(v.private, e.private) as private, e.version
       from attendance a
       join occurrence o on o.id = a.occurrence_id
       join entry e on e.id = o.entry_id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where a.person_id = $1 and a.span && tstzrange($2, $3)
      order by lower(a.span), e.id`,
    [personId, at(from), at(to)],
  )
  return rows.rows.flatMap((row) => {
    const state = stateOnLane(row.shows, row.answer)
    if (!state) return []
    const { entry_id, ...rest } = row
    return [
      {
        ...rest,
        entryId: entry_id,
        state,
        start: new Date(row.start).toISOString(),
        end: new Date(row.end).toISOString(),
      },
    ]
  })
}

export interface NewEntry {
  readonly ownerId: string
  readonly zone: string
  /** `YYYY-MM-DDTHH:mm` in `zone`. */
  readonly starts: string
  readonly minutes: number
  readonly title: string
  readonly place: string
  readonly note: string
  readonly shows: SpanState
  readonly private: boolean
}

/** Makes an entry with its owner as its organizer. Occurrences are the caller's to write once all take part. */
export const insertEntry = async (sql: Sql, entry: NewEntry, now: number): Promise<string> => {
  const id = randomUUID()
  await sql.query(
    `insert into entry (id, uid, owner_id, zone, starts, minutes, title, place, note, shows, private, created_at)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)`,
    [
      id,
      `${id}@marmot.corrie.example`,
      entry.ownerId,
      entry.zone,
      entry.starts,
      entry.minutes,
      entry.title,
      entry.place,
      entry.note,
      entry.shows,
      entry.private,
      at(now),
    ],
  )
  await sql.query(
    "insert into participant (entry_id, person_id, organizer, answer) values ($1, $2, true, 'accepted')",
    [id, entry.ownerId],
  )
  return id
}

export interface OwnEntry {
  readonly version: number
  readonly repeats: boolean
  readonly meeting: boolean
  readonly deleted: boolean
  readonly starts: string
  readonly minutes: number
  readonly title: string
}

/** An entry of the owner's, locked until the transaction ends; null when there is none, or it is somebody else's. */
export const lockOwnEntry = async (sql: Sql, entryId: string, ownerId: string): Promise<OwnEntry | null> =>
  (
    await sql.query<OwnEntry>(
      `select version, rule is not null as repeats, deleted_at is not null as deleted, ${wallSql('starts')} as starts,
              minutes, title,
              exists (select 1 from participant x where x.entry_id = entry.id and not x.organizer) as meeting
         from entry where id = $1 and owner_id = $2 for update`,
      [entryId, ownerId],
    )
  ).rows[0] ?? null

export type Change = Omit<NewEntry, 'ownerId'>

/** Changes a single entry whole. */
export const updateEntry = async (sql: Sql, entryId: string, change: Change): Promise<void> => {
  await sql.query(
    `update entry set zone = $2, starts = $3, minutes = $4, title = $5, place = $6, note = $7, shows = $8,
            private = $9 where id = $1`,
    [
      entryId,
      change.zone,
      change.starts,
      change.minutes,
      change.title,
      change.place,
      change.note,
      change.shows,
      change.private,
    ],
  )
}

/** Changes one date of a series. Its wall time is in the series' own zone. */
export const putOverride = async (
  sql: Sql,
  entryId: string,
  recurrence: string,
  change: Change,
): Promise<void> => {
  await sql.query(
    `insert into override (entry_id, recurrence, cancelled, starts, minutes, title, place, note, shows, private)
     values ($1, $2, false, $3, $4, $5, $6, $7, $8, $9)
     on conflict (entry_id, recurrence) do update set cancelled = false, starts = excluded.starts,
       minutes = excluded.minutes, title = excluded.title, place = excluded.place, note = excluded.note,
       shows = excluded.shows, private = excluded.private`,
    [
      entryId,
      recurrence,
      change.starts,
      change.minutes,
      change.title,
      change.place,
      change.note,
      change.shows,
      change.private,
    ],
  )
}

/** Cancels one date of a series, or brings it back as it was. */
export const cancelDate = async (
  sql: Sql,
  entryId: string,
  recurrence: string,
  cancelled: boolean,
): Promise<void> => {
  await sql.query(
    `insert into override (entry_id, recurrence, cancelled) values ($1, $2, $3)
     on conflict (entry_id, recurrence) do update set cancelled = excluded.cancelled`,
    [entryId, recurrence, cancelled],
  )
}

export const setDeleted = async (sql: Sql, entryId: string, deletedAt: number | null): Promise<void> => {
  await sql.query('update entry set deleted_at = $2 where id = $1', [
    entryId,
    deletedAt === null ? null : at(deletedAt),
  ])
}

export const nextVersion = async (sql: Sql, entryId: string): Promise<number> => {
  const rows = await sql.query<{ version: number }>(
    'update entry set version = version + 1 where id = $1 returning version',
    [entryId],
  )
  return rows.rows[0]?.version ?? 0
}

export const isOccurrence = async (sql: Sql, entryId: string, recurrence: string): Promise<boolean> =>
  ((
    await sql.query('select 1 from occurrence where entry_id = $1 and recurrence = $2', [entryId, recurrence])
  ).rowCount ?? 0) > 0

export const seriesZone = async (sql: Sql, entryId: string): Promise<string> =>
  (await sql.query<{ zone: string }>('select zone from entry where id = $1', [entryId])).rows[0]?.zone ??
  'UTC'
