import { createHash, createHmac } from 'node:crypto'
import { exportCalendar, publishFeed, readPublished, revokeFeed } from '@marmot/contract/feeds'
import type { Context } from 'koa'
import { actingFor } from '../entries/index.ts'
import { at, msSql, type Sql, transaction } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readRange } from '../platform/read.ts'
import { once, type Routes } from '../platform/router.ts'
import { ThreadEnded } from '../platform/threads.ts'
import type { ExportInput, Published, PublishedInput, PublishedText } from './publishing.ts'

/** A UUID has 36 characters. */
const LEAST_KEY = 32

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

const findPublished = async (sql: Sql, token: string): Promise<Published | null> =>
  (
    await sql.query<Published>(
      `select id, person_id as "personId", kind, sees, months, revoked_at is not null as revoked,
              body_hash as "bodyHash", ${msSql('changed_at')} as "changedAt" from published_feed where token_hash = $1`,
      [hashOf(token)],
    )
  ).rows[0] ?? null

/** Answers with what is published, or that nothing changed (RFC 9110 sections 8.8 and 13.1). */
const answer = async (
  { pool, threads }: Routes['deps'],
  feed: Published,
  context: Context,
  now: number,
): Promise<void> => {
  const made = await threads.run<PublishedInput, PublishedText>('publish', { feed, now }).catch(tooMuch)
  const { hash, changedAt } = made
  await pool.query('update published_feed set read_at = $2, body_hash = $3, changed_at = $4 where id = $1', [
    feed.id,
    at(now),
    hash,
    at(changedAt),
  ])
  context.set('cache-control', 'private, max-age=0, must-revalidate')
  context.etag = hash
  context.lastModified = new Date(changedAt)
  if (feed.kind === 'page') {
    context.type = 'html'
    // The one page that may stand in another site's frame: it does nothing and shows only what its owner chose.
    context.set(
      'content-security-policy',
      "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors *; base-uri 'none'",
    )
  } else {
    context.set('content-type', 'text/calendar; charset=utf-8')
    context.set('content-disposition', `attachment; filename="${feed.kind}.ics"`)
  }
  context.status = 200
  const wanted = context.get('if-none-match')
  const since = Date.parse(context.get('if-modified-since'))
  if (wanted ? wanted.trim() === '*' || wanted.includes(`"${hash}"`) : since >= changedAt) {
    context.status = 304
    return
  }
  context.body = made.text
}

export const publishedRoutes = ({ mount, deps }: Routes, url: () => string): void => {
  const { pool, clock, threads } = deps

  mount(publishFeed, async ({ body, asker, context }) => {
    // The secret is made of the request's own key, so that the same request again gets the same address though only its
    // hash is kept.
    const key = context.get('idempotency-key')
    if (key.length < LEAST_KEY)
      throw new ProblemError(
        400,
        'weak-key',
        `The Idempotency-Key of this request has to be random, and at least ${LEAST_KEY} characters long.`,
      )
    const token = createHmac('sha256', key).update(`address of ${asker.id}`).digest('base64url')
    const { id } = await transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const sees = body.kind === 'freebusy' ? 'busy' : body.sees
        const rows = await sql.query<{ id: string }>(
          `insert into published_feed (person_id, token_hash, kind, sees, months, made_at)
           values ($1, $2, $3, $4, $5, $6) returning id`,
          [asker.id, hashOf(token), body.kind, sees, body.months, at(clock())],
        )
        return { id: rows.rows[0]?.id ?? '' }
      }),
    )
    return { id, address: `${url()}/api/published/${token}` }
  })

  mount(revokeFeed, async ({ params, asker }) => {
    const gone = await pool.query(
      'update published_feed set revoked_at = coalesce(revoked_at, $3) where id = $1 and person_id = $2',
      [params.feedId, asker.id, at(clock())],
    )
    if (!gone.rowCount) throw notFound('address of yours')
    return {}
  })

  mount(readPublished, async ({ params, context }) => {
    const feed = await findPublished(pool, params.token.replace(/\.ics$/, ''))
    if (!feed) throw notFound('calendar')
    if (feed.revoked)
      throw new ProblemError(410, 'revoked', 'Its owner no longer publishes anything at this address.')
    await answer(deps, feed, context, clock())
    return {}
  })

  mount(exportCalendar, async ({ query, asker, context }) => {
    const ownerId = query.of ?? asker.id
    const looking = await actingFor(pool, asker.id, ownerId, clock())
    const range = query.from && query.to ? readRange({ from: query.from, to: query.to }) : {}
    const mayPrivate = looking.owns || looking.level.seesPrivate
    const input = { ownerId, mayPrivate, ...range, now: clock() }
    const text = await threads.run<ExportInput, string>('export', input).catch(tooMuch)
    context.set('content-type', 'text/calendar; charset=utf-8')
    context.set('content-disposition', 'attachment; filename="marmot.ics"')
    context.body = text
    return {}
  })
}

/** A calendar that a thread could not hold is said to be too much, whoever asked for it. */
const tooMuch = (error: unknown): never => {
  if (!(error instanceof ThreadEnded)) throw error
  throw new ProblemError(
    422,
    'too-much',
    'That is too much for one file. Ask for less of it: a shorter time, or fewer months.',
  )
}
