import {
  BadCalendar,
  type CalendarSpan,
  type CalendarSpans,
  calendarSpans,
  decodeText,
  readCalendar,
  TooManyDates,
} from '@marmot/core/feeds'
import { DAY } from '@marmot/core/time'
import { at, type Sql, transaction } from '../platform/database.ts'
import { tellTime } from '../platform/live.ts'
import type { ThreadWork } from '../platform/threads.ts'

const BACK = 60 * DAY
const AHEAD = 400 * DAY
const MOST_SPANS = 20_000
/** So many of what was not understood are kept with their reasons; all are counted. */
const MOST_UNREAD = 20

/** What came from a feed's address. `zone` is for what names none; `now` in milliseconds. */
export interface KeepInput {
  readonly feedId: string
  readonly personId: string
  readonly zone: string
  readonly bytes: Uint8Array
  readonly charset: string | null
  readonly etag: string | null
  readonly lastModified: string | null
  readonly now: number
}

/** Reads what a feed sent and keeps it in place of what was there; else says in words why not, and keeps nothing. */
export const keepFeed: ThreadWork<KeepInput, { trouble: string | null }> = async (input, { pool }) => {
  let found: CalendarSpans
  try {
    const text = decodeText(input.bytes, input.charset)
    if (/^\s*<(!doctype|html)/i.test(text))
      return { trouble: 'It answers with a web page, not with a calendar.' }
    const read = readCalendar(text, input.zone)
    if (read.cut) return { trouble: 'It broke off in the middle.' }
    found = calendarSpans(read, input.now - BACK, input.now + AHEAD, MOST_SPANS)
  } catch (error) {
    if (error instanceof BadCalendar || error instanceof TooManyDates) return { trouble: error.message }
    throw error
  }
  const { feedId, personId, etag, lastModified, now } = input
  await transaction(pool, async (sql) => {
    const kept = await sql.query(
      `update feed set tried_at = $2, read_at = $2, trouble = null, attempts = 0, etag = $3, last_modified = $4,
              unread_count = $5, unread = $6, known = tstzrange($7, $8) where id = $1`,
      [
        feedId,
        at(now),
        etag,
        lastModified,
        found.unread.length,
        JSON.stringify(found.unread.slice(0, MOST_UNREAD).map(({ title, reason }) => ({ title, reason }))),
        at(input.now - BACK),
        at(input.now + AHEAD),
      ],
    )
    if (!kept.rowCount) return
    await replaceSpans(sql, feedId, found.spans)
    await tellTime(sql, [personId])
  })
  return { trouble: null }
}

const replaceSpans = async (sql: Sql, feedId: string, spans: readonly CalendarSpan[]): Promise<void> => {
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
