import type { Resource } from '@marmot/contract/resources'
import { endMs, type Sql, startMs } from '../platform/database.ts'

interface Row extends Omit<Resource, 'hours' | 'closed'> {
  from_minute: number
  to_minute: number
  weekdays: number[]
  closures: { start: number; end: number; reason: string }[]
}

/** Every resource, or those of the given ids, as an asker may take them. */
export const readResources = async (
  sql: Sql,
  askerId: string,
  ids?: readonly string[],
): Promise<Resource[]> => {
  const rows = await sql.query<Row>(
    `select r.id, r.name, r.kind, r.site_id as "siteId", s.name as site, r.floor, r.seats, r.features, r.about,
            r.turnaround_minutes as turnaround, r.from_minute, r.to_minute, r.weekdays, s.zone,
            r.asks_approval as "asksApproval",
            (not r.trained_only or exists (select 1 from trained_person t
               where t.resource_id = r.id and t.person_id = $1)) as "mayTake",
            coalesce((select json_agg(json_build_object('start', ${startMs('c.span')}, 'end', ${endMs('c.span')},
               'reason', c.reason)) from closure c where c.resource_id = r.id), '[]') as closures
       from resource r join site s on s.id = r.site_id
      where $2::uuid[] is null or r.id = any($2)
      order by r.kind, r.name`,
    [askerId, ids ?? null],
  )
  return rows.rows.map(({ from_minute, to_minute, weekdays, closures, ...row }) => ({
    ...row,
    hours: weekdays.map((weekday) => ({ weekday, from: from_minute, to: to_minute })),
    closed: closures.map((closure) => ({
      start: new Date(closure.start).toISOString(),
      end: new Date(closure.end).toISOString(),
      reason: closure.reason,
    })),
  }))
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
      'select id from resource where (site_id = any($1) and kind = any($2)) or id = any($3)',
      [of.sites, of.kinds, of.places],
    )
  ).rows.map((row) => row.id)
