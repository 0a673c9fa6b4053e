import type { Resource } from '@marmot/contract/resources'
import type { PlaceRules } from '@marmot/core/reservations'
import { DAY, instantOf, instantText, wallOf, zoneTable } from '@marmot/core/time'
import { readShut } from '../holidays/index.ts'
import { at, endMs, type Sql, startMs, together } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'

interface Row extends Omit<Resource, 'closed' | 'rules'>, Omit<PlaceRules, 'teams' | 'hours'> {
  closures: { start: number; end: number; reason: string; setId: string }[] | null
  teams: string[] | null
  hours: string | null
}

/** SQL: the rules of a place, column by column. Hours are text, "1 480 1080" for a Monday: as JSON they took as long as all the rest. */
const RULES = `r.trained_only as "trainedOnly", r.asks_approval as "asksApproval", r.approval_hours as "approvalHours",
  r.before_minutes as before, r.turnaround_minutes as after, r.shortest_minutes as shortest, r.longest_minutes as longest,
  r.ahead_days as "aheadDays", r.notice_minutes as notice, r.at_once as "atOnce",
  (select array_agg(t.name order by t.name) from resource_team x join team t on t.id = x.team_id where x.resource_id = r.id) as teams,
  (select string_agg(concat_ws(' ', weekday, from_minute, to_minute), ',' order by weekday, from_minute)
     from opening_hours h where h.resource_id = r.id) as hours`

/** Opening hours of text; most places have those of another, which are read once. */
const hoursReader = (): ((text: string | null) => PlaceRules['hours']) => {
  const known = new Map<string, PlaceRules['hours']>()
  return (text) => {
    if (!text) return []
    const before = known.get(text)
    if (before) return before
    const hours = text.split(',').map((part) => {
      const [weekday = 1, from = 0, to = 0] = part.split(' ').map(Number)
      return { weekday, from, to }
    })
    known.set(text, hours)
    return hours
  }
}

/** How far back it is known when a site was shut: as far as one looks back on a lane. */
const SHUT_BACK = 100 * DAY

/** When all places of a site are closed, since the site is shut; most have their site with many others. */
const shutReader = async (
  sql: Sql,
  now: number,
): Promise<(siteId: string, zone: string) => Resource['closed']> => {
  const shut = await readShut(sql, now - SHUT_BACK)
  const known = new Map<string, Resource['closed']>()
  return (siteId, zone) => {
    const before = known.get(siteId)
    if (before) return before
    const table = zoneTable(zone)
    const closed = shut
      .filter((one) => one.siteId === siteId)
      .map(({ first, last, name }) => ({
        start: instantText(instantOf(table, wallOf(first))),
        end: instantText(instantOf(table, wallOf(last + 1))),
        reason: name,
        closureId: null,
      }))
    known.set(siteId, closed)
    return closed
  }
}

/** SQL: why somebody may not have a place (`r`, on its site `s`), if so. */
const mayNotSql = (person: string, now: string): string => `case
  when r.retired_at is not null then 'retired'
  when exists (select 1 from resource_team x where x.resource_id = r.id)
   and not exists (select 1 from resource_team x join team_member m on m.team_id = x.team_id
                    where x.resource_id = r.id and m.person_id = ${person}) then 'not-for-you'
  when r.trained_only then (
    select case when max(case when t.until_day is null or t.until_day >= (${now}::timestamptz at time zone s.zone)::date
                              then 2 else 1 end) = 2 then null
                when count(*) > 0 then 'training-over' else 'not-trained' end
      from trained_person t where t.resource_id = r.id and t.person_id = ${person})
  end`

