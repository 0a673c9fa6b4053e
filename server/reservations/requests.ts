import type { Request } from '@marmot/contract/asked'
import type { AskWhom } from '@marmot/core/reservations'
import { instantText } from '@marmot/core/time'
import { at, endMs, msSql, type Sql, startMs, wallSql } from '../platform/database.ts'

/** A place that was asked for, of whom, by whom. */
export interface PlaceAsked {
  readonly entryId: string
  readonly resourceId: string
  readonly place: string
  readonly ownerId: string
  readonly by: string
  readonly stewardId: string | null
  /** The dates that it was asked for, by their wall times. */
  readonly recurrences: readonly string[]
}

const ASKED = `o.entry_id as "entryId", r.resource_id as "resourceId", p.name as place, r.person_id as "ownerId",
  w.name as by, p.steward_id as "stewardId"`

/** What is requested of places for an entry of which their stewards were not told yet. */
export const newRequests = async (
  sql: Sql,
  entryId: string,
): Promise<{ readonly stewardId: string; readonly place: string }[]> =>
  (
    await sql.query<{ stewardId: string; place: string }>(
      `select distinct p.steward_id as "stewardId", p.name as place
         from occurrence o join reservation r on r.occurrence_id = o.id join resource p on p.id = r.resource_id
        where o.entry_id = $1 and r.state = 'requested' and p.steward_id is not null
          and not exists (select 1 from notice n where n.entry_id = $1 and n.person_id = p.steward_id and n.kind = 'asked'
                             and n.words = p.name)`,
      [entryId],
    )
  ).rows

/** What waits for a steward's decision, what lapses soonest first. */
export const requestsFor = async (
  sql: Sql,
  stewardId: string,
  now: number,
): Promise<Omit<Request, 'proposed'>[]> => {
  const rows = await sql.query<{
    entryId: string
    resourceId: string
    place: string
    siteId: string
    zone: string
    by: string
    purpose: string
    headCount: number | null
    contact: AskWhom | null
    dates: { start: number; end: number; recurrence: string | null }[]
    lapses: number
  }>(
    `select o.entry_id as "entryId", r.resource_id as "resourceId", p.name as place, p.site_id as "siteId", s.zone,
            w.name as by, e.purpose, e.head_count as "headCount", e.contact, ${msSql('min(r.lapses_at)')} as lapses,
            json_agg(json_build_object('start', ${startMs('r.span')}, 'end', ${endMs('r.span')}, 'recurrence',
              case when e.rule is not null then ${wallSql('o.recurrence')} end) order by lower(r.span)) as dates
       from resource p join reservation r on r.resource_id = p.id and r.state = 'requested' and r.lapses_at > $2
       join site s on s.id = p.site_id join person w on w.id = r.person_id
       join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
      where p.steward_id = $1
      group by o.entry_id, r.resource_id, p.name, p.site_id, s.zone, w.name, e.purpose, e.head_count, e.contact
      order by min(r.lapses_at) limit 50`,
    [stewardId, at(now)],
  )
  return rows.rows.map(({ dates, lapses, ...row }) => ({
    ...row,
    dates: dates.map(({ start, end, recurrence }) => ({
      start: instantText(start),
      end: instantText(end),
      recurrence,
    })),
    lapses: instantText(lapses),
  }))
}

/**
 * Grants or refuses what is requested of a place for an entry, and has not lapsed: for `only` one date, or all. `found` is whether the place is looked
 * after by whoever decides and the entry ever wanted it; `asked` is null where nothing is left to decide.
 */
