import { createHash, randomBytes } from 'node:crypto'
import type { Person, Site } from '@marmot/contract/people'
import { at, type Sql } from '../platform/database.ts'

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

const PERSON = `p.id, p.name, p.address, p.role, p.site_id as "siteId", p.zone,
  coalesce((select array_agg(t.name order by t.name) from team_member m join team t on t.id = m.team_id
             where m.person_id = p.id), '{}') as teams`

export const listSites = async (sql: Sql): Promise<Site[]> =>
  (await sql.query<Site>('select id, name, zone from site order by name')).rows

export const peopleByIds = async (sql: Sql, ids: readonly string[]): Promise<Person[]> =>
  (await sql.query<Person>(`select ${PERSON} from person p where p.id = any($1) order by p.name`, [ids])).rows

/** Text made safe for LIKE, matching the beginning of any word. */
const likeStart = (text: string): string => text.toLowerCase().replace(/[\\%_]/g, (sign) => `\\${sign}`)

/** People whose name, one of its words, or address begins with the text; at most 20. */
export const findPeople = async (sql: Sql, text: string): Promise<Person[]> =>
  (
    await sql.query<Person>(
      `select ${PERSON} from person p
        where lower(p.name) like $1 || '%' or lower(p.name) like '% ' || $1 || '%' or p.address like $1 || '%'
        order by (lower(p.name) like $1 || '%') desc, p.name limit 20`,
      [likeStart(text)],
    )
  ).rows

export const findTeams = async (sql: Sql, text: string): Promise<{ name: string; members: Person[] }[]> => {
  const rows = await sql.query<Person & { team: string }>(
    `select g.name as team, ${PERSON} from team g join team_member gm on gm.team_id = g.id
       join person p on p.id = gm.person_id
      where lower(g.name) like $1 || '%' or lower(g.name) like '% ' || $1 || '%' order by g.name, p.name`,
    [likeStart(text)],
  )
  const teams = new Map<string, Person[]>()
  for (const { team, ...person } of rows.rows) teams.set(team, [...(teams.get(team) ?? []), person])
  return [...teams].map(([name, members]) => ({ name, members }))
}

export interface Account {
  readonly id: string
  readonly name: string
  readonly password_hash: string
}

export const findAccount = async (sql: Sql, address: string): Promise<Account | null> =>
  (await sql.query<Account>('select id, name, password_hash from person where address = $1', [address]))
    .rows[0] ?? null

export const leadingPeople = async (sql: Sql) =>
  (
    await sql.query<{ name: string; address: string; role: string; site: string }>(
      `select p.name, p.address, p.role, s.name as site from person p join site s on s.id = p.site_id
        where p.demo_order is not null order by p.demo_order`,
    )
  ).rows

/** Opens a session and gives its token; only the hash is kept. */
export const openSession = async (sql: Sql, personId: string, expires: number): Promise<string> => {
  const token = randomBytes(32).toString('base64url')
  await sql.query('insert into session (token_hash, person_id, expires_at) values ($1, $2, $3)', [
    hashOf(token),
    personId,
    at(expires),
  ])
  return token
}

export const sessionOwner = async (
  sql: Sql,
  token: string,
  now: number,
): Promise<{ id: string; name: string } | null> =>
  (
    await sql.query<{ id: string; name: string }>(
      `select p.id, p.name from session s join person p on p.id = s.person_id
        where s.token_hash = $1 and s.expires_at > $2`,
      [hashOf(token), at(now)],
    )
  ).rows[0] ?? null

export const closeSession = async (sql: Sql, token: string): Promise<void> => {
  await sql.query('delete from session where token_hash = $1', [hashOf(token)])
}

export const noteFailure = async (sql: Sql, address: string, client: string, now: number): Promise<void> => {
  await sql.query('insert into sign_in_failure (address, client, at) values ($1, $2, $3)', [
    address,
    client,
    at(now),
  ])
}

/** Failed sign-ins since an instant, for an address and from a client. */
export const failuresSince = async (sql: Sql, address: string, client: string, since: number) => {
  const counted = await sql.query<{ address: number; client: number }>(
    `select count(*) filter (where address = $1) as address, count(*) filter (where client = $2) as client
       from sign_in_failure where at > $3 and (address = $1 or client = $2)`,
    [address, client, at(since)],
  )
  return counted.rows[0] ?? { address: 0, client: 0 }
}

export const forgetFailures = async (sql: Sql, address: string): Promise<void> => {
  await sql.query('delete from sign_in_failure where address = $1', [address])
}

/** Throws away sessions that have ended and failures that no longer count. */
export const tidyPeople = async (sql: Sql, now: number): Promise<void> => {
  await sql.query('delete from session where expires_at <= $1', [at(now)])
  await sql.query("delete from sign_in_failure where at < $1::timestamptz - interval '1 day'", [at(now)])
}
