import type { KeptPlace, Trained } from '@marmot/contract/place-list'
import type { ListedPlace } from '@marmot/core/reservations'
import { at, type Sql } from '../platform/database.ts'

/** What is kept of a place, with its site and steward by their ids. */
export interface PlaceToKeep {
  readonly name: string
  readonly kind: string
  readonly siteId: string
  readonly floor: string
  readonly seats: number
  readonly features: Readonly<Record<string, number>>
  readonly about: string
  readonly stewardId: string
}

/** The name PostgreSQL gives the refusal of a second place of a name. */
export const ONE_NAME = 'resource_name_key'

/** A place that somebody looks after, and what a list says of it. */
export interface KeptListed extends KeptPlace {
  readonly stewardAddress: string
}

/** The places that somebody looks after, in use or not. */
export const placesKeptBy = async (sql: Sql, stewardId: string, now: number): Promise<KeptListed[]> =>
  (
    await sql.query<KeptListed>(
      `select r.id, r.name, r.kind, r.site_id as "siteId", s.name as site, r.floor, r.seats, r.features, r.about,
              r.steward_id as "stewardId", w.name as steward, w.address as "stewardAddress",
              (select mark from resource_picture x where x.resource_id = r.id) as picture,
              r.retired_at is not null as retired, r.version,
              (select count(*)::integer from reservation v
                where v.resource_id = r.id and v.state <> 'released' and upper(v.span) > $2
                  and (v.lapses_at is null or v.lapses_at > $2)) as coming
         from resource r join site s on s.id = r.site_id join person w on w.id = r.steward_id
        where r.steward_id = $1 order by s.name, r.kind, r.name`,
      [stewardId, at(now)],
    )
  ).rows

/** Whether somebody looks after any place: they may add some. */
export const looksAfterAny = async (sql: Sql, personId: string): Promise<boolean> =>
  (await sql.query('select 1 from resource where steward_id = $1 limit 1', [personId])).rowCount === 1

/** Whether there is a site and a person of these ids. */
export const areThere = async (sql: Sql, siteId: string, personId: string): Promise<boolean> =>
  (await sql.query('select 1 from site s, person p where s.id = $1 and p.id = $2', [siteId, personId]))
    .rowCount === 1

/** Makes places, open at all hours until their rules say otherwise, and gives their ids. The database refuses a second one of a name. */
export const insertPlaces = async (sql: Sql, places: readonly PlaceToKeep[]): Promise<string[]> => {
  const made = await sql.query<{ id: string }>(
    `insert into resource (name, kind, site_id, floor, seats, features, about, steward_id)
     select d.name, d.kind, d."siteId", d.floor, d.seats, d.features, d.about, d."stewardId"
       from jsonb_to_recordset($1) d(name text, kind text, "siteId" uuid, floor text, seats integer, features jsonb,
                                     about text, "stewardId" uuid) returning id`,
    [JSON.stringify(places)],
  )
  const ids = made.rows.map((row) => row.id)
  await sql.query(
    `insert into opening_hours (resource_id, weekday, from_minute, to_minute)
     select id, weekday, 0, 1440 from unnest($1::uuid[]) id, generate_series(1, 7) weekday`,
    [ids],
  )
  return ids
}

/** Keeps places otherwise, each if it is still of the version that was seen; gives how many were. */
export const updatePlaces = async (
  sql: Sql,
  places: readonly (PlaceToKeep & { readonly id: string; readonly version: number })[],
): Promise<number> =>
  (
    await sql.query(
      `update resource r set name = d.name, kind = d.kind, site_id = d."siteId", floor = d.floor, seats = d.seats,
              features = d.features, about = d.about, steward_id = d."stewardId", version = r.version + 1
         from jsonb_to_recordset($1) d(id uuid, version integer, name text, kind text, "siteId" uuid, floor text, seats integer,
                                       features jsonb, about text, "stewardId" uuid)
        where r.id = d.id and r.version = d.version`,
      [JSON.stringify(places)],
    )
  ).rowCount ?? 0

