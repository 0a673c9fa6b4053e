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
    'update forecast set issued_at = $2 where site_id = $1 and (issued_at is null or issued_at < $2)',
    [siteId, at(issued)],
  )
  if (!newer.rowCount) return false
  await sql.query('delete from forecast_hour where site_id = $1', [siteId])
  await sql.query(
    `insert into forecast_hour (site_id, at, temperature, rain, chance, wind)
     select $1, h.* from unnest($2::timestamptz[], $3::real[], $4::real[], $5::real[], $6::real[]) h`,
    [
      siteId,
      hours.map((hour) => at(hour.at)),
      hours.map((hour) => hour.temperature),
      hours.map((hour) => hour.rain),
      hours.map((hour) => hour.chance),
      hours.map((hour) => hour.wind),
    ],
  )
  return true
}

/** What is expected at sites, by their ids, from now on; of which nothing is known, or nothing any more, are left out. */
export const readForecasts = async (
  sql: Sql,
  sites: readonly string[],
  now: number,
): Promise<Map<string, Forecast>> => {
  if (sites.length === 0) return new Map()
  // A row a site, its hours as one text: a week of hours a row each took three times as long to read.
  const { rows } = await sql.query<{ siteId: string; issued: number; hours: ForecastHour[] }>(
    `select f.site_id as "siteId", ${msSql('f.issued_at')} as issued,
            (select json_agg(json_build_object('at', ${msSql('h.at')}, 'temperature', h.temperature, 'rain', h.rain,
                      'chance', h.chance, 'wind', h.wind) order by h.at)
               from forecast_hour h where h.site_id = f.site_id and h.at > $2) as hours
       from forecast f where f.site_id = any($1)`,
    [sites, at(now - 3_600_000)],
  )
  return new Map(
    rows.flatMap(({ siteId, issued, hours }) => {
      const forecast = forecastOf(issued, hours ?? [], now)
      return forecast ? [[siteId, forecast] as const] : []
    }),
  )
}
