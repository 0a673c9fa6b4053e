import { deleteFeed, type Feed, fetchFeed, listFeeds, putFeed, readFeedSpans } from '@marmot/contract/feeds'
import type pg from 'pg'
import { layBeside } from '../availability/index.ts'
import type { Clock } from '../platform/clock.ts'
import { at, transaction } from '../platform/database.ts'
import { addJobs } from '../platform/jobs.ts'
import { tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readIds, readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { ThreadEnded, type Threads } from '../platform/threads.ts'
import { FeedTrouble, feedAddress, fetchFeedText } from './fetch.ts'
import type { KeepInput } from './keeping.ts'
import {
  beginReading,
  dueFeeds,
  endReading,
  feedOf,
  feedsOf,
  keepFeed,
  knownFeeds,
  publishedOf,
  removeFeed,
  spansOf,
} from './store.ts'

/** Reading what a feed of the largest size sent takes seconds; what takes longer is not a calendar. */
const MOST_READ_MS = 30_000

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
  const feed = await beginReading(pool, feedId, clock())
  if (!feed) return
  const fail = async (trouble: string | null) => {
    await endReading(pool, feedId, trouble, clock())
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
  const due = await dueFeeds(pool, clock())
  await addJobs(
    pool,
    TASK,
    due.map((feedId) => ({ payload: { feedId }, key: `feed:${feedId}` })),
  )
}

export const readingRoutes = ({ mount, deps }: Routes, allowed: ReadonlySet<string>): void => {
  const { pool, clock, threads } = deps
  const reading = { pool, clock, threads, allowed }

  const one = async (feedId: string, personId: string): Promise<Feed> => {
    const feed = await feedOf(pool, feedId, personId)
    if (!feed) throw notFound('feed of yours')
    return feed
  }

  mount(listFeeds, async ({ asker }) => ({
    read: await feedsOf(pool, asker.id),
    published: await publishedOf(pool, asker.id),
  }))

  mount(putFeed, async ({ params, body: { beside, ...body }, asker }) => {
    try {
      feedAddress(body.address)
    } catch (error) {
      const message = error instanceof FeedTrouble ? error.message : 'This is no web address.'
      throw new ProblemError(422, 'bad-address', message, { fields: [{ path: 'address', message }] })
    }
    await transaction(pool, async (sql) => {
      const before = await feedOf(sql, params.feedId, asker.id)
      if (!(await keepFeed(sql, asker.id, { ...body, id: params.feedId }, clock())))
        throw notFound('feed of yours')
      if (!before && beside) await layBeside(sql, asker.id, { kind: 'feed', id: params.feedId }, clock())
    })
    await readFeed(reading, params.feedId)
    return one(params.feedId, asker.id)
  })

  mount(deleteFeed, async ({ params, asker }) => {
    if (!(await removeFeed(pool, params.feedId, asker.id))) throw notFound('feed of yours')
    await tellTime(pool, [asker.id])
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
    const spans = await spansOf(pool, asker.id, ids, from, to)
    // A feed that was never read well is unknown, not empty: it is left out.
    const known = await knownFeeds(pool, asker.id, ids)
    return {
      feeds: known.map((id) => {
        const own = spans.filter((span) => span.id === id)
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
