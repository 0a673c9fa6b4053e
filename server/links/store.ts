import { createHash, randomBytes } from 'node:crypto'
import { at, type Sql } from '../platform/database.ts'

/** What somebody without an account may do by a link. */
export type Purpose = 'answer' | 'vote' | 'visit' | 'venue' | 'panel'

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

/** A link as it is kept: never its token. `subjectId` is what it is for: of an answer, the participant. */
interface Link {
  /** What is kept of its token. */
  readonly hash: string
  readonly subjectId: string
  readonly expiresAt: number
  readonly revoked: boolean
}

/**
 * Makes a link for each of some subjects, good until an instant, and gives its token by the subject, kept only as a
 * hash. Links from before stay good: a letter that is sent again after a crash may have arrived the first time too.
 */
export const makeLinks = async (
  sql: Sql,
  purpose: Purpose,
  subjectIds: readonly string[],
  expires: number,
  now: number,
): Promise<Map<string, string>> => {
  const tokens = new Map(subjectIds.map((id) => [id, randomBytes(32).toString('base64url')]))
  if (tokens.size > 0)
    await sql.query(
      `insert into link (token_hash, purpose, subject_id, expires_at, made_at)
       select hash, $3, subject, $4, $5 from unnest($1::bytea[], $2::uuid[]) d(hash, subject)`,
      [[...tokens.values()].map(hashOf), [...tokens.keys()], purpose, at(expires), at(now)],
    )
  return tokens
}

/** Keeps a link whose token its holder made, good until an instant. */
export const keepLink = async (
  sql: Sql,
  link: {
    readonly purpose: Purpose
    readonly subjectId: string
    readonly token: string
    readonly expires: number
  },
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into link (token_hash, purpose, subject_id, expires_at, made_at) values ($1, $2, $3, $4, $5)
     on conflict (token_hash) do nothing`,
    [hashOf(link.token), link.purpose, link.subjectId, at(link.expires), at(now)],
  )
}

/** Ends all links to some subjects: whoever has one of them has nothing any more. */
export const revokeLinks = async (
  sql: Sql,
  purpose: Purpose,
  subjectIds: readonly string[],
  now: number,
): Promise<void> => {
  await sql.query(
    'update link set revoked_at = $3 where purpose = $1 and subject_id = any($2) and revoked_at is null',
    [purpose, subjectIds, at(now)],
  )
}

/** Ends one link by its token, for good. False where it had ended already: of two at once one is first. */
export const useUp = async (sql: Sql, purpose: Purpose, token: string, now: number): Promise<boolean> =>
  ((
    await sql.query(
      'update link set revoked_at = $3 where purpose = $1 and token_hash = $2 and revoked_at is null',
      [purpose, hashOf(token), at(now)],
    )
  ).rowCount ?? 0) > 0

/** How many links a subject was given since an instant. */
export const linksSince = async (
  sql: Sql,
  purpose: Purpose,
  subjectId: string,
  since: number,
): Promise<number> =>
  (
    await sql.query<{ n: number }>(
      'select count(*) as n from link where purpose = $1 and subject_id = $2 and made_at > $3',
      [purpose, subjectId, at(since)],
    )
  ).rows[0]?.n ?? 0

/** A link by its token, if it is one for this purpose: also one that has run out or was revoked. */
export const findLink = async (sql: Sql, purpose: Purpose, token: string): Promise<Link | null> => {
  const rows = await sql.query<{ subjectId: string; expiresAt: Date; revoked: boolean }>(
    `select subject_id as "subjectId", expires_at as "expiresAt", revoked_at is not null as revoked
       from link where token_hash = $1 and purpose = $2`,
    [hashOf(token), purpose],
  )
  const [row] = rows.rows
  return row ? { ...row, hash: hashOf(token).toString('hex'), expiresAt: row.expiresAt.getTime() } : null
}

/** Those of some links, by the hashes of their tokens, that still count and whose subject is still there. */
export const lastingLinks = async (
  sql: Sql,
  hashes: readonly string[],
  now: number,
): Promise<Set<string>> => {
  const rows = await sql.query<{ hash: string }>(
    `select encode(l.token_hash, 'hex') as hash from link l
      where l.token_hash = any(select decode(h, 'hex') from unnest($1::text[]) h)
        and l.expires_at > $2 and l.revoked_at is null
        and (l.purpose <> 'answer' or exists (select 1 from participant p where p.id = l.subject_id))`,
    [hashes, at(now)],
  )
  return new Set(rows.rows.map((row) => row.hash))
}

/** Forgets links a year after they ran out; until then their holder can have a new one sent. */
export const tidyLinks = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from link where expires_at < $1::timestamptz - interval '1 year'", [at(now)])
}
