import { createHash, randomBytes } from 'node:crypto'
import type { Contact, Display, Person, Preferences, Site } from '@marmot/contract/people'
import { at, type Sql } from '../platform/database.ts'
import { tellSessionEnded } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

const PERSON = `p.id, p.name, p.address, p.role, p.site_id as "siteId", p.zone,
  coalesce((select array_agg(t.name order by t.name) from team_member m join team t on t.id = m.team_id
             where m.person_id = p.id), '{}') as teams`

export const listSites = async (sql: Sql): Promise<Site[]> =>
  (await sql.query<Site>('select id, name, zone from site order by name')).rows

/** Throws where a site that something is at is none; nothing is asked where none was said. */
export const siteOrProblem = async (sql: Sql, siteId: string | null | undefined): Promise<void> => {
  if (!siteId || (await sql.query('select 1 from site where id = $1', [siteId])).rowCount) return
  throw new ProblemError(422, 'no-such-site', 'There is no such site. Choose another.', {
    fields: [{ path: 'outdoors', message: 'is no site' }],
  })
}

export const peopleByIds = async (sql: Sql, ids: readonly string[]): Promise<Person[]> =>
  ids.length === 0
    ? []
    : (await sql.query<Person>(`select ${PERSON} from person p where p.id = any($1) order by p.name`, [ids]))
        .rows

/** Everybody, by name, up to `most`: their teams are joined once, not looked up for each. */
export const listEverybody = async (sql: Sql, most: number): Promise<Omit<Person, 'address'>[]> =>
  (
    await sql.query<Omit<Person, 'address'>>(
      `select p.id, p.name, p.role, p.site_id as "siteId", p.zone, coalesce(g.teams, '{}') as teams
         from person p
         left join (select m.person_id, array_agg(t.name order by t.name) as teams
                      from team_member m join team t on t.id = m.team_id group by m.person_id) g on g.person_id = p.id
        order by p.name, p.id limit $1`,
      [most],
    )
  ).rows

/** People of these addresses: a guest who turns out to be a colleague is invited as one. */
export const peopleByAddress = async (sql: Sql, addresses: readonly string[]) =>
  (
    await sql.query<{ id: string; address: string }>(
      'select id, address from person where address = any($1)',
      [addresses],
    )
  ).rows

/** When people work, part by part of their week, by their id. Minutes since midnight of a weekday (1 is Monday). */
export const hoursOf = async (sql: Sql, people: readonly string[]) => {
  const rows = await sql.query<{ person_id: string; weekday: number; from: number; to: number }>(
    `select person_id, weekday, from_minute as from, to_minute as to from working_hours
      where person_id = any($1) order by weekday, from_minute`,
    [people],
  )
  const hours = new Map<string, { weekday: number; from: number; to: number }[]>()
  for (const { person_id, ...part } of rows.rows)
    hours.set(person_id, [...(hours.get(person_id) ?? []), part])
  return hours
}

/** Where people are and when they work, in one reading: of each that there is. Minutes since midnight of a weekday (1 is Monday). */
export const placed = async (sql: Sql, people: readonly string[]) =>
  (
    await sql.query<{
      id: string
      zone: string
      siteId: string
      hours: { weekday: number; from: number; to: number }[]
    }>(
      `select p.id, p.zone, p.site_id as "siteId", coalesce((
                select json_agg(json_build_object('weekday', w.weekday, 'from', w.from_minute, 'to', w.to_minute) order by w.weekday, w.from_minute)
                  from working_hours w where w.person_id = p.id), '[]') as hours
         from person p where p.id = any($1)`,
      [people],
    )
  ).rows

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

/** A team with who is in it, by their names. */
export interface Team {
  readonly id: string
  readonly name: string
  readonly members: Person[]
}

