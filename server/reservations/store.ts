import type { ReservationOnWire } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import type { PlaceOnDate } from '@marmot/core/reservations'
import { NO_LEVEL, type SpanState, seenSpan } from '@marmot/core/sharing'
import { DAY, instantText } from '@marmot/core/time'
import { at, endMs, type Sql, startMs, together, wallSql } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'

interface Row {
  id: string
  resource_id: string
  person_id: string
  by: string
  start: number
  end: number
  state: 'held' | 'requested' | 'taken'
  entry_id: string
  occurrence_id: string
  recurrence: string
  title: string
  private: boolean
}

/** Spans as a multirange of PostgreSQL's, in which those that touch are one. */
export const multirange = (spans: readonly Span[]): string =>
  `{${spans.map(({ start, end }) => `[${at(start)},${at(end)})`).join(',')}}`

/** The dates, by their ids, in which somebody takes part and that touch any of the spans, or come within a day of one. */
const datesWith = async (
  sql: Sql,
  personId: string,
  spans: readonly Span[],
): Promise<ReadonlySet<string>> => {
  // What a place is kept free for before and after reaches further than the date itself.
  const wide = spans.map(({ start, end }) => ({ start: start - DAY, end: end + DAY }))
  const rows = await sql.query<{ id: string }>(
    'select occurrence_id as id from attendance where person_id = $1 and span && $2::tstzmultirange',
    [personId, multirange(wide)],
  )
  return new Set(rows.rows.map((row) => row.id))
}

/**
 * Reservations that touch any of the spans, each as far as the asker may know: who has it by whether they share anything
 * at all, what for by the level. A hold that has lapsed keeps nobody out and is left out.
 */
export const readReservations = async (
  sql: Sql,
  askerId: string,
  spans: readonly Span[],
  now: number,
  resourceIds?: readonly string[],
  /** An entry whose own reservations are passed over. */
  besides: string | null = null,
  /** Dates, by their ids, whose reservations are passed over. */
  apart: readonly string[] = [],
): Promise<ReservationOnWire[]> => {
  const reading = sql.query<Row>(
    `select r.id, r.resource_id, r.person_id, p.name as by, ${startMs('r.span')} as start, ${endMs('r.span')} as end,
            r.state, o.entry_id, r.occurrence_id, ${wallSql('o.recurrence')} as recurrence, coalesce(nullif(v.title, ''), e.title) as title,
            coalesce(v.private, e.private) as private
       from reservation r join person p on p.id = r.person_id
       join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where r.state <> 'released' and r.blocked && $1::tstzmultirange
        and (r.lapses_at is null or r.lapses_at > $2)
        and ($3::uuid is null or o.entry_id <> $3) ${resourceIds ? 'and r.resource_id = any($4)' : ''}
      order by lower(r.span), r.id`,
    [multirange(spans), at(now), besides, ...(resourceIds ? [resourceIds] : [])],
  )
  const [rows, takesPartIn] = await together([reading, datesWith(sql, askerId, spans)])
  const leftOut = new Set(apart)
  const reserved = rows.rows.filter((row) => !leftOut.has(row.occurrence_id))
  const owners = [...new Set(reserved.map((row) => row.person_id))]
  const levels = await levelsFor(sql, askerId, owners, now)
  return reserved.map((row): ReservationOnWire => {
    const level = levels.get(row.person_id) ?? NO_LEVEL
    const { start, end, title } = row
    const state: SpanState = row.state === 'taken' ? 'busy' : 'held'
    const takesPart = takesPartIn.has(row.occurrence_id)
    const mine = row.person_id === askerId
    const seen = seenSpan(
      { start, end, state, title, place: '', private: row.private, entryId: row.entry_id },
      { level, owns: mine, participates: takesPart },
    )
    const shown: ReservationOnWire = {
      start: instantText(start),
      end: instantText(end),
      state,
      mine,
      requested: row.state === 'requested',
      id: row.id,
      resourceId: row.resource_id,
      by: level.sees !== 'nothing' || takesPart ? row.by : 'somebody',
    }
    if (seen?.title !== undefined) shown.title = seen.title
    if (seen?.entryId !== undefined) {
      shown.entryId = seen.entryId
      shown.recurrence = row.recurrence
    }
    return shown
  })
}

