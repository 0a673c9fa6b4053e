import { createHash, createHmac } from 'node:crypto'
import {
  changePublished,
  exportCalendar,
  publishFeed,
  readPublished,
  revokeFeed,
} from '@marmot/contract/feeds'
import type { Context } from 'koa'
import { actingFor } from '../entries/index.ts'
import { transaction } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readRange } from '../platform/read.ts'
import { once, type Routes } from '../platform/router.ts'
import { ThreadEnded } from '../platform/threads.ts'
import { readResources } from '../resources/index.ts'
import type { ExportInput, Published, PublishedInput, PublishedText } from './publishing.ts'
import { changeShown, findPublished, notePublished, publish, revoke } from './store.ts'

/** A UUID has 36 characters. */
const LEAST_KEY = 32

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

/** Answers with what is published, or that nothing changed (RFC 9110 sections 8.8 and 13.1). */
const answer = async (
  { pool, threads }: Routes['deps'],
  feed: Published,
  context: Context,
  now: number,
): Promise<void> => {
  const made = await threads.run<PublishedInput, PublishedText>('publish', { feed, now }).catch(tooMuch)
  const { hash, changedAt } = made
  await notePublished(pool, feed.id, made, now)
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
        const { kind, place: placeId, ...shown } = body
        if (placeId && (await readResources(sql, asker.id, clock(), [placeId])).length === 0)
          throw notFound('place')
        const what = { ...shown, kind, placeId, sees: kind === 'freebusy' ? ('busy' as const) : shown.sees }
        return { id: await publish(sql, asker.id, hashOf(token), what, clock()) }
      }),
    )
    return { id, address: `${url()}/api/published/${token}` }
  })

  mount(changePublished, async ({ params, body, asker }) => {
    if (!(await changeShown(pool, params.feedId, asker.id, body))) throw notFound('address of yours')
    return {}
  })

  mount(revokeFeed, async ({ params, asker }) => {
    if (!(await revoke(pool, params.feedId, asker.id, clock()))) throw notFound('address of yours')
    return {}
  })

  mount(readPublished, async ({ params, context }) => {
    const feed = await findPublished(pool, hashOf(params.token.replace(/\.ics$/, '')))
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
    const todos = ownerId === asker.id && !('from' in range)
    const input = { ownerId, mayPrivate, todos, ...range, now: clock() }
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
