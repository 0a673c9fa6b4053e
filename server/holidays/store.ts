import type { SiteDay, SiteHolidays } from '@marmot/contract/holidays'
import { type OffDays, type OffSpan, offSpans } from '@marmot/core/holidays'
import { plainWords } from '@marmot/core/search'
import { DAY, type Day, dayOf, dayText, zoneTable } from '@marmot/core/time'
import { at, type Sql, together } from '../platform/database.ts'
import type { PublicHoliday } from './public.ts'

/** SQL: a date as the number of its day, and the other way round. */
const dayNumber = (date: string): string => `(${date} - date '1970-01-01')`
const dateOf = (day: string): string => `(date '1970-01-01' + ${day}::integer)`

/** SQL: the days that may be off in a range of instants, whatever zone they are in. */
const around = (from: number, to: number): [Day, Day] => [dayOf(from - DAY), dayOf(to + DAY) + 1]

/** Gives a person's days off, of those that were read: whole days of their own zone. */
export type OffOf = (person: {
  readonly id: string
  readonly siteId: string
  readonly zone: string
}) => readonly OffSpan[]

const grouped = <T>(rows: readonly T[], keyOf: (row: T) => string): Map<string, T[]> => {
  const groups = new Map<string, T[]>()
  for (const row of rows) {
    const group = groups.get(keyOf(row))
    if (group) group.push(row)
    else groups.set(keyOf(row), [row])
  }
  return groups
}

/** The days off of every site in a range, and what of them these people work: a few rows, whoever is asked for. */
export const readOff = async (
  sql: Sql,
  people: readonly string[],
  from: number,
  to: number,
): Promise<OffOf> => {
  const [first, last] = around(from, to)
  const range = `daterange(${dateOf('$1')}, ${dateOf('$2')})`
  const [days, worked] = await together([
    sql.query<OffDays & { siteId: string }>(
      `select site_id as "siteId", ${dayNumber('lower(days)')} as first, ${dayNumber('upper(days)')} - 1 as last, name
         from site_day where deleted_at is null and days && ${range} order by lower(days), name`,
      [first, last],
    ),
    sql.query<{ person: string; day: Day }>(
      `select person_id as person, ${dayNumber('day')} as day from day_worked
        where person_id = any($3) and day <@ ${range}`,
      [first, last, people],
    ),
  ])
  if (days.rows.length === 0) return () => []
  const bySite = grouped(days.rows, (row) => row.siteId)
  const byPerson = grouped(worked.rows, (row) => row.person)
  // Most people of a site have the same: it is worked out once.
  const known = new Map<string, OffSpan[]>()
  return ({ id, siteId, zone }) => {
    const off = bySite.get(siteId)
    if (!off) return []
    const own = byPerson.get(id)
    const work = () =>
      offSpans(off, new Set(own?.map((row) => row.day)), zoneTable(zone)).filter(
        (span) => span.end > from && span.start < to,
      )
    if (own) return work()
    const key = `${siteId} ${zone}`
    const spans = known.get(key) ?? work()
    known.set(key, spans)
    return spans
  }
}

/** The same of one person, in one question: it is asked with every look at somebody's own days. */
export const readOffOf = async (
  sql: Sql,
  personId: string,
  from: number,
  to: number,
): Promise<readonly OffSpan[]> => {
  const [first, last] = around(from, to)
  const range = `daterange(${dateOf('$2')}, ${dateOf('$3')})`
  const { rows } = await sql.query<OffDays & { zone: string; worked: Day[] }>(
    `select ${dayNumber('lower(d.days)')} as first, ${dayNumber('upper(d.days)')} - 1 as last, d.name, p.zone,
            array(select ${dayNumber('w.day')} from day_worked w where w.person_id = p.id and w.day <@ ${range}) as worked
       from person p join site_day d on d.site_id = p.site_id and d.deleted_at is null and d.days && ${range}
      where p.id = $1 order by lower(d.days), d.name`,
    [personId, first, last],
  )
  const [row] = rows
  return row
    ? offSpans(rows, new Set(row.worked), zoneTable(row.zone)).filter(
        (span) => span.end > from && span.start < to,
      )
    : []
}

const ROW = `d.id, d.site_id as "siteId", lower(d.days)::text as first, (upper(d.days) - 1)::text as last, d.name, d.kind,
  d.shut, d.uncertain, d.version`

