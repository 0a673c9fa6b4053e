import { HOUR } from '@marmot/core/time'
import { at, type Sql } from '../platform/database.ts'
import { ProblemError } from '../platform/problems.ts'

/** How often one may come to a public door within an hour: to what lies behind it, and from one place. */
export interface DoorLimit {
  readonly door: string
  readonly subject: number
  readonly client: number
}

/**
 * Counts that somebody comes to a door without an account, and throws where that is too often within an hour: for one subject, or
 * from one client. Counted outside of what is done then, so that a hundred at once are a hundred.
 */
export const comeTo = async (
  sql: Sql,
  limit: DoorLimit,
  who: { readonly subject: string; readonly client: string },
  now: number,
): Promise<void> => {
  await sql.query('insert into door_try (door, subject, client, at) values ($1, $2, $3, $4)', [
    limit.door,
    who.subject,
    who.client,
    at(now),
  ])
  const { rows } = await sql.query<{ subject: number; client: number }>(
    `select (select count(*) from door_try where door = $1 and subject = $2 and at > $4) as subject,
            (select count(*) from door_try where door = $1 and client = $3 and at > $4) as client`,
    [limit.door, who.subject, who.client, at(now - HOUR)],
  )
  const [come] = rows
  if (come && (come.subject > limit.subject || come.client > limit.client))
    throw new ProblemError(
      429,
      'too-often',
      'That was asked too often within an hour. Wait a little, and try again; what you typed is kept on this page.',
    )
}

/** So many may look within a minute from one place, at one server; an office behind one address is not so many. */
const MOST_LOOKS = 600
const LOOK_MS = 60_000
/** More places than that are not told apart: the oldest are forgotten. */
const MOST_PLACES = 50_000

/**
 * Counts who looks at what is open to all, in memory: looking costs a search each time. Throws where somebody looks too often.
 */
export const countLooks = () => {
  let since = 0
  const looks = new Map<string, number>()
  return (client: string, now: number): void => {
    if (now - since > LOOK_MS || looks.size > MOST_PLACES) {
      looks.clear()
      since = now
    }
    const n = (looks.get(client) ?? 0) + 1
    looks.set(client, n)
    if (n > MOST_LOOKS)
      throw new ProblemError(429, 'too-often', 'That was asked too often within a minute. Wait a little.')
  }
}

/** Forgets who came more than an hour ago. */
export const tidyDoors = async (sql: Sql, now: number): Promise<void> => {
  await sql.query('delete from door_try where at < $1', [at(now - HOUR)])
}
