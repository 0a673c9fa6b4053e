import type { GrantOnWire } from '@marmot/contract/sharing'
import { type Grant, type Level, levelFor, type Viewer } from '@marmot/core/sharing'
import { at, type Sql, together } from '../platform/database.ts'

interface Row extends Level {
  id: string
  owner_id: string
  team_id: string | null
  person_id: string | null
  until: Date | null
}

const COLUMNS = `s.id, s.owner_id, s.team_id, s.person_id, s.sees, s.does, s.sees_private as "seesPrivate", s.until`

const grantOf = (row: Row): Grant => ({
  to: row.person_id ? 'person' : row.team_id ? 'team' : 'organisation',
  id: row.person_id ?? row.team_id,
  sees: row.sees,
  does: row.does,
  seesPrivate: row.seesPrivate,
  until: row.until?.getTime() ?? null,
})

/** People as somebody who looks at others' time: each with their teams. */
export const viewersOf = async (sql: Sql, personIds: readonly string[]): Promise<Viewer[]> => {
  const rows = await sql.query<{ team_id: string; person_id: string }>(
    'select team_id, person_id from team_member where person_id = any($1)',
    [personIds],
  )
  return personIds.map((id) => ({
    id,
    teams: rows.rows.filter((row) => row.person_id === id).map((row) => row.team_id),
  }))
}

export const viewerOf = async (sql: Sql, personId: string): Promise<Viewer> =>
  (await viewersOf(sql, [personId]))[0] ?? { id: personId, teams: [] }

/** Every grant of these owners, by owner. */
export const grantsOf = async (sql: Sql, ownerIds: readonly string[]): Promise<Map<string, Grant[]>> => {
  const rows = await sql.query<Row>(`select ${COLUMNS} from sharing s where s.owner_id = any($1)`, [ownerIds])
  const grants = new Map<string, Grant[]>()
  for (const row of rows.rows) grants.set(row.owner_id, [...(grants.get(row.owner_id) ?? []), grantOf(row)])
  return grants
}

/** The level at which a viewer looks at each owner's time, decided by core. Every owner asked for has one. */
export const levelsFor = async (
  sql: Sql,
  viewer: Viewer | string,
  ownerIds: readonly string[],
  now: number,
): Promise<Map<string, Level>> => {
  const viewerId = typeof viewer === 'string' ? viewer : viewer.id
  const others = ownerIds.filter((owner) => owner !== viewerId)
  const [looking, grants] = others.length
    ? await together([
        typeof viewer === 'string' ? viewerOf(sql, viewer) : Promise.resolve(viewer),
        grantsOf(sql, others),
      ])
    : [{ id: viewerId, teams: [] }, new Map<string, Grant[]>()]
  return new Map(ownerIds.map((owner) => [owner, levelFor(owner, looking, grants.get(owner) ?? [], now)]))
}

/** Whose time, of these people's, each of the listeners may know of at all. */
export const hearersOf = async (
  sql: Sql,
  people: readonly string[],
  listeners: readonly string[],
  now: number,
): Promise<Map<string, string[]>> => {
  const [grants, viewers] = await together([grantsOf(sql, people), viewersOf(sql, listeners)])
  return new Map(
    viewers.map((viewer) => [
      viewer.id,
      people.filter((owner) => levelFor(owner, viewer, grants.get(owner) ?? [], now).sees !== 'nothing'),
    ]),
  )
}

/** What an owner shares, with the receivers' names: everybody first, then teams, then people. */
export const readGrants = async (sql: Sql, ownerId: string): Promise<GrantOnWire[]> => {
  const rows = await sql.query<Row & { name: string }>(
    `select ${COLUMNS}, coalesce(p.name, t.name, '') as name from sharing s
       left join person p on p.id = s.person_id left join team t on t.id = s.team_id
      where s.owner_id = $1 order by s.person_id is not null, s.team_id is not null, name`,
    [ownerId],
  )
  return rows.rows.map((row) => ({
    ...grantOf(row),
    grantId: row.id,
    name: row.name,
    until: row.until?.toISOString() ?? null,
  }))
}

/** Owners who gave a person, or a team of theirs, a level of its own. */
export const ownersSharingWith = async (sql: Sql, viewer: Viewer) =>
  (
    await sql.query<{ id: string; name: string; until: Date | null }>(
      `select p.id, p.name, max(s.until) as until from sharing s join person p on p.id = s.owner_id
        where (s.person_id = $1 or s.team_id = any($2)) and s.owner_id <> $1 group by p.id order by p.name`,
      [viewer.id, viewer.teams],
    )
  ).rows

/** Those whose headlines a person may see, or more, by whatever they gave to whom. */
export const ownersSeenBy = async (sql: Sql, viewerId: string, now: number): Promise<string[]> => {
  const viewer = await viewerOf(sql, viewerId)
  const rows = await sql.query<{ id: string }>(
    `select distinct s.owner_id as id from sharing s
      where s.sees in ('headlines', 'everything') and s.owner_id <> $1 and (s.until is null or s.until > $3)
        and (s.person_id = $1 or s.team_id = any($2) or s.person_id is null and s.team_id is null)`,
    [viewerId, viewer.teams, at(now)],
  )
  return rows.rows.map((row) => row.id)
}

export const listTeams = async (sql: Sql) =>
  (await sql.query<{ id: string; name: string }>('select id, name from team order by name')).rows

/** The people a grant is for; null for everybody. */
export const receiversOf = async (sql: Sql, grant: Pick<Grant, 'to' | 'id'>): Promise<string[] | null> => {
  if (grant.to === 'organisation') return null
  if (grant.to === 'person') return grant.id ? [grant.id] : []
  const members = await sql.query<{ person_id: string }>(
    'select person_id from team_member where team_id = $1',
    [grant.id],
  )
  return members.rows.map((row) => row.person_id)
}

export const isReceiver = async (sql: Sql, grant: Pick<Grant, 'to' | 'id'>): Promise<boolean> =>
  grant.to === 'organisation'
    ? grant.id === null
    : ((await sql.query(`select 1 from ${grant.to === 'team' ? 'team' : 'person'} where id = $1`, [grant.id]))
        .rowCount ?? 0) > 0

/** Keeps a grant in place of the one before it to the same receiver. */
export const putGrant = async (sql: Sql, ownerId: string, grant: Grant): Promise<string> =>
  (
    await sql.query<{ id: string }>(
      `insert into sharing (owner_id, team_id, person_id, sees, does, sees_private, until)
       values ($1, $2, $3, $4, $5, $6, $7)
       on conflict (owner_id, team_id, person_id) do update set sees = excluded.sees, does = excluded.does,
         sees_private = excluded.sees_private, until = excluded.until returning id`,
      [
        ownerId,
        grant.to === 'team' ? grant.id : null,
        grant.to === 'person' ? grant.id : null,
        grant.sees,
        grant.does,
        grant.seesPrivate,
        grant.until === null ? null : at(grant.until),
      ],
    )
  ).rows[0]?.id ?? ''

export const deleteGrant = async (sql: Sql, ownerId: string, grantId: string): Promise<boolean> =>
  ((await sql.query('delete from sharing where id = $1 and owner_id = $2', [grantId, ownerId])).rowCount ??
    0) > 0