const readTeams = async (sql: Sql, where: string, value: string | readonly string[]): Promise<Team[]> => {
  const rows = await sql.query<Person & { teamId: string; team: string }>(
    `select g.id as "teamId", g.name as team, ${PERSON} from team g join team_member gm on gm.team_id = g.id
       join person p on p.id = gm.person_id where ${where} order by g.name, p.name`,
    [value],
  )
  const teams = new Map<string, Team>()
  for (const { teamId, team, ...person } of rows.rows) {
    const known = teams.get(teamId) ?? { id: teamId, name: team, members: [] }
    known.members.push(person)
    teams.set(teamId, known)
  }
  return [...teams.values()]
}

/** Teams of whose name one of the words begins with the text. */
export const findTeams = (sql: Sql, text: string): Promise<Team[]> =>
  readTeams(sql, "lower(g.name) like $1 || '%' or lower(g.name) like '% ' || $1 || '%'", likeStart(text))

/** Teams by their ids; ids that are no team's are left out. */
export const teamsByIds = async (sql: Sql, ids: readonly string[]): Promise<Team[]> =>
  ids.length === 0 ? [] : readTeams(sql, 'g.id = any($1)', ids)

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
): Promise<{ id: string; name: string; session: string } | null> =>
  (
    await sql.query<{ id: string; name: string; session: string }>(
      `select p.id, p.name, encode(s.token_hash, 'hex') as session from session s join person p on p.id = s.person_id
        where s.token_hash = $1 and s.expires_at > $2`,
      [hashOf(token), at(now)],
    )
  ).rows[0] ?? null

/** Ends a session, and with it the streams that stand in it. */
export const closeSession = async (sql: Sql, token: string): Promise<void> => {
  const gone = await sql.query('delete from session where token_hash = $1', [hashOf(token)])
  if (gone.rowCount) await tellSessionEnded(sql, hashOf(token).toString('hex'))
}

/** Ends all sessions of a person but one, and gives how many. */
export const closeOtherSessions = async (sql: Sql, personId: string, kept: string): Promise<number> => {
  const gone = await sql.query<{ session: string }>(
    `delete from session where person_id = $1 and encode(token_hash, 'hex') <> $2
     returning encode(token_hash, 'hex') as session`,
    [personId, kept],
  )
  for (const { session } of gone.rows) await tellSessionEnded(sql, session)
  return gone.rows.length
}

/** Those of these sessions, by their tokens' hashes, that go on. */
export const lastingSessions = async (
  sql: Sql,
  sessions: readonly string[],
  now: number,
): Promise<Set<string>> => {
  const rows = await sql.query<{ session: string }>(
    `select encode(token_hash, 'hex') as session from session
      where token_hash = any(select decode(h, 'hex') from unnest($1::text[]) h) and expires_at > $2`,
    [sessions, at(now)],
  )
  return new Set(rows.rows.map((row) => row.session))
}

/** Notes that somebody tries to sign in, before it is known whether they may; gives the note's id. */
export const noteTry = async (sql: Sql, address: string, client: string, now: number): Promise<string> =>
  (
    await sql.query<{ id: string }>(
      'insert into sign_in_failure (address, client, at) values ($1, $2, $3) returning id',
      [address, client, at(now)],
    )
  ).rows[0]?.id ?? ''

/** Forgets a try that was no failure. */
export const forgetTry = async (sql: Sql, id: string): Promise<void> => {
  await sql.query('delete from sign_in_failure where id = $1', [id])
}

