import { deleteFeed, type Feed, fetchFeed, listFeeds, putFeed, readFeedSpans } from '@marmot/contract/feeds'
import type { SpanState } from '@marmot/core/sharing'
import type pg from 'pg'
import type { Clock } from '../platform/clock.ts'
import { at, endMs, startMs } from '../platform/database.ts'
import { addJobs } from '../platform/jobs.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readIds, readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { ThreadEnded, type Threads } from '../platform/threads.ts'
import { FeedTrouble, feedAddress, fetchFeedText } from './fetch.ts'
import type { KeepInput } from './keeping.ts'

/** Reading what a feed of the largest size sent takes seconds; what takes longer is not a calendar. */
const MOST_READ_MS = 30_000
/** After so many readings that broke off, the next one waits for a day. */
const MOST_ATTEMPTS = 3

interface FeedRow {
  personId: string
  zone: string
  address: string
  etag: string | null
  lastModified: string | null
}

/** What reading feeds needs. `allowed` has the hosts with ports inside the house that may be read all the same. */
export interface Reading {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly threads: Threads
  readonly allowed: ReadonlySet<string>
}

/** Reads a feed once. What was read well before stays when it goes wrong; what went wrong is kept, in words. */
export const readFeed = async (reading: Reading, feedId: string): Promise<void> => {
  const { pool, clock, threads, allowed } = reading
  // Moved on before anything is read: whatever the feed does to us, it is not read again at once.
  const rows = await pool.query<FeedRow>(
    `update feed f set attempts = f.attempts + 1,
            next_at = case when f.attempts >= $3 then $2::timestamptz + interval '1 day'
                           else $2::timestamptz + f.every_minutes * interval '1 minute' end
       from person p where p.id = f.person_id and f.id = $1
     returning f.person_id as "personId", p.zone, f.address, f.etag, f.last_modified as "lastModified"`,
    [feedId, at(clock()), MOST_ATTEMPTS],
  )
  const [feed] = rows.rows
  if (!feed) return
  const fail = async (trouble: string | null) => {
    await pool.query(
      `update feed set tried_at = $2, trouble = $3, attempts = 0,
              read_at = case when $3::text is null then $2 else read_at end where id = $1`,
      [feedId, at(clock()), trouble],
    )
    await tellTime(pool, [feed.personId])
  }
  try {
    const fetched = await fetchFeedText(feed.address, feed, allowed)
    // Nothing new: what was read before is as fresh as now.
    if (fetched.bytes === null) return await fail(null)
    const { bytes, charset, etag, lastModified } = fetched
    const { personId, zone } = feed
    const input: KeepInput = { feedId, personId, zone, bytes, charset, etag, lastModified, now: clock() }
    const { trouble } = await threads.run<KeepInput, { trouble: string | null }>('readFeed', input, {
      signal: AbortSignal.timeout(MOST_READ_MS),
      transfer: [bytes.buffer],
    })
    if (trouble !== null) await fail(trouble)
  } catch (error) {
    if (error instanceof ThreadEnded) await fail('It takes too much time or room to read.')
    else if (error instanceof FeedTrouble) await fail(error.message)
    else throw error
  }
}

const TASK = 'read-feed'

/** The jobs of this domain: every minute, feeds whose time has come are read, each by one worker. */
export const feedTasks = (reading: Reading) => ({
  [TASK]: async (payload: unknown) => {
    if (payload && typeof payload === 'object' && 'feedId' in payload)
      await readFeed(reading, String(payload.feedId))
  },
})

export const planFeeds = async ({ pool, clock }: Reading): Promise<void> => {
  const due = await pool.query<{ id: string }>('select id from feed where next_at <= $1 limit 500', [
    at(clock()),
  ])
  await addJobs(
    pool,
    TASK,
    due.rows.map(({ id }) => ({ payload: { feedId: id }, key: `feed:${id}` })),
  )
}

const FEED = `id, name, address, every_minutes as "everyMinutes", read_at as "readAt", tried_at as "triedAt", trouble,
  (select count(*) from feed_span s where s.feed_id = feed.id)::integer as dates, unread,
  unread_count as "unreadCount"`

type FeedOnPaper = Omit<Feed, 'readAt' | 'triedAt'> & { readAt: Date | null; triedAt: Date | null }

const onWire = (row: FeedOnPaper): Feed => ({
  ...row,
  readAt: row.readAt?.toISOString() ?? null,
  triedAt: row.triedAt?.toISOString() ?? null,
})

