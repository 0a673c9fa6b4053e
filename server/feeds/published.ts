import { createHash, createHmac } from 'node:crypto'
import { exportCalendar, publishFeed, readPublished, revokeFeed } from '@marmot/contract/feeds'
import { type CalendarEntry, writeCalendar, writeFreeBusy } from '@marmot/core/feeds'
import type { SeenSpan, Sees } from '@marmot/core/sharing'
import { DAY, dayOf, instantOf, MINUTE, toWall, wallOf, zoneTable } from '@marmot/core/time'
import type { Context } from 'koa'
import { readTimeAt } from '../availability/index.ts'
import { actingFor } from '../entries/index.ts'
import { peopleByIds } from '../people/index.ts'
import { at, type Sql, startMs, transaction } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readRange } from '../platform/read.ts'
import { once, type Routes } from '../platform/router.ts'
import { entriesOf } from './calendar.ts'
import { nextPage } from './next-page.ts'

/** A UUID has 36 characters. */
const LEAST_KEY = 32

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest()

interface Published {
  id: string
  personId: string
  kind: 'calendar' | 'freebusy' | 'page'
  sees: Sees
  months: number
  revoked: boolean
  bodyHash: string | null
  changedAt: Date | null
}

const findPublished = async (sql: Sql, token: string): Promise<Published | null> =>
  (
    await sql.query<Published>(
      `select id, person_id as "personId", kind, sees, months, revoked_at is not null as revoked,
              body_hash as "bodyHash", changed_at as "changedAt" from published_feed where token_hash = $1`,
      [hashOf(token)],
    )
  ).rows[0] ?? null

const noteKey = (entryId: string, start: number): string => `${entryId} ${start}`

/** The notes of entries that may be seen whole, by entry and start: a date can have a note of its own. */
const notesOf = async (sql: Sql, spans: readonly SeenSpan[]): Promise<Map<string, string>> => {
  const seen = spans.filter((span) => span.entryId)
  const rows = await sql.query<{ id: string; start: number; note: string }>(
    `select e.id, ${startMs('o.span')} as start, coalesce(v.note, e.note) as note
       from entry e join occurrence o on o.entry_id = e.id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where e.id = any($1) and o.span && tstzrange($2, $3) and coalesce(v.note, e.note) <> ''`,
    [
      [...new Set(seen.map((span) => span.entryId))],
      at(Math.min(...seen.map((span) => span.start), 0)),
      at(Math.max(...seen.map((span) => span.end), 1)),
    ],
  )
  return new Map(rows.rows.map((row) => [noteKey(row.id, row.start), row.note]))
}

/** Seen spans as single entries, each date its own: what a reader gets of a series depends on the date. */
const asEntries = (
  spans: readonly SeenSpan[],
  notes: ReadonlyMap<string, string>,
  personId: string,
  home: string,
): CalendarEntry[] =>
  spans.map((span) => {
    const zone = span.wholeDays ?? home
    const table = zoneTable(zone)
    const starts = toWall(table, span.start)
    const minutes = (span.wholeDays ? toWall(table, span.end) - starts : span.end - span.start) / MINUTE
    return {
      uid: createHash('sha256')
        .update(`${personId} ${span.start} ${span.end} ${span.entryId ?? span.state}`)
        .digest('hex')
        .slice(0, 32),
      zone,
      starts,
      minutes: Math.max(1, Math.round(minutes)),
      allDay: span.wholeDays !== undefined,
      rule: null,
      added: [],
      excepted: [],
      overrides: [],
      title: span.title ?? (span.state === 'away' ? 'Away' : 'Busy'),
      place: span.place ?? '',
      note: span.entryId ? (notes.get(noteKey(span.entryId, span.start)) ?? '') : '',
      shows: span.state,
      private: false,
      category: null,
      reminders: [],
      contacts: [],
      sequence: 0,
      stamp: null,
    }
  })

const WEEK = 7 * DAY
const BACK = 30 * DAY

/** The body of what is published, made with a stamp of its own so that it only differs when its content does. */
const bodyOf = async (sql: Sql, feed: Published, now: number, stamp: number): Promise<string> => {
  const [owner] = await peopleByIds(sql, [feed.personId])
  if (!owner) throw notFound('calendar')
  const table = zoneTable(owner.zone)
  const midnight = instantOf(table, wallOf(dayOf(toWall(table, now))))
  const level = { sees: feed.sees, does: 'look' as const, seesPrivate: false }
  const ahead = feed.kind === 'page' ? WEEK : feed.months * 31 * DAY
  const from = feed.kind === 'calendar' ? midnight - BACK : midnight
  const to = midnight + ahead
  const spans = await readTimeAt(sql, owner.id, level, from, to, now)
  if (feed.kind === 'freebusy') return writeFreeBusy(spans, owner, from, to, stamp)
  if (feed.kind === 'page') return nextPage(owner, spans, now)
  return writeCalendar(asEntries(spans, await notesOf(sql, spans), owner.id, owner.zone), owner.name, stamp)
}

/** Answers with what is published, or that nothing changed (RFC 9110 sections 8.8 and 13.1). */
const answer = async (sql: Sql, feed: Published, context: Context, now: number): Promise<void> => {
  // Made once with a fixed stamp to see whether it changed, and again with the stamp that is told.
  const hash = createHash('sha256')
    .update(await bodyOf(sql, feed, now, 0))
    .digest('base64url')
    .slice(0, 32)
  const changed = hash !== feed.bodyHash || !feed.changedAt
  const changedAt = changed ? Math.floor(now / 1000) * 1000 : (feed.changedAt?.getTime() ?? now)
  await sql.query('update published_feed set read_at = $2, body_hash = $3, changed_at = $4 where id = $1', [
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
  context.body = await bodyOf(sql, feed, now, changedAt)
}

export const publishedRoutes = ({ mount, deps }: Routes, url: () => string): void => {
  const { pool, clock } = deps

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
    await answer(pool, feed, context, clock())
    return {}
  })

  mount(exportCalendar, async ({ query, asker, context }) => {
    const ownerId = query.of ?? asker.id
    const looking = await actingFor(pool, asker.id, ownerId, clock())
    const range = query.from && query.to ? readRange({ from: query.from, to: query.to }) : {}
    const known = await entriesOf(pool, ownerId, range)
    // A stand-in who may not see private entries takes none of them away.
    const entries = known
      .map((one) => one.entry)
      .filter((entry) => looking.owns || looking.level.seesPrivate || !isPrivate(entry))
    const [owner] = await peopleByIds(pool, [ownerId])
    context.set('content-type', 'text/calendar; charset=utf-8')
    context.set('content-disposition', 'attachment; filename="marmot.ics"')
    context.body = writeCalendar(entries, owner?.name ?? '', clock())
    return {}
  })
}

const isPrivate = (entry: CalendarEntry): boolean =>
  entry.private || entry.overrides.some((one) => one.private === true)