/** Days off of sites from a day on, or of one site. At most `most`. */
export const readSiteDays = async (
  sql: Sql,
  from: Day,
  most: number,
  siteId: string | null = null,
): Promise<SiteDay[]> =>
  (
    await sql.query<SiteDay>(
      `select ${ROW} from site_day d
        where d.deleted_at is null and upper(d.days) > ${dateOf('$1')} and ($2::uuid is null or d.site_id = $2)
        order by lower(d.days), d.name, d.id limit $3`,
      [from, siteId, most],
    )
  ).rows

/** One day off, deleted ones too; locked where it is to be changed. */
export const readSiteDay = async (
  sql: Sql,
  dayId: string,
  lock = false,
): Promise<(SiteDay & { readonly deleted: boolean }) | null> =>
  (
    await sql.query<SiteDay & { deleted: boolean }>(
      `select ${ROW}, d.deleted_at is not null as deleted from site_day d where d.id = $1${lock ? ' for update' : ''}`,
      [dayId],
    )
  ).rows[0] ?? null

/**
 * SQL: whether somebody may change the days of a site (`s`): whoever looks after one of its places; where nobody looks after any,
 * whoever works there.
 */
const MAY_CHANGE = `exists (select 1 from resource r where r.site_id = s.id and r.retired_at is null and r.steward_id = $1)
  or (exists (select 1 from person p where p.id = $1 and p.site_id = s.id)
      and not exists (select 1 from resource r where r.site_id = s.id and r.retired_at is null and r.steward_id is not null))`

/** How each site goes by holidays, and whether somebody may change that. */
export const readSites = async (sql: Sql, askerId: string): Promise<SiteHolidays[]> =>
  (
    await sql.query<SiteHolidays>(
      `select s.id as "siteId", s.region, s.holidays_until::text as until, (${MAY_CHANGE}) as "mayChange"
         from site s order by s.name`,
      [askerId],
    )
  ).rows

/** On which days off somebody works, from a day on. */
export const readWorked = async (sql: Sql, personId: string, from: Day): Promise<string[]> =>
  (
    await sql.query<{ day: string }>(
      `select day::text from day_worked where person_id = $1 and day >= ${dateOf('$2')} order by day`,
      [personId, from],
    )
  ).rows.map((row) => row.day)

/** Says whether somebody works on a day off of their site; false where that day is none. */
export const putWorked = async (
  sql: Sql,
  personId: string,
  day: string,
  works: boolean,
): Promise<boolean> => {
  if (!works) {
    await sql.query('delete from day_worked where person_id = $1 and day = $2', [personId, day])
    return true
  }
  const put = await sql.query(
    `insert into day_worked (person_id, day)
     select p.id, $2::date from person p
      where p.id = $1 and exists (
        select 1 from site_day d where d.site_id = p.site_id and d.deleted_at is null and d.days @> $2::date)
     on conflict (person_id, day) do update set day = excluded.day`,
    [personId, day],
  )
  return put.rowCount === 1
}

/** How many days, or runs of them, a site has of its own that are still to come. */
export const countOwnDays = async (sql: Sql, siteId: string, from: Day): Promise<number> =>
  (
    await sql.query<{ count: number }>(
      `select count(*)::integer as count from site_day
        where site_id = $1 and kind = 'closed' and deleted_at is null and upper(days) > ${dateOf('$2')}`,
      [siteId, from],
    )
  ).rows[0]?.count ?? 0

type Said = Pick<SiteDay, 'first' | 'last' | 'name' | 'shut'>

/** Adds days on which a site is closed, and gives their id. */
export const insertClosed = async (sql: Sql, siteId: string, said: Said): Promise<string> =>
  (
    await sql.query<{ id: string }>(
      `insert into site_day (site_id, days, name, kind, shut)
       values ($1, daterange($2::date, $3::date, '[]'), $4, 'closed', $5) returning id`,
      [siteId, said.first, said.last, said.name, said.shut],
    )
  ).rows[0]?.id ?? ''

export const updateSiteDay = async (sql: Sql, dayId: string, said: Said): Promise<void> => {
  await sql.query(
    `update site_day set days = daterange($2::date, $3::date, '[]'), name = $4, shut = $5, version = version + 1 where id = $1`,
    [dayId, said.first, said.last, said.name, said.shut],
  )
}

export const setSiteDayDeleted = async (
  sql: Sql,
  dayId: string,
  deleted: boolean,
  now: number,
): Promise<void> => {
  await sql.query('update site_day set deleted_at = $2, version = version + 1 where id = $1', [
    dayId,
    deleted ? at(now) : null,
  ])
}

