import { type Forecast, type ForecastHour, forecastOf } from '@marmot/core/weather'
import { at, msSql, type Sql } from '../platform/database.ts'

/** Sites that were not asked about since an instant, whoever was asked longest ago first. */
export const sitesToAsk = async (
  sql: Sql,
  since: number,
  most: number,
): Promise<{ id: string; latitude: number; longitude: number }[]> =>
  (
    await sql.query<{ id: string; latitude: number; longitude: number }>(
      `select s.id, s.latitude, s.longitude from site s left join forecast f on f.site_id = s.id
        where s.latitude is not null and (f.asked_at is null or f.asked_at < $1)
        order by f.asked_at nulls first, s.id limit $2`,
      [at(since), most],
    )
  ).rows

/** Keeps that a site was asked about, whatever came of it. */
export const noteAsked = async (sql: Sql, siteId: string, now: number): Promise<void> => {
  await sql.query(
    `insert into forecast (site_id, asked_at) values ($1, $2)
     on conflict (site_id) do update set asked_at = excluded.asked_at`,
    [siteId, at(now)],
  )
}

/** Keeps what was said of a site in the stead of what was said before. Gives false where that is as new. */
export const keepForecast = async (
  sql: Sql,
  siteId: string,
  issued: number,
  hours: readonly ForecastHour[],
): Promise<boolean> => {
  const newer = await sql.query(
    'update forecast set issued_at = $2, hours = $3 where site_id = $1 and (issued_at is null or issued_at < $2)',
    [siteId, at(issued), JSON.stringify(hours)],
  )
  return newer.rowCount === 1
}

/** What is expected at sites, by their ids, from now on; of which nothing is known, or nothing any more, are left out. */
export const readForecasts = async (
  sql: Sql,
  sites: readonly string[],
  now: number,
): Promise<Map<string, Forecast>> => {
  if (sites.length === 0) return new Map()
  const { rows } = await sql.query<{ siteId: string; issued: number; hours: ForecastHour[] }>(
    `select site_id as "siteId", ${msSql('issued_at')} as issued, hours from forecast
      where site_id = any($1) and issued_at is not null`,
    [sites],
  )
  return new Map(
    rows.flatMap(({ siteId, issued, hours }) => {
      const forecast = forecastOf(issued, hours, now)
      return forecast ? [[siteId, forecast] as const] : []
    }),
  )
}
