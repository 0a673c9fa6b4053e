import { createHash } from 'node:crypto'
import type { Span } from '@marmot/core/availability'
import {
  type CalendarEntry,
  entryOf,
  STAMP_OF_NOTHING,
  stamped,
  writeCalendar,
  writeFreeBusy,
} from '@marmot/core/feeds'
import type { SeenSpan, Sees } from '@marmot/core/sharing'
import { DAY, dayOf, instantOf, MINUTE, toWall, wallOf, zoneTable } from '@marmot/core/time'
import { readTimeAt } from '../availability/index.ts'
import { peopleByIds } from '../people/index.ts'
import { at, type Sql, startMs } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
import type { ThreadWork } from '../platform/threads.ts'
import { readReservations } from '../reservations/index.ts'
import { readResources } from '../resources/index.ts'
import { todosOf } from '../todos/index.ts'
import { entriesOf } from './calendar.ts'
import { nextPage, type PageLook } from './next-page.ts'

/** An address at which somebody publishes, and what it last gave. */
export interface Published {
  readonly id: string
  readonly personId: string
  readonly kind: 'calendar' | 'freebusy' | 'page' | 'place'
  readonly placeId: string | null
  readonly sees: Sees
  readonly months: number
  readonly days: number
  readonly look: PageLook
  readonly heading: string
  readonly withTodos: boolean
  readonly revoked: boolean
  readonly bodyHash: string | null
  readonly changedAt: number | null
}

const noteKey = (entryId: string, start: number): string => `${entryId} ${start}`

/** The notes of entries that may be seen whole, by entry and start: a date can have a note of its own. */
const notesOf = async (sql: Sql, spans: readonly SeenSpan[]): Promise<Map<string, string>> => {
  const seen = spans.filter((span) => span.entryId)
  const rows = await sql.query<{ id: string; start: number; note: string }>(
    `select e.id, ${startMs('o.span')} as start, coalesce(v.note, e.note) as note
       from entry e join occurrence o on o.entry_id = e.id and o.gone_at is null
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
    return entryOf({
      uid: createHash('sha256')
        .update(`${personId} ${span.start} ${span.end} ${span.entryId ?? span.state}`)
        .digest('hex')
        .slice(0, 32),
      zone,
      starts,
      minutes: Math.max(1, Math.round(minutes)),
      allDay: span.wholeDays !== undefined,
      title: span.title ?? (span.state === 'away' ? 'Away' : 'Busy'),
      place: span.place ?? '',
      note: span.entryId ? (notes.get(noteKey(span.entryId, span.start)) ?? '') : '',
      shows: span.state,
    })
  })

const BACK = 30 * DAY

/** What is reserved of a place, as far as whoever follows it may know, by the place's own clock. */
const placeText = async (
  sql: Sql,
  placeId: string,
  readerId: string,
  range: Span,
  now: number,
): Promise<string> => {
  const [place] = await readResources(sql, readerId, now, [placeId])
  if (!place) throw notFound('place')
  const reserved = await readReservations(sql, readerId, [range], now, [placeId])
  const spans = reserved.map(({ start, end, state, title, by, entryId }) => ({
    start: Date.parse(start),
    end: Date.parse(end),
    state,
    title: title ? `${title} (${by})` : by,
    place: `${place.name}, ${place.site}`,
    ...(entryId ? { entryId } : {}),
  }))
  return writeCalendar(asEntries(spans, NO_NOTES, placeId, place.zone), place.name, STAMP_OF_NOTHING)
}
const NO_NOTES: ReadonlyMap<string, string> = new Map()

/** What is published, with the stamp of nothing, so that it only differs when its content does. */
const textAt = async (sql: Sql, feed: Published, now: number): Promise<string> => {
  const [owner] = await peopleByIds(sql, [feed.personId])
  if (!owner) throw notFound('calendar')
  const table = zoneTable(owner.zone)
  const midnight = instantOf(table, wallOf(dayOf(toWall(table, now))))
  const level = { sees: feed.sees, does: 'look' as const, seesPrivate: false }
  const ahead = feed.kind === 'page' ? feed.days * DAY : feed.months * 31 * DAY
  const from = feed.kind === 'calendar' || feed.kind === 'place' ? midnight - BACK : midnight
  const to = midnight + ahead
  if (feed.placeId) return placeText(sql, feed.placeId, owner.id, { start: from, end: to }, now)
  const spans = await readTimeAt(sql, owner.id, level, from, to, now)
  if (feed.kind === 'freebusy') return writeFreeBusy(spans, owner, from, to, STAMP_OF_NOTHING)
  if (feed.kind === 'page') return nextPage({ ...owner, ...feed }, spans, now)
  const entries = asEntries(spans, await notesOf(sql, spans), owner.id, owner.zone)
  // Whoever sees everything sees what is to be done, where that was chosen, too.
  const todos = feed.withTodos && feed.sees === 'everything' ? await todosOf(sql, owner.id) : []
  return writeCalendar(
    entries,
    owner.name,
    STAMP_OF_NOTHING,
    todos.map((one) => one.todo),
  )
}

export interface PublishedInput {
  readonly feed: Published
  readonly now: number
}

/** What an address gives: its text, a hash of what it says, and when that last changed, in milliseconds. */
export interface PublishedText {
  readonly text: string
  readonly hash: string
  readonly changedAt: number
}

/** Writes what is published at an address. */
export const writePublished: ThreadWork<PublishedInput, PublishedText> = async ({ feed, now }, { pool }) => {
  const text = await textAt(pool, feed, now)
  const hash = createHash('sha256').update(text).digest('base64url').slice(0, 32)
  const changedAt = hash === feed.bodyHash ? feed.changedAt : null
  const stamp = changedAt ?? Math.floor(now / 1000) * 1000
  return { text: stamped(text, stamp), hash, changedAt: stamp }
}

export interface ExportInput {
  readonly ownerId: string
  /** False for a stand-in who may not see private entries: they take none of them away. */
  readonly mayPrivate: boolean
  /** Whether their to-dos are taken along: one’s own, with all entries. */
  readonly todos: boolean
  readonly from?: number
  readonly to?: number
  readonly now: number
}

/** Writes a person's own entries and those they were invited to as one file. */
export const writeExport: ThreadWork<ExportInput, string> = async (
  { ownerId, mayPrivate, todos, now, ...range },
  { pool },
) => {
  const known = await entriesOf(pool, ownerId, range)
  const entries = known.map((one) => one.entry).filter((entry) => mayPrivate || !isPrivate(entry))
  const [owner] = await peopleByIds(pool, [ownerId])
  const own = todos ? (await todosOf(pool, ownerId)).map((one) => one.todo) : []
  return writeCalendar(entries, owner?.name ?? '', now, own)
}

const isPrivate = (entry: CalendarEntry): boolean =>
  entry.private || entry.overrides.some((one) => one.private === true)