/**
 * Locks resources until the transaction ends, in one fixed order, so that two takers of the same places wait for one
 * another instead of for ever. The constraint alone would be right too, but two inserts at once can end in a deadlock. Whoever is
 * going to move entries names them, too: all that they have is locked at once, and not the one after the other.
 */
export const lockResources = async (
  sql: Sql,
  ids: readonly string[],
  entryIds: readonly string[] = [],
): Promise<void> => {
  const theirs = `or id in (select r.resource_id from reservation r join occurrence o on o.id = r.occurrence_id
                             where o.entry_id = any($2) and r.state <> 'released')`
  await sql.query(
    `select id from resource where id = any($1) ${entryIds.length > 0 ? theirs : ''} order by id for no key update`,
    entryIds.length > 0 ? [ids, entryIds] : [ids],
  )
}

/** Lets go of holds that lapsed, so that the constraint no longer counts them. */
export const releaseLapsed = async (sql: Sql, resourceIds: readonly string[], now: number): Promise<void> => {
  await sql.query(
    // Of a request the instant stays, by which whoever asked is told.
    `update reservation set state = 'released', lapses_at = case when state = 'requested' then lapses_at end
      where state in ('held', 'requested') and lapses_at <= $2 and resource_id = any($1)`,
    [resourceIds, at(now)],
  )
}

/** The name PostgreSQL gives the refusal of a second reservation. */
export const NO_DOUBLE = 'reservation_no_double'

/** A place to be taken for one date of an entry. */
export interface Taking extends Span {
  readonly resourceId: string
  readonly recurrence: string
}

/**
 * SQL: what a reservation of an entry is (`e`, of the place `p`, at a span): a hold goes when its entry does; a place whose
 * steward decides is requested first, unless they reserve it themselves, and the request lapses by its rule or when it would
 * begin, but not before somebody can have seen it.
 */
const stateSql = (span: string, now: string) => ({
  asks: `(e.lapses_at is null and p.asks_approval and p.steward_id is distinct from e.owner_id)`,
  state: `case when e.lapses_at is not null then 'held'
               when p.asks_approval and p.steward_id is distinct from e.owner_id then 'requested' else 'taken' end`,
  lapses: `case when e.lapses_at is not null then e.lapses_at
                when p.asks_approval and p.steward_id is distinct from e.owner_id then
                  greatest(least(${now} + make_interval(hours => p.approval_hours), lower(${span})),
                           ${now} + interval '${LEAST_WAIT}') end`,
})
const LEAST_WAIT = '15 minutes'

/**
 * Takes places for dates of an entry that are written out already: for its owner, until it lapses where it is a hold. The
 * database refuses it (`NO_DOUBLE`) when somebody else has one.
 */
export const insertReservations = async (
  sql: Sql,
  takings: readonly Taking[],
  entryId: string,
  now: number,
): Promise<void> => {
  if (takings.length === 0) return
  const { state, lapses } = stateSql('tstzrange(d.starts, d.ends)', '$6::timestamptz')
  const taken = await sql.query(
    `insert into reservation (resource_id, occurrence_id, span, person_id, state, lapses_at)
     select d.resource, o.id, tstzrange(d.starts, d.ends), e.owner_id, ${state}, ${lapses}
       from unnest($2::uuid[], $3::timestamp[], $4::timestamptz[], $5::timestamptz[]) d(resource, recurrence, starts, ends)
       join entry e on e.id = $1 join resource p on p.id = d.resource
       join occurrence o on o.entry_id = e.id and o.recurrence = d.recurrence and o.gone_at is null`,
    [
      entryId,
      takings.map((one) => one.resourceId),
      takings.map((one) => one.recurrence),
      takings.map((one) => at(one.start)),
      takings.map((one) => at(one.end)),
      at(now),
    ],
  )
  if (taken.rowCount !== takings.length) throw new Error('a place was wanted for a date that there is not')
}

