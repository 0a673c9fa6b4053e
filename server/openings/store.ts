import type { BusySpan, LaneTime } from '@marmot/core/availability'
import { type Answer, type SpanState, stateOnLane } from '@marmot/core/sharing'
import { ownFeedTime } from '../availability/index.ts'
import { gapsOf } from '../entries/index.ts'
import { type OffOf, readOff } from '../holidays/index.ts'
import { placed } from '../people/index.ts'
import { at, endMs, type Sql, startMs, together } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'

interface Row {
  person_id: string
  answer: Answer
  shows: SpanState
  starts: number[]
  ends: number[]
}

/**
 * People's busy rows in `[from, to)` as the search needs them: no titles, and one row for all that somebody said
 * the same of, since a row of its own for each of tens of thousands of spans costs more than finding them. The dates `apart`, by their ids, are
 * passed over: what is held for the brief in hand, or is to be changed by it, does not stand in its way.
 */
export const readBusy = async (
  sql: Sql,
  people: readonly string[],
  from: number,
  to: number,
  now: number,
  apart: readonly string[],
): Promise<Map<string, LaneTime['spans']>> => {
  const [rows, gaps] = await together([
    sql.query<Row>(
      `select a.person_id, a.answer, a.shows, json_agg(${startMs('a.span')}) as starts, json_agg(${endMs('a.span')}) as ends
       from attendance a
      where a.person_id = any($1) and a.span && tstzrange($2, $3) and a.answer <> 'declined'
        and a.occurrence_id not in (select o.id from entry e join occurrence o on o.entry_id = e.id
                                     where e.lapses_at <= $4 union all select unnest($5::uuid[]))
      group by a.person_id, a.answer, a.shows`,
      [people, at(from), at(to), at(now), apart],
    ),
    gapsOf(sql, people, from, to),
  ])
  const busy = new Map<string, BusySpan[]>()
  const spansOf = (personId: string): BusySpan[] => {
    const spans = busy.get(personId) ?? []
    busy.set(personId, spans)
    return spans
  }
  for (const { person_id, shows, answer, starts, ends } of rows.rows) {
    const state = stateOnLane(shows, answer)
    if (!state) continue
    const spans = spansOf(person_id)
    for (const [i, start] of starts.entries()) spans.push({ start, end: ends[i] ?? start, state })
  }
  for (const { personId, occurrenceId, start, end } of gaps) {
    if (!apart.includes(occurrenceId)) spansOf(personId).push({ start, end, state: 'busy', gap: true })
  }
  return busy
}

interface Reading {
  readonly from: number
  readonly to: number
  readonly apart: readonly string[]
}
type Lanes = Map<string, { time: LaneTime; siteId: string }>

/** The lanes of people, each whole, or unknown where `seen` says no: what may not be seen is dropped before it goes anywhere. */
const lanesOf = (
  people: Awaited<ReturnType<typeof placed>>,
  spans: Awaited<ReturnType<typeof readBusy>>,
  feeds: Awaited<ReturnType<typeof ownFeedTime>>,
  off: OffOf,
  seen: (id: string) => boolean,
): Lanes =>
  new Map(
    people.map(({ id, siteId, zone, hours }) => {
      const known = seen(id)
      const feed = feeds.get(id)
      const shown = known
        ? {
            hours,
            spans: [...(spans.get(id) ?? []), ...off({ id, siteId, zone }), ...(feed?.spans ?? [])],
            ...(feed?.unknown.length ? { unknown: feed.unknown } : {}),
          }
        : { hours: [], spans: [] }
      return [id, { siteId, time: { zone, known, ...shown, outside: 'outside' } }]
    }),
  )

/** People as a search needs them: their lanes as far as the asker may see them, and where they are. Nobody's ids are left out. */
export const readLanes = async (
  sql: Sql,
  askerId: string,
  ids: readonly string[],
  { from, to, apart }: Reading,
  now: number,
): Promise<Lanes> => {
  // All at once: together they take as long as the slowest.
  const [people, levels, spans, feeds, off] = await together([
    placed(sql, ids),
    levelsFor(sql, askerId, ids, now),
    readBusy(sql, ids, from, to, now, apart),
    ownFeedTime(sql, ids, from, to),
    readOff(sql, ids, from, to),
  ])
  return lanesOf(people, spans, feeds, off, (id) => (levels.get(id)?.sees ?? 'nothing') !== 'nothing')
}

/** People's lanes whole, as they themselves see them: of those who offer their own time. Nobody's ids are left out. */
export const readOwnLanes = async (
  sql: Sql,
  ids: readonly string[],
  { from, to, apart }: Reading,
  now: number,
): Promise<Lanes> => {
  const [people, spans, feeds, off] = await together([
    placed(sql, ids),
    readBusy(sql, ids, from, to, now, apart),
    ownFeedTime(sql, ids, from, to),
    readOff(sql, ids, from, to),
  ])
  return lanesOf(people, spans, feeds, off, () => true)
}

/** When at least two of these people were together in `[from, to)`, by person: what each may have been stretched by. */
export const readTogether = async (
  sql: Sql,
  people: readonly string[],
  from: number,
  to: number,
): Promise<Map<string, { start: number; end: number }[]>> => {
  const rows = await sql.query<{ person_id: string; start: number; end: number }>(
    `with theirs as (
       select occurrence_id, person_id, span from attendance
        where person_id = any($1) and span && tstzrange($2, $3) and answer in ('accepted', 'tentative'))
     select person_id, ${startMs('span')} as start, ${endMs('span')} as end from theirs
      where occurrence_id in (select occurrence_id from theirs group by occurrence_id having count(*) > 1)`,
    [people, at(from), at(to)],
  )
  const meetings = new Map<string, { start: number; end: number }[]>()
  for (const { person_id, ...span } of rows.rows) {
    const list = meetings.get(person_id)
    if (list) list.push(span)
    else meetings.set(person_id, [span])
  }
  return meetings
}