/** Every resource in use, or those of the given ids, as an asker may take them now. */
export const readResources = async (
  sql: Sql,
  askerId: string,
  now: number,
  ids?: readonly string[],
  /** An entry whose own reservations do not count among those that the asker has. */
  besides: string | null = null,
): Promise<Resource[]> => {
  const rows = await sql.query<Row>(
    `select r.id, r.name, r.kind, r.site_id as "siteId", s.name as site, r.floor, r.seats, r.features, r.about,
            (select mark from resource_picture x where x.resource_id = r.id) as picture,
            ${RULES}, ${mayNotSql('$1', '$3')} as "mayNot", s.zone, w.name as steward,
            coalesce(r.steward_id = $1, false) as "looksAfter",
            case when r.at_once is null then 0 else (
              select count(*)::integer from reservation m join occurrence o on o.id = m.occurrence_id
               where m.resource_id = r.id and m.person_id = $1 and m.state <> 'released' and upper(m.span) > $3
                 and o.entry_id is distinct from $4) end as mine,
            (select json_agg(json_build_object('start', ${startMs('c.span')}, 'end', ${endMs('c.span')},
               'reason', c.reason, 'setId', c.set_id) order by lower(c.span)) from closure c where c.resource_id = r.id) as closures
       from resource r join site s on s.id = r.site_id left join person w on w.id = r.steward_id
      where case when $2::uuid[] is null then r.retired_at is null else r.id = any($2) end
      order by r.kind, r.name`,
    [askerId, ids ?? null, at(now), besides],
  )
  const hoursOf = hoursReader()
  const shutOf = await shutReader(sql, now)
  return rows.rows.map((row) => ({
    id: row.id,
    name: row.name,
    kind: row.kind,
    siteId: row.siteId,
    site: row.site,
    floor: row.floor,
    seats: row.seats,
    features: row.features,
    about: row.about,
    picture: row.picture,
    rules: {
      trainedOnly: row.trainedOnly,
      teams: row.teams ?? [],
      asksApproval: row.asksApproval,
      approvalHours: row.approvalHours,
      hours: [...hoursOf(row.hours)],
      before: row.before,
      after: row.after,
      shortest: row.shortest,
      longest: row.longest,
      aheadDays: row.aheadDays,
      notice: row.notice,
      atOnce: row.atOnce,
    },
    closed: [
      ...(row.closures ?? []).map((closure) => ({
        start: instantText(closure.start),
        end: instantText(closure.end),
        reason: closure.reason,
        closureId: closure.setId,
      })),
      ...shutOf(row.siteId, row.zone),
    ].sort((a, b) => a.start.localeCompare(b.start)),
    mayNot: row.mayNot,
    mine: row.mine,
    zone: row.zone,
    steward: row.steward,
    looksAfter: row.looksAfter,
  }))
}

/** Which of some places each of some people may not have, by their ids; who may have all of them is in none. */
export const barredFrom = async (
  sql: Sql,
  people: readonly string[],
  resourceIds: readonly string[],
  now: number,
): Promise<Map<string, Set<string>>> => {
  const rows = await sql.query<{ person: string; ids: string[] }>(
    `select d.person, array_agg(r.id) as ids from unnest($1::uuid[]) d(person)
       cross join resource r join site s on s.id = r.site_id
      where r.id = any($2) and ${mayNotSql('d.person', '$3')} is not null group by d.person`,
    [people, resourceIds, at(now)],
  )
  return new Map(rows.rows.map(({ person, ids }) => [person, new Set(ids)]))
}

/** Places by their ids, and those that may do in their place: all of their kinds on their sites. */
export const likeOnes = async (
  sql: Sql,
  askerId: string,
  now: number,
  ids: readonly string[],
): Promise<Resource[]> => {
  const rows = await sql.query<{ id: string }>(
    `select id from resource r
      where r.id = any($1) or (r.retired_at is null and exists (
        select 1 from resource w where w.id = any($1) and w.kind = r.kind and w.site_id = r.site_id))`,
    [ids],
  )
  return readResources(
    sql,
    askerId,
    now,
    rows.rows.map((row) => row.id),
  )
}

/** Ids of the places of some kinds on some sites, and of those of the given ids that there are. */
export const resourceIds = async (
  sql: Sql,
  of: {
    readonly sites: readonly string[]
    readonly kinds: readonly string[]
    readonly places: readonly string[]
  },
): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      'select id from resource where (site_id = any($1) and kind = any($2) and retired_at is null) or id = any($3)',
      [of.sites, of.kinds, of.places],
    )
  ).rows.map((row) => row.id)

