import type { Feed } from '@marmot/contract/feeds'
import type { SpanState } from '@marmot/core/sharing'
import { at, endMs, msSql, type Sql, startMs } from '../platform/database.ts'
import type { Published } from './publishing.ts'

/** After so many readings that broke off, the next one waits for a day. */
const MOST_ATTEMPTS = 3

/** What reading a feed has to know of it. */
export interface FeedToRead {
  readonly personId: string
  readonly zone: string
  readonly address: string
  readonly etag: string | null
  readonly lastModified: string | null
}

/**
 * Begins a reading of a feed, and gives what it needs; null when the feed is gone. The next reading is set before
 * anything is read: whatever the feed does to us, it is not read again at once.
 */
export const beginReading = async (sql: Sql, feedId: string, now: number): Promise<FeedToRead | null> =>
  (
    await sql.query<FeedToRead>(
      `update feed f set attempts = f.attempts + 1,
              next_at = case when f.attempts >= $3 then $2::timestamptz + interval '1 day'
                             else $2::timestamptz + f.every_minutes * interval '1 minute' end
         from person p where p.id = f.person_id and f.id = $1
       returning f.person_id as "personId", p.zone, f.address, f.etag, f.last_modified as "lastModified"`,
      [feedId, at(now), MOST_ATTEMPTS],
    )
  ).rows[0] ?? null

/** Ends a reading that kept nothing new: with what went wrong, in words, or because nothing had changed. */
export const endReading = async (
  sql: Sql,
  feedId: string,
  trouble: string | null,
  now: number,
): Promise<void> => {
  await sql.query(
    `update feed set tried_at = $2, trouble = $3, attempts = 0,
            read_at = case when $3::text is null then $2 else read_at end where id = $1`,
    [feedId, at(now), trouble],
  )
}

/** The feeds whose time to be read has come. */
export const dueFeeds = async (sql: Sql, now: number): Promise<string[]> =>
  (await sql.query<{ id: string }>('select id from feed where next_at <= $1 limit 500', [at(now)])).rows.map(
    (row) => row.id,
  )

const FEED = `id, name, address, every_minutes as "everyMinutes",
  case when mine then 'mine' when guest is not null then 'guest' else 'nobody' end as whose, guest, read_at as "readAt", tried_at as "triedAt", trouble,
  (select count(*) from feed_span s where s.feed_id = feed.id)::integer as dates, unread,
  unread_count as "unreadCount"`

type FeedOnPaper = Omit<Feed, 'readAt' | 'triedAt'> & { readAt: Date | null; triedAt: Date | null }

const onWire = (row: FeedOnPaper): Feed => ({
  ...row,
  readAt: row.readAt?.toISOString() ?? null,
  triedAt: row.triedAt?.toISOString() ?? null,
})

/** A feed that a person reads; null when there is none such. */
export const feedOf = async (sql: Sql, feedId: string, personId: string): Promise<Feed | null> => {
  const rows = await sql.query<FeedOnPaper>(`select ${FEED} from feed where id = $1 and person_id = $2`, [
    feedId,
    personId,
  ])
  return rows.rows[0] ? onWire(rows.rows[0]) : null
}

/** The feeds that a person reads, by their names. */
export const feedsOf = async (sql: Sql, personId: string): Promise<Feed[]> =>
  (
    await sql.query<FeedOnPaper>(`select ${FEED} from feed where person_id = $1 order by name`, [personId])
  ).rows.map(onWire)

/** Keeps a feed of a person's, to be read from now on. False when it is somebody else's. */
export const keepFeed = async (
  sql: Sql,
  personId: string,
  feed: Pick<Feed, 'id' | 'name' | 'address' | 'everyMinutes' | 'whose' | 'guest'>,
  now: number,
): Promise<boolean> =>
  ((
    await sql.query(
      `insert into feed (id, person_id, name, address, every_minutes, next_at, mine, guest)
       values ($1, $2, $3, $4, $5, $6, $7, $8)
       on conflict (id) do update set name = excluded.name, every_minutes = excluded.every_minutes,
         mine = excluded.mine, guest = excluded.guest,
         next_at = excluded.next_at, address = excluded.address,
         etag = case when feed.address = excluded.address then feed.etag end,
         last_modified = case when feed.address = excluded.address then feed.last_modified end
         where feed.person_id = $2`,
      [
        feed.id,
        personId,
        feed.name,
        feed.address,
        feed.everyMinutes,
        at(now),
        feed.whose === 'mine',
        feed.guest,
      ],
    )
  ).rowCount ?? 0) > 0

/** False when there is no such feed of the person's. */
export const removeFeed = async (sql: Sql, feedId: string, personId: string): Promise<boolean> =>
  ((await sql.query('delete from feed where id = $1 and person_id = $2', [feedId, personId])).rowCount ?? 0) >
  0

export interface FeedSpan {
  readonly id: string
  readonly start: number
  readonly end: number
  readonly state: SpanState | 'unknown'
  readonly title: string
  readonly place: string
}

/** What a person's feeds have in `[from, to)`, in order. */
export const spansOf = async (
  sql: Sql,
  personId: string,
  feedIds: readonly string[],
  from: number,
  to: number,
): Promise<FeedSpan[]> =>
  (
    await sql.query<FeedSpan>(
      `select f.id, ${startMs('s.span')} as start, ${endMs('s.span')} as end, s.state, s.title, s.place
         from feed f join feed_span s on s.feed_id = f.id
        where f.person_id = $1 and f.id = any($2) and s.span && tstzrange($3, $4) order by lower(s.span)`,
      [personId, feedIds, at(from), at(to)],
    )
  ).rows

