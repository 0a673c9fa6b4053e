import { deleteFeed, type Feed, fetchFeed, listFeeds, putFeed, readFeedSpans } from '@marmot/contract/feeds'
import { BadCalendar, readCalendar } from '@marmot/core/feeds'
import { occurrencesWithin } from '@marmot/core/recurrence'
import type { SpanState } from '@marmot/core/sharing'
import { DAY, MINUTE, zoneTable } from '@marmot/core/time'
import type pg from 'pg'
import type { Clock } from '../platform/clock.ts'
import { at, endMs, type Sql, startMs, transaction } from '../platform/database.ts'
import { addJob } from '../platform/jobs.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readIds, readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { FeedTrouble, feedAddress, fetchFeedText } from './fetch.ts'

const BACK = 60 * DAY
const AHEAD = 400 * DAY
const MOST_SPANS = 20_000

interface Read {
  readonly start: number
  readonly end: number
  readonly state: SpanState
  readonly title: string
  readonly place: string
}

/** What stands in a feed around now: its entries date by date, and its busy times. Throws `FeedTrouble`. */
const spansOf = (text: string, home: string, now: number): Read[] => {
  if (/^\s*<(!doctype|html)/i.test(text))
    throw new FeedTrouble('It answers with a web page, not with a calendar.')
  let read: ReturnType<typeof readCalendar>
  try {
    read = readCalendar(text, home)
  } catch (error) {
    if (error instanceof BadCalendar) throw new FeedTrouble(error.message)
    throw error
  }
  const [from, to] = [now - BACK, now + AHEAD]
  const dates = read.entries.flatMap((entry) => {
    const words = new Map(entry.overrides.map((one) => [one.recurrence, one]))
    return occurrencesWithin(entry, entry.overrides, zoneTable(entry.zone), from, to).map((date) => {
      const own = words.get(date.recurrence)
      return {
        start: date.start,
        end: date.end,
        state: own?.shows ?? entry.shows,
        title: own?.title ?? entry.title,
        place: own?.place ?? entry.place,
      }
    })
  })
  const busy = read.busy
    .filter((span) => span.end > span.start && span.end > from && span.start < to)
    .map((span) => ({ ...span, title: '', place: '' }))
  const spans = [...dates, ...busy]
  if (spans.length > MOST_SPANS) throw new FeedTrouble(`It has more than ${MOST_SPANS} dates.`)
  return spans
}

interface FeedRow {
  personId: string
  zone: string
  address: string
  everyMinutes: number
  etag: string | null
  lastModified: string | null
}

/** What reading feeds needs. `allowed` has the hosts with ports inside the house that may be read all the same. */
export interface Reading {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly allowed: ReadonlySet<string>
}

/** Reads a feed once. What was read well before stays when it goes wrong; what went wrong is kept, in words. */
export const readFeed = async ({ pool, clock, allowed }: Reading, feedId: string): Promise<void> => {
  const rows = await pool.query<FeedRow>(
    `select f.person_id as "personId", p.zone, f.address, f.every_minutes as "everyMinutes", f.etag,
            f.last_modified as "lastModified" from feed f join person p on p.id = f.person_id where f.id = $1`,
    [feedId],
  )
  const [feed] = rows.rows
  if (!feed) return
  let spans: Read[] | null = null
  let got: { etag: string | null; lastModified: string | null } = feed
  let trouble: string | null = null
  try {
    const fetched = await fetchFeedText(feed.address, feed, allowed)
    got = fetched
    if (fetched.text !== null) spans = spansOf(fetched.text, feed.zone, clock())
  } catch (error) {
    if (!(error instanceof FeedTrouble)) throw error
    trouble = error.message
  }
  const now = clock()
  await transaction(pool, async (sql) => {
    await sql.query(
      `update feed set tried_at = $2, next_at = $3, trouble = $4, etag = $5, last_modified = $6,
              read_at = case when $4::text is null then $2 else read_at end where id = $1`,
      [
        feedId,
        at(now),
        at(now + feed.everyMinutes * MINUTE),
        trouble,
        trouble ? feed.etag : got.etag,
        trouble ? feed.lastModified : got.lastModified,
      ],
    )
    if (spans) await replaceSpans(sql, feedId, spans)
    await tellTime(sql, [feed.personId])
  })
}

const replaceSpans = async (sql: Sql, feedId: string, spans: readonly Read[]): Promise<void> => {
  await sql.query('delete from feed_span where feed_id = $1', [feedId])
  await sql.query(
    `insert into feed_span (feed_id, span, state, title, place)
     select $1, tstzrange(s, e), st, t, p
       from unnest($2::timestamptz[], $3::timestamptz[], $4::text[], $5::text[], $6::text[]) d(s, e, st, t, p)`,
    [
      feedId,
      spans.map((span) => at(span.start)),
      spans.map((span) => at(span.end)),
      spans.map((span) => span.state),
      spans.map((span) => span.title),
      spans.map((span) => span.place),
    ],
  )
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
  for (const { id } of due.rows) await addJob(pool, TASK, { feedId: id }, `feed:${id}`)
}

const FEED = `id, name, address, every_minutes as "everyMinutes", read_at as "readAt", tried_at as "triedAt", trouble,
  (select count(*) from feed_span s where s.feed_id = feed.id)::integer as dates`

type FeedOnPaper = Omit<Feed, 'readAt' | 'triedAt'> & { readAt: Date | null; triedAt: Date | null }

const onWire = (row: FeedOnPaper): Feed => ({
  ...row,
  readAt: row.readAt?.toISOString() ?? null,
  triedAt: row.triedAt?.toISOString() ?? null,
})

export const readingRoutes = ({ mount, deps }: Routes, allowed: ReadonlySet<string>): void => {
  const { pool, clock } = deps
  const reading = { pool, clock, allowed }

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
      state: SpanState
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
      feeds: known.rows.map(({ id }) => ({
        id,
        spans: rows.rows
          .filter((row) => row.id === id)
          .map((row) => ({
            start: at(row.start),
            end: at(row.end),
            state: row.state,
            ...(row.title ? { title: row.title } : {}),
            ...(row.place ? { place: row.place } : {}),
          })),
      })),
    }
  })
}