/** A place that somebody looks after; anything else there is not, for them. */
export const placeOfSteward = async (
  sql: Sql,
  resourceId: string,
  stewardId: string,
  now: number,
): Promise<Resource> => {
  const [place] = await readResources(sql, stewardId, now, [resourceId])
  if (!place?.looksAfter) throw notFound('place that you look after')
  return place
}

/** Closes a place for some spans, which belong together. */
export const addClosures = async (
  sql: Sql,
  closure: {
    readonly resourceId: string
    readonly setId: string
    readonly stewardId: string
    readonly reason: string
    readonly spans: readonly { readonly start: number; readonly end: number }[]
  },
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into closure (resource_id, set_id, reason, made_by, made_at, span)
     select $1, $2, $3, $4, $5, tstzrange(d.starts, d.ends) from unnest($6::timestamptz[], $7::timestamptz[]) d(starts, ends)`,
    [
      closure.resourceId,
      closure.setId,
      closure.reason,
      closure.stewardId,
      at(now),
      closure.spans.map((span) => at(span.start)),
      closure.spans.map((span) => at(span.end)),
    ],
  )
}

/** Opens a place again: what is to come of a closure goes, what runs ends now, what was stays. Gives whether there was any. */
export const endClosure = async (
  sql: Sql,
  resourceId: string,
  setId: string,
  now: number,
): Promise<boolean> => {
  const gone = await sql.query(
    'delete from closure where resource_id = $1 and set_id = $2 and lower(span) >= $3',
    [resourceId, setId, at(now)],
  )
  const ended = await sql.query(
    'update closure set span = tstzrange(lower(span), $3) where resource_id = $1 and set_id = $2 and span @> $3::timestamptz',
    [resourceId, setId, at(now)],
  )
  return (gone.rowCount ?? 0) + (ended.rowCount ?? 0) > 0
}

/** The version of a place's rules, locked, and the names of all teams. */
export const lockRules = async (
  sql: Sql,
  resourceId: string,
): Promise<{ version: number; teams: string[] }> => {
  const rows = await sql.query<{ version: number; teams: string[] }>(
    `select version, array(select name from team order by name) as teams from resource where id = $1 for no key update`,
    [resourceId],
  )
  return rows.rows[0] ?? { version: 0, teams: [] }
}

/** Puts a place's rules in the stead of those that it has, and gives their version. */
export const writeRules = async (sql: Sql, resourceId: string, rules: PlaceRules): Promise<number> => {
  const [, , , written] = await together([
    sql.query('delete from opening_hours where resource_id = $1', [resourceId]),
    sql.query('delete from resource_team where resource_id = $1', [resourceId]),
    sql.query(
      `insert into opening_hours (resource_id, weekday, from_minute, to_minute)
       select $1, d.weekday, d.opens, d.shuts from unnest($2::smallint[], $3::smallint[], $4::smallint[]) d(weekday, opens, shuts)`,
      [
        resourceId,
        rules.hours.map((part) => part.weekday),
        rules.hours.map((part) => part.from),
        rules.hours.map((part) => part.to),
      ],
    ),
    sql.query<{ version: number }>(
      `update resource set trained_only = $2, asks_approval = $3, approval_hours = $4, before_minutes = $5, turnaround_minutes = $6,
              shortest_minutes = $7, longest_minutes = $8, ahead_days = $9, notice_minutes = $10, at_once = $11,
              version = version + 1 where id = $1 returning version`,
      [
        resourceId,
        rules.trainedOnly,
        rules.asksApproval,
        rules.approvalHours,
        rules.before,
        rules.after,
        rules.shortest,
        rules.longest,
        rules.aheadDays,
        rules.notice,
        rules.atOnce,
      ],
    ),
    sql.query(
      'insert into resource_team (resource_id, team_id) select $1, id from team where name = any($2)',
      [resourceId, rules.teams],
    ),
  ])
  return written.rows[0]?.version ?? 0
}