export const readingRoutes = ({ mount, deps }: Routes, allowed: ReadonlySet<string>): void => {
  const { pool, clock, threads } = deps
  const reading = { pool, clock, threads, allowed }

  const one = async (feedId: string, personId: string): Promise<Feed> => {
    const rows = await pool.query<FeedOnPaper>(`select ${FEED} from feed where id = $1 and person_id = $2`, [
      feedId,
      personId,
    ])
    const [row] = rows.rows
    if (!row) throw notFound('feed of yours')
    return onWire(row)
  }

  mount(listFeeds, async ({ asker }) => {
    const read = await pool.query<FeedOnPaper>(
      `select ${FEED} from feed where person_id = $1 order by name`,
      [asker.id],
    )
    const published = await pool.query<{
      id: string
      kind: 'calendar' | 'freebusy' | 'page'
      sees: 'busy' | 'headlines' | 'everything'
      months: number
      madeAt: Date
      readAt: Date | null
    }>(
      `select id, kind, sees, months, made_at as "madeAt", read_at as "readAt" from published_feed
        where person_id = $1 and revoked_at is null order by made_at`,
      [asker.id],
    )
    return {
      read: read.rows.map(onWire),
      published: published.rows.map((row) => ({
        ...row,
        madeAt: row.madeAt.toISOString(),
        readAt: row.readAt?.toISOString() ?? null,
      })),
    }
  })

  mount(putFeed, async ({ params, body, asker }) => {
    try {
      feedAddress(body.address)
    } catch (error) {
      const message = error instanceof FeedTrouble ? error.message : 'This is no web address.'
      throw new ProblemError(422, 'bad-address', message, { fields: [{ path: 'address', message }] })
    }
    const rows = await pool.query(
      `insert into feed (id, person_id, name, address, every_minutes, next_at) values ($1, $2, $3, $4, $5, $6)
       on conflict (id) do update set name = excluded.name, every_minutes = excluded.every_minutes,
         next_at = excluded.next_at, address = excluded.address,
         etag = case when feed.address = excluded.address then feed.etag end,
         last_modified = case when feed.address = excluded.address then feed.last_modified end
         where feed.person_id = $2`,
      [params.feedId, asker.id, body.name, body.address, body.everyMinutes, at(clock())],
    )
    if (!rows.rowCount) throw notFound('feed of yours')
    await readFeed(reading, params.feedId)
    return one(params.feedId, asker.id)
  })

  mount(deleteFeed, async ({ params, asker }) => {
    const gone = await pool.query('delete from feed where id = $1 and person_id = $2', [
      params.feedId,
      asker.id,
    ])
    if (!gone.rowCount) throw notFound('feed of yours')
    return {}
  })

  mount(fetchFeed, async ({ params, asker }) => {
    await one(params.feedId, asker.id)
    await readFeed(reading, params.feedId)
    return one(params.feedId, asker.id)
  })

  mount(readFeedSpans, async ({ query, asker }) => {
    const { from, to } = readRange(query)
    const ids = readIds(query.feeds)
    const rows = await pool.query<{
      id: string
      start: number
      end: number
      state: SpanState | 'unknown'
      title: string
      place: string
    }>(
      `select f.id, ${startMs('s.span')} as start, ${endMs('s.span')} as end, s.state, s.title, s.place
         from feed f join feed_span s on s.feed_id = f.id
        where f.person_id = $1 and f.id = any($2) and s.span && tstzrange($3, $4) order by lower(s.span)`,
      [asker.id, ids, at(from), at(to)],
    )
    // A feed that was never read well is unknown, not empty: it is left out.
    const known = await pool.query<{ id: string }>(
      'select id from feed where person_id = $1 and id = any($2) and read_at is not null',
      [asker.id, ids],
    )
    return {
      feeds: known.rows.map(({ id }) => {
        const own = rows.rows.filter((row) => row.id === id)
        return {
          id,
          spans: own.flatMap(({ start, end, state, title, place }) =>
            state === 'unknown'
              ? []
              : [
                  {
                    start: at(start),
                    end: at(end),
                    state,
                    ...(title ? { title } : {}),
                    ...(place ? { place } : {}),
                  },
                ],
          ),
          unknown: own
            .filter((row) => row.state === 'unknown')
            .map((row) => ({ start: at(row.start), end: at(row.end) })),
        }
      }),
    }
  })
}