/** How many reservations of a site's places stand on some of its days. */
export const countReservations = async (
  sql: Sql,
  siteId: string,
  { first, last }: Pick<SiteDay, 'first' | 'last'>,
  now: number,
): Promise<number> =>
  (
    await sql.query<{ count: number }>(
      `select count(*)::integer as count from site s
         join resource r on r.site_id = s.id
         join reservation v on v.resource_id = r.id and v.state <> 'released'
          and v.span && tstzrange($2::date::timestamp at time zone s.zone, ($3::date + 1)::timestamp at time zone s.zone)
        where s.id = $1 and upper(v.span) > $4 and (v.lapses_at is null or v.lapses_at > $4)`,
      [siteId, first, last, at(now)],
    )
  ).rows[0]?.count ?? 0

/** A site with by whose holidays it goes; locked. */
export const lockSite = async (
  sql: Sql,
  siteId: string,
): Promise<{ readonly region: string | null; readonly name: string; readonly zone: string } | null> =>
  (
    await sql.query<{ region: string | null; name: string; zone: string }>(
      'select region, name, zone from site where id = $1 for no key update',
      [siteId],
    )
  ).rows[0] ?? null

/** Has a site go by a region's holidays; those that it had until now go. */
export const putRegion = async (sql: Sql, siteId: string, region: string | null): Promise<void> => {
  await sql.query('update site set region = $2, holidays_until = null where id = $1', [siteId, region])
  await sql.query("delete from site_day where site_id = $1 and kind = 'holiday'", [siteId])
}

/** Sites whose holidays are not known as far as a day. */
export const sitesBehind = async (sql: Sql, until: Day): Promise<{ id: string; region: string }[]> =>
  (
    await sql.query<{ id: string; region: string }>(
      `select id, region from site where region is not null and (holidays_until is null or holidays_until < ${dateOf('$1')})
        order by id limit 100`,
      [until],
    )
  ).rows

/**
 * Keeps what public holidays a site has, known until a day. Those that are there already stay as they are, also those on which
 * it works; a site that went over to another region meanwhile is left alone.
 */
export const keepHolidays = async (
  sql: Sql,
  site: { readonly id: string; readonly region: string },
  holidays: readonly PublicHoliday[],
  until: Day,
): Promise<void> => {
  const kept = await sql.query('update site set holidays_until = $3 where id = $1 and region = $2', [
    site.id,
    site.region,
    dayText(until),
  ])
  if (!kept.rowCount) return
  await sql.query(
    `insert into site_day (site_id, days, name, kind, shut, uncertain)
     select $1, daterange(${dateOf('h.first')}, ${dateOf('h.last')}, '[]'), h.name, 'holiday', false, h.uncertain
       from unnest($2::integer[], $3::integer[], $4::text[], $5::boolean[]) h(first, last, name, uncertain)
     on conflict do nothing`,
    [
      site.id,
      holidays.map((one) => one.first),
      holidays.map((one) => one.last),
      holidays.map((one) => one.name),
      holidays.map((one) => one.uncertain),
    ],
  )
}

/** When sites are shut as a whole, from an instant on, by their ids; whole days of the site's own zone. */
export const readShut = async (
  sql: Sql,
  from: number,
): Promise<{ siteId: string; first: Day; last: Day; name: string }[]> =>
  (
    await sql.query<{ siteId: string; first: Day; last: Day; name: string }>(
      `select site_id as "siteId", ${dayNumber('lower(days)')} as first, ${dayNumber('upper(days)')} - 1 as last, name
         from site_day where shut and deleted_at is null and upper(days) > ${dateOf('$1')} order by lower(days)`,
      [dayOf(from)],
    )
  ).rows

/** So many coming days off are looked through for words. */
const MOST_LOOKED = 5000

/** Coming days off of which every word begins one of their names' or their site's, soonest first. */
export const findSiteDays = async (
  sql: Sql,
  words: readonly string[],
  from: Day,
  most: number,
): Promise<{ siteId: string; site: string; day: string; name: string }[]> => {
  const looked = words.flatMap((word) => plainWords(word))
  const { rows } = await sql.query<{ siteId: string; site: string; day: string; name: string }>(
    `select d.site_id as "siteId", s.name as site, lower(d.days)::text as day, d.name
       from site_day d join site s on s.id = d.site_id
      where d.deleted_at is null and d.days && daterange(${dateOf('$1')}, ${dateOf('$1')} + 400)
      order by lower(d.days), s.name limit $2`,
    [from, MOST_LOOKED],
  )
  return rows
    .filter((row) => {
      const said = plainWords(`${row.name} ${row.site}`)
      return looked.every((word) => said.some((each) => each.startsWith(word)))
    })
    .slice(0, most)
}