/** Failed and unfinished sign-ins since an instant, for an address and from a client. */
export const triesSince = async (sql: Sql, address: string, client: string, since: number) => {
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

const DISPLAY = `first_weekday as "firstWeekday", shown_from as "shownFrom", shown_to as "shownTo",
  half_day_clock as "halfDayClock", locale, second_zone as "secondZone"`

export const readDisplay = async (sql: Sql, personId: string): Promise<Display | null> =>
  (await sql.query<Display>(`select ${DISPLAY} from person where id = $1`, [personId])).rows[0] ?? null

/** Whether somebody kept their last answer to an invitation to themselves. */
export const isQuiet = async (sql: Sql, personId: string): Promise<boolean> =>
  (
    await sql.query<{ quiet: boolean }>('select answers_quietly as quiet from person where id = $1', [
      personId,
    ])
  ).rows[0]?.quiet ?? false

/** Keeps whether somebody keeps their answers to themselves, as they chose last. */
export const keepQuiet = async (sql: Sql, personId: string, quiet: boolean): Promise<void> => {
  await sql.query('update person set answers_quietly = $2 where id = $1 and answers_quietly <> $2', [
    personId,
    quiet,
  ])
}

/** What somebody gave as their contact last; their name and address before that. */
export const readContactOf = async (sql: Sql, personId: string): Promise<Contact | null> => {
  const rows = await sql.query<{ name: string; address: string; contact: Contact | null }>(
    'select name, address, contact from person where id = $1',
    [personId],
  )
  const [row] = rows.rows
  return row ? (row.contact ?? { name: row.name, address: row.address, telephone: '' }) : null
}

/** Keeps what somebody gave as their contact, to be offered the next time. */
export const keepContact = async (sql: Sql, personId: string, contact: Contact): Promise<void> => {
  await sql.query('update person set contact = $2 where id = $1', [personId, JSON.stringify(contact)])
}

export const readPreferencesOf = async (sql: Sql, personId: string): Promise<Preferences | null> =>
  (
    await sql.query<Preferences>(
      `select ${DISPLAY}, zone, reminders, reminds_by_mail as "remindsByMail",
              coalesce((select json_agg(json_build_object('fromDay', from_day, 'zone', zone) order by from_day)
                          from zone_change where person_id = person.id and not applied), '[]') as "zoneChanges",
              coalesce((select json_agg(json_build_object('weekday', weekday, 'from', from_minute, 'to', to_minute)
                                        order by weekday, from_minute)
                          from working_hours where person_id = person.id), '[]') as hours
         from person where id = $1`,
      [personId],
    )
  ).rows[0] ?? null

export const writePreferences = async (sql: Sql, personId: string, given: Preferences): Promise<void> => {
  await sql.query(
    `update person set first_weekday = $2, shown_from = $3, shown_to = $4, half_day_clock = $5, locale = $6,
            second_zone = $7, zone = $8, reminders = $9, reminds_by_mail = $10 where id = $1`,
    [
      personId,
      given.firstWeekday,
      given.shownFrom,
      given.shownTo,
      given.halfDayClock,
      given.locale,
      given.secondZone,
      given.zone,
      given.reminders,
      given.remindsByMail,
    ],
  )
  await sql.query('delete from working_hours where person_id = $1', [personId])
  await sql.query(
    `insert into working_hours (person_id, weekday, from_minute, to_minute)
     select $1, * from unnest($2::smallint[], $3::smallint[], $4::smallint[])`,
    [
      personId,
      given.hours.map((part) => part.weekday),
      given.hours.map((part) => part.from),
      given.hours.map((part) => part.to),
    ],
  )
  await sql.query('delete from zone_change where person_id = $1 and not applied', [personId])
  await sql.query(
    `insert into zone_change (person_id, from_day, zone) select $1, * from unnest($2::date[], $3::text[])
     on conflict (person_id, from_day) do update set zone = excluded.zone, applied = false`,
    [
      personId,
      given.zoneChanges.map((change) => change.fromDay),
      given.zoneChanges.map((change) => change.zone),
    ],
  )
}

/** Journeys that have begun: from midnight in the new zone on, a person is there. Gives who moved. */
export const applyZoneChanges = async (sql: Sql, now: number): Promise<string[]> => {
  const moved = await sql.query<{ person_id: string; zone: string }>(
    `update zone_change set applied = true
      where not applied and (from_day::timestamp at time zone zone) <= $1 returning person_id, zone`,
    [at(now)],
  )
  for (const { person_id, zone } of moved.rows)
    await sql.query('update person set zone = $2 where id = $1', [person_id, zone])
  return moved.rows.map((row) => row.person_id)
}