/** Releases what an entry has reserved, for one of its dates, with `following` for those after it too, or for all; gives the resources' ids. */
export const releaseOfEntry = async (
  sql: Sql,
  entryId: string,
  recurrence: string | null = null,
  following = false,
): Promise<string[]> =>
  (
    await sql.query<{ resource_id: string }>(
      `update reservation r set state = 'released', lapses_at = null from occurrence o
        where o.id = r.occurrence_id and o.entry_id = $1 and r.state <> 'released'
          and ($2::timestamp is null or o.recurrence = $2 or ($3 and o.recurrence > $2))
      returning r.resource_id`,
      [entryId, recurrence, following],
    )
  ).rows.map((row) => row.resource_id)

/** Forgets the reservations of entries that are taken away for good, as of holds, and gives the resources' ids. */
export const forgetOfEntries = async (sql: Sql, entryIds: readonly string[]): Promise<string[]> =>
  (
    await sql.query<{ resource_id: string }>(
      `delete from reservation r using occurrence o where o.id = r.occurrence_id and o.entry_id = any($1)
       returning r.resource_id`,
      [entryIds],
    )
  ).rows.map((row) => row.resource_id)

/** A reservation of an entry, with the date that it is for. */
export interface OwnReservation extends PlaceOnDate {
  readonly id: string
  readonly recurrence: string
  readonly gone: boolean
  /** As PostgreSQL writes it in JSON, to be compared with what was kept. */
  readonly span: string
}

/** What an entry has reserved, for all of its dates. */
export const reservedBy = async (sql: Sql, entryId: string): Promise<OwnReservation[]> =>
  (
    await sql.query<OwnReservation>(
      `select r.id, r.resource_id as "resourceId", r.occurrence_id as "occurrenceId",
              ${wallSql('o.recurrence')} as recurrence, o.gone_at is not null as gone, to_jsonb(r.span) #>> '{}' as span,
              ${startMs('r.span')} as start, ${endMs('r.span')} as end
         from occurrence o join reservation r on r.occurrence_id = o.id
        where o.entry_id = $1 and r.state <> 'released'`,
      [entryId],
    )
  ).rows

/** Those of some entries that have places for any date, also for one that they give no more. */
export const stillReserving = async (sql: Sql, entryIds: readonly string[]): Promise<Set<string>> => {
  const rows = await sql.query<{ id: string }>(
    `select e.id from unnest($1::uuid[]) e(id) where exists (
       select 1 from occurrence o join reservation r on r.occurrence_id = o.id
        where o.entry_id = e.id and r.state <> 'released')`,
    [entryIds],
  )
  return new Set(rows.rows.map((row) => row.id))
}

export const releaseReservations = async (sql: Sql, ids: readonly string[]): Promise<void> => {
  if (ids.length === 0) return
  await sql.query("update reservation set state = 'released', lapses_at = null where id = any($1)", [ids])
}

/**
 * Takes released reservations up again, each at a span. The database refuses it (`NO_DOUBLE`) when somebody has one. What its
 * steward decides about is asked for anew, unless it is only put `back` as it was.
 */
export const takeUpAgain = async (
  sql: Sql,
  moved: readonly { readonly id: string; readonly span: string; readonly state?: string | undefined }[],
  now: number,
  back = false,
): Promise<void> => {
  const { state, lapses } = stateSql('d.span', '$3::timestamptz')
  const granted = `($4 and d.was = 'taken' and e.lapses_at is null)`
  await sql.query(
    `update reservation r
        set state = case when ${granted} then 'taken' else ${state} end,
            lapses_at = case when ${granted} then null else ${lapses} end, span = d.span
       from unnest($1::uuid[], $2::tstzrange[], $5::text[]) d(id, span, was), occurrence o, entry e, resource p
      where r.id = d.id and o.id = r.occurrence_id and e.id = o.entry_id and p.id = r.resource_id`,
    [
      moved.map((one) => one.id),
      moved.map((one) => one.span),
      at(now),
      back,
      moved.map((one) => one.state ?? 'taken'),
    ],
  )
}