/** How many reservations of a place are to come, the place locked until the transaction ends. */
export const comingOf = async (sql: Sql, resourceId: string, now: number): Promise<number> => {
  await sql.query('select 1 from resource where id = $1 for no key update', [resourceId])
  const rows = await sql.query<{ coming: number }>(
    `select count(*)::integer as coming from reservation
      where resource_id = $1 and state <> 'released' and upper(span) > $2 and (lapses_at is null or lapses_at > $2)`,
    [resourceId, at(now)],
  )
  return rows.rows[0]?.coming ?? 0
}

export const setRetired = async (sql: Sql, resourceId: string, retiredAt: number | null): Promise<void> => {
  await sql.query('update resource set retired_at = $2, version = version + 1 where id = $1', [
    resourceId,
    retiredAt === null ? null : at(retiredAt),
  ])
}

/** A picture as it is kept. */
export interface Picture {
  readonly type: string
  readonly content: Buffer
  readonly mark: string
}

export const putPictureOf = async (sql: Sql, resourceId: string, picture: Picture): Promise<void> => {
  await sql.query(
    `insert into resource_picture (resource_id, type, content, mark) values ($1, $2, $3, $4)
     on conflict (resource_id) do update set type = $2, content = $3, mark = $4`,
    [resourceId, picture.type, picture.content, picture.mark],
  )
}

export const pictureOf = async (sql: Sql, resourceId: string): Promise<Picture | undefined> =>
  (
    await sql.query<Picture>('select type, content, mark from resource_picture where resource_id = $1', [
      resourceId,
    ])
  ).rows[0]

export const dropPictureOf = async (sql: Sql, resourceId: string): Promise<void> => {
  await sql.query('delete from resource_picture where resource_id = $1', [resourceId])
}

/** Who was trained to use a place, by name; the day on which training ends is one of its site's. */
export const trainedFor = async (sql: Sql, resourceId: string, now: number): Promise<Trained[]> =>
  (
    await sql.query<Trained>(
      `select t.person_id as "personId", p.name, to_char(t.until_day, 'YYYY-MM-DD') as until,
              coalesce(t.until_day < ($2::timestamptz at time zone s.zone)::date, false) as over
         from trained_person t join person p on p.id = t.person_id
         join resource r on r.id = t.resource_id join site s on s.id = r.site_id
        where t.resource_id = $1 order by p.name`,
      [resourceId, at(now)],
    )
  ).rows

/** Keeps that somebody was trained; false where there is nobody of that id. */
export const putTrainedPerson = async (
  sql: Sql,
  resourceId: string,
  personId: string,
  until: string | null,
): Promise<boolean> =>
  (
    await sql.query(
      `insert into trained_person (resource_id, person_id, until_day) select $1, id, $3 from person where id = $2
       on conflict (resource_id, person_id) do update set until_day = $3`,
      [resourceId, personId, until],
    )
  ).rowCount === 1

export const dropTrainedPerson = async (sql: Sql, resourceId: string, personId: string): Promise<void> => {
  await sql.query('delete from trained_person where resource_id = $1 and person_id = $2', [
    resourceId,
    personId,
  ])
}

/** A place as it is known when a list of places is read. */
export interface KnownRow extends ListedPlace {
  readonly id: string
  readonly mine: boolean
  readonly retired: boolean
  readonly version: number
}

/** All that a list of places is read against: what there is, the sites and whoever may look after something. */
export const worldOf = async (
  sql: Sql,
  stewardId: string,
): Promise<{
  readonly known: readonly KnownRow[]
  readonly sites: ReadonlyMap<string, string>
  readonly people: ReadonlyMap<string, string>
  readonly me: string
}> => {
  const known = await sql.query<KnownRow>(
    `select r.id, r.name, r.kind, s.name as site, r.floor, r.seats, r.features, r.about, coalesce(w.address, '') as steward,
            coalesce(r.steward_id = $1, false) as mine, r.retired_at is not null as retired, r.version
       from resource r join site s on s.id = r.site_id left join person w on w.id = r.steward_id`,
    [stewardId],
  )
  const sites = await sql.query<{ id: string; name: string }>('select id, name from site order by name')
  const people = await sql.query<{ id: string; address: string }>(
    'select id, lower(address) as address from person',
  )
  const me = people.rows.find((one) => one.id === stewardId)?.address ?? ''
  return {
    known: known.rows,
    sites: new Map(sites.rows.map((one) => [one.name, one.id])),
    people: new Map(people.rows.map((one) => [one.address, one.id])),
    me,
  }
}
