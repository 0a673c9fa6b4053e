import type { SpanState } from '@marmot/core/sharing'
import { at, endMs, type Sql, startMs } from '../platform/database.ts'

/** What is known of somebody's time from feeds, in milliseconds: when they are taken, and of which times nothing is known. */
export interface FeedTime {
  readonly spans: readonly { readonly start: number; readonly end: number; readonly state: SpanState }[]
  readonly unknown: readonly { readonly start: number; readonly end: number }[]
}

interface Row {
  readonly of: string
  readonly state: SpanState | 'unknown'
  readonly start: number
  readonly end: number
}

const timeOf = (rows: readonly Row[]): FeedTime => ({
  spans: rows.flatMap(({ state, start, end }) => (state === 'unknown' ? [] : [{ state, start, end }])),
  unknown: rows.flatMap(({ state, start, end }) => (state === 'unknown' ? [{ start, end }] : [])),
})

const byWhom = (rows: readonly Row[]): Map<string, Row[]> => {
  const found = new Map<string, Row[]>()
  for (const row of rows) {
    const list = found.get(row.of)
    if (list) list.push(row)
    else found.set(row.of, [row])
  }
  return found
}

/** What stands in `[from, to)` in the feeds that people said are their own time: when, and nothing of what it is. */
export const ownFeedTime = async (
  sql: Sql,
  people: readonly string[],
  from: number,
  to: number,
): Promise<Map<string, FeedTime>> => {
  const { rows } = await sql.query<Row>(
    `select f.person_id as of, s.state, ${startMs('s.span')} as start, ${endMs('s.span')} as end
       from feed f join feed_span s on s.feed_id = f.id
      where f.mine and f.person_id = any($1) and s.span && tstzrange($2, $3) order by lower(s.span)`,
    [people, at(from), at(to)],
  )
  return new Map([...byWhom(rows)].map(([id, own]) => [id, timeOf(own)]))
}

/**
 * The same of guests, by their addresses, as far as somebody reads a feed of theirs. Who has none, or one that was never read
 * well, is not among them; what lies beyond what was read is unknown.
 */
export const guestFeedTime = async (
  sql: Sql,
  readerId: string,
  guests: readonly string[],
  from: number,
  to: number,
): Promise<Map<string, FeedTime>> => {
  if (guests.length === 0) return new Map()
  const { rows } = await sql.query<Row>(
    `with theirs as (
       select id, guest, known, tstzrange($3, $4) as asked from feed
        where person_id = $1 and guest = any($2) and read_at is not null and known is not null)
     select t.guest as of, s.state, ${startMs('s.span')} as start, ${endMs('s.span')} as end
       from theirs t join feed_span s on s.feed_id = t.id and s.span && t.asked
     union all
     select t.guest, 'unknown', ${startMs('u.span')}, ${endMs('u.span')}
       from theirs t cross join lateral unnest(tstzmultirange(t.asked) - tstzmultirange(t.known)) u(span)
     union all
     select t.guest, 'listed', ${startMs('t.asked')}, ${startMs('t.asked')} from theirs t`,
    [readerId, guests, at(from), at(to)],
  )
  return new Map(
    // The empty span of each says that something is known of them at all.
    [...byWhom(rows)].map(([guest, theirs]) => [guest, timeOf(theirs.filter((row) => row.end > row.start))]),
  )
}