export const decideRequests = async (
  sql: Sql,
  { entryId, resourceId, stewardId }: { entryId: string; resourceId: string; stewardId: string },
  grant: boolean,
  now: number,
  only: string | null = null,
): Promise<{ found: boolean; asked: PlaceAsked | null; dates: number }> => {
  const known = await sql.query<Omit<PlaceAsked, 'recurrences'>>(
    `select ${ASKED} from resource p join reservation r on r.resource_id = p.id join occurrence o on o.id = r.occurrence_id
       join person w on w.id = r.person_id
      where p.id = $2 and p.steward_id = $3 and o.entry_id = $1 limit 1 for no key update of p`,
    [entryId, resourceId, stewardId],
  )
  const decided = await sql.query<{ recurrence: string }>(
    `update reservation r set state = $3, lapses_at = null from occurrence o, resource p
      where o.id = r.occurrence_id and o.entry_id = $1 and r.resource_id = $2 and r.state = 'requested' and r.lapses_at > $4
        and p.id = r.resource_id and p.steward_id = $5 and ($6::timestamp is null or o.recurrence = $6)
      returning ${wallSql('o.recurrence')} as recurrence`,
    [entryId, resourceId, grant ? 'taken' : 'released', at(now), stewardId, only],
  )
  const recurrences = decided.rows.map((row) => row.recurrence)
  const [asked] = known.rows
  return {
    found: asked !== undefined,
    asked: asked && recurrences.length > 0 ? { ...asked, recurrences } : null,
    dates: recurrences.length,
  }
}

/** A date for which a place is asked for, and of whom. Instants in milliseconds. */
export interface RequestedDate {
  readonly occurrenceId: string
  readonly recurrence: string
  readonly start: number
  readonly end: number
  readonly place: string
  readonly ownerId: string
}

/** The date of an entry, the first where none is named, for which a place is asked of its steward; null where none is. */
export const requestedDate = async (
  sql: Sql,
  { entryId, resourceId, stewardId }: { entryId: string; resourceId: string; stewardId: string },
  recurrence: string | null,
  now: number,
): Promise<RequestedDate | null> =>
  (
    await sql.query<RequestedDate>(
      `select o.id as "occurrenceId", ${wallSql('o.recurrence')} as recurrence, ${startMs('o.span')} as start,
              ${endMs('o.span')} as end, p.name as place, r.person_id as "ownerId"
         from occurrence o join reservation r on r.occurrence_id = o.id join resource p on p.id = r.resource_id
        where o.entry_id = $1 and r.resource_id = $2 and p.steward_id = $3 and r.state = 'requested' and r.lapses_at > $4
          and ($5::timestamp is null or o.recurrence = $5)
        order by lower(o.span) limit 1`,
      [entryId, resourceId, stewardId, at(now), recurrence],
    )
  ).rows[0] ?? null

/** SQL: a request that lapsed, and of which nobody was told. One that made way for somebody else is released already. */
const LAPSED = (now: string) => `r.state in ('requested', 'released') and r.lapses_at <= ${now}`

/** Entries of which requests have lapsed. */
export const lapsedEntries = async (sql: Sql, now: number, most: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select distinct o.entry_id as id from reservation r join occurrence o on o.id = r.occurrence_id
        where ${LAPSED('$1')} limit $2`,
      [at(now), most],
    )
  ).rows.map((row) => row.id)

/** Releases what lapsed of an entry, and gives the places that it wanted, each once. */
export const endLapsed = async (sql: Sql, entryId: string, now: number): Promise<PlaceAsked[]> => {
  const rows = await sql.query<PlaceAsked>(
    `with ended as (
       update reservation r set state = 'released', lapses_at = null from occurrence o
        where o.id = r.occurrence_id and o.entry_id = $1 and ${LAPSED('$2')}
       returning r.resource_id, r.person_id, ${wallSql('o.recurrence')} as recurrence)
     select $1::uuid as "entryId", d.resource_id as "resourceId", p.name as place, d.person_id as "ownerId", w.name as by,
            p.steward_id as "stewardId", array_agg(d.recurrence) as recurrences
       from ended d join resource p on p.id = d.resource_id join person w on w.id = d.person_id
      group by d.resource_id, p.name, d.person_id, w.name, p.steward_id`,
    [entryId, at(now)],
  )
  return rows.rows
}
