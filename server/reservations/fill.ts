import { type Instant, instantOf, wallOf, type ZoneTable } from '@marmot/core/time'
import { at, type Sql } from '../platform/database.ts'

/** A place that is used for so long of a day is full, in seconds. */
const FULL_DAY = 8 * 3600

/**
 * How full places in use, of a kind or of all, are on each of some days by the clock of a zone: 0 to 1. `first` is a day counted from
 * 1970-01-01. What runs over midnight counts for each of its days.
 */
export const fillOfDays = async (
  sql: Sql,
  { first, days, zone, kind }: { first: number; days: number; zone: ZoneTable; kind: string | null },
): Promise<number[]> => {
  const bounds = Array.from({ length: days + 1 }, (_, i): Instant => instantOf(zone, wallOf(first + i)))
  const rows = await sql.query<{ i: number; share: number }>(
    `with places as (select id from resource where retired_at is null and ($4::text is null or kind = $4)),
          taken as (
            select greatest(lower(r.blocked), $2) as starts, least(upper(r.blocked), $3) as ends from reservation r
             where r.state <> 'released' and r.resource_id in (select id from places) and r.blocked && tstzrange($2, $3))
     select i, sum(extract(epoch from least(t.ends, ($1::timestamptz[])[i + 1]) - greatest(t.starts, ($1::timestamptz[])[i])))::float8
               / greatest(1, (select count(*) from places)) / ${FULL_DAY} as share
       from taken t cross join lateral generate_series(
              width_bucket(t.starts, $1::timestamptz[]),
              width_bucket(t.ends - interval '1 microsecond', $1::timestamptz[])) i
      group by i`,
    [bounds.map(at), at(bounds[0] ?? 0), at(bounds.at(-1) ?? 0), kind],
  )
  const shares = new Map(rows.rows.map((row) => [row.i, row.share]))
  return Array.from({ length: days }, (_, i) => Math.min(1, shares.get(i + 1) ?? 0))
}