/** Those of a person's feeds that were read well at least once. */
export const knownFeeds = async (sql: Sql, personId: string, feedIds: readonly string[]): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      'select id from feed where person_id = $1 and id = any($2) and read_at is not null',
      [personId, feedIds],
    )
  ).rows.map((row) => row.id)

/** What is shown at an address, and how. */
export type Shown = Pick<Published, 'sees' | 'months' | 'days' | 'look' | 'heading' | 'withTodos'>

const SHOWN = 'sees, months, days, look, heading, with_todos as "withTodos"'
const shownRow = (what: Shown) => [what.sees, what.months, what.days, what.look, what.heading, what.withTodos]

/** What is published at an address, by the hash of its secret. */
export const findPublished = async (sql: Sql, tokenHash: Buffer): Promise<Published | null> =>
  (
    await sql.query<Published>(
      `select id, person_id as "personId", kind, ${SHOWN}, resource_id as "placeId", revoked_at is not null as revoked,
              body_hash as "bodyHash", ${msSql('changed_at')} as "changedAt" from published_feed where token_hash = $1`,
      [tokenHash],
    )
  ).rows[0] ?? null

/** What a person publishes, oldest first. */
export const publishedOf = async (sql: Sql, personId: string) => {
  const rows = await sql.query<{
    id: string
    kind: Published['kind']
    place: string | null
    sees: 'busy' | 'headlines' | 'everything'
    months: number
    days: 1 | 7
    look: Published['look']
    heading: string
    withTodos: boolean
    madeAt: Date
    readAt: Date | null
  }>(
    `select f.id, f.kind, ${SHOWN}, r.name as place, f.made_at as "madeAt", f.read_at as "readAt"
       from published_feed f left join resource r on r.id = f.resource_id
      where f.person_id = $1 and f.revoked_at is null order by f.made_at`,
    [personId],
  )
  return rows.rows.map((row) => ({
    ...row,
    madeAt: row.madeAt.toISOString(),
    readAt: row.readAt?.toISOString() ?? null,
  }))
}

/** Publishes a person's time at an address, of which only the hash of the secret is kept. */
export const publish = async (
  sql: Sql,
  personId: string,
  tokenHash: Buffer,
  what: Shown & Pick<Published, 'kind' | 'placeId'>,
  now: number,
): Promise<string> => {
  const rows = await sql.query<{ id: string }>(
    `insert into published_feed (person_id, token_hash, kind, made_at, resource_id, sees, months, days, look, heading, with_todos)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) returning id`,
    [personId, tokenHash, what.kind, at(now), what.placeId, ...shownRow(what)],
  )
  return rows.rows[0]?.id ?? ''
}

/** Changes what is shown at an address. False when it is none of the person's. */
export const changeShown = async (sql: Sql, id: string, personId: string, what: Shown): Promise<boolean> =>
  ((
    await sql.query(
      `update published_feed set sees = $3, months = $4, days = $5, look = $6, heading = $7, with_todos = $8
        where id = $1 and person_id = $2 and revoked_at is null`,
      [id, personId, ...shownRow(what)],
    )
  ).rowCount ?? 0) > 0

/** Publishes no more at an address. False when it is none of the person's. */
export const revoke = async (sql: Sql, id: string, personId: string, now: number): Promise<boolean> =>
  ((
    await sql.query(
      'update published_feed set revoked_at = coalesce(revoked_at, $3) where id = $1 and person_id = $2',
      [id, personId, at(now)],
    )
  ).rowCount ?? 0) > 0

/** Notes what an address gave, and since when. */
export const notePublished = async (
  sql: Sql,
  id: string,
  gave: { readonly hash: string; readonly changedAt: number },
  now: number,
): Promise<void> => {
  await sql.query('update published_feed set read_at = $2, body_hash = $3, changed_at = $4 where id = $1', [
    id,
    at(now),
    gave.hash,
    at(gave.changedAt),
  ])
}

/** Keeps a file that was looked at, for a day, and gives its id. */
export const keepFile = async (sql: Sql, personId: string, text: string, now: number): Promise<string> => {
  const kept = await sql.query<{ id: string }>(
    'insert into import (person_id, text, at) values ($1, $2, $3) returning id',
    [personId, text, at(now)],
  )
  return kept.rows[0]?.id ?? ''
}

/** The text of a file that a person looked at; null when there is none such. */
export const fileOf = async (sql: Sql, importId: string, personId: string): Promise<string | null> =>
  (
    await sql.query<{ text: string }>('select text from import where id = $1 and person_id = $2', [
      importId,
      personId,
    ])
  ).rows[0]?.text ?? null

export const isFileOf = async (sql: Sql, importId: string, personId: string): Promise<boolean> =>
  ((await sql.query('select 1 from import where id = $1 and person_id = $2', [importId, personId]))
    .rowCount ?? 0) > 0

export const forgetFile = async (sql: Sql, importId: string): Promise<void> => {
  await sql.query('delete from import where id = $1', [importId])
}

/** Throws away files that were looked at and not imported. */
export const tidyImports = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from import where at < $1::timestamptz - interval '1 day'", [at(now)])
}
