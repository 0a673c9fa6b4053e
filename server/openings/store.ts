import type { BusySpan, LaneTime } from '@marmot/core/availability'
import { type Answer, type SpanState, stateOnLane } from '@marmot/core/sharing'
import { gapsOf } from '../entries/index.ts'
import { hoursOf } from '../people/index.ts'
import { at, endMs, type Sql, startMs, together } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'

interface Row {
  person_id: string
  starts: number[]
  ends: number[]
  answers: Answer[]
  shows: SpanState[]
}

/**
 * People's busy rows in `[from, to)` as the search needs them: no titles, one row of arrays for each person, since a
 * row of its own for each of tens of thousands of spans costs more than finding them. The dates `apart`, by their ids, are
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
      `select a.person_id, array_agg(${startMs('a.span')}) as starts, array_agg(${endMs('a.span')}) as ends,
            array_agg(a.answer) as answers, array_agg(a.shows) as shows
       from attendance a
      where a.person_id = any($1) and a.span && tstzrange($2, $3) and a.answer <> 'declined'
        and a.occurrence_id not in (select o.id from entry e join occurrence o on o.entry_id = e.id
                                     where e.lapses_at <= $4 union all select unnest($5::uuid[]))
      group by a.person_id`,
      [people, at(from), at(to), at(now), apart],
    ),
    gapsOf(sql, people, from, to),
  ])
  const busy = new Map<string, BusySpan[]>(
    rows.rows.map((row) => [
      row.person_id,
      row.starts.flatMap((start, i) => {
        const [shows, answer] = [row.shows[i], row.answers[i]]
        const state = shows && answer ? stateOnLane(shows, answer) : null
        return state ? [{ start, end: row.ends[i] ?? start, state }] : []
      }),
    ]),
  )
  for (const { personId, occurrenceId, start, end } of gaps) {
    if (apart.includes(occurrenceId)) continue
    const spans = busy.get(personId) ?? []
    spans.push({ start, end, state: 'busy', gap: true })
    busy.set(personId, spans)
  }
  return busy
}

/** People as a search needs them: their lanes as far as the asker may see them, and where they are. Nobody's ids are left out. */
export const readLanes = async (
  sql: Sql,
  askerId: string,
  ids: readonly string[],
  range: { readonly from: number; readonly to: number; readonly apart: readonly string[] },
  now: number,
): Promise<Map<string, { time: LaneTime; siteId: string }>> => {
  // All at once: together they take as long as the slowest. What may not be seen is dropped before it goes anywhere.
  const [people, levels, hours, spans] = await together([
    sql.query<{ id: string; zone: string; site_id: string }>(
      'select id, zone, site_id from person where id = any($1)',
      [ids],
    ),
    levelsFor(sql, askerId, ids, now),
    hoursOf(sql, ids),
    readBusy(sql, ids, range.from, range.to, now, range.apart),
  ])
  const seen = (id: string) => (levels.get(id)?.sees ?? 'nothing') !== 'nothing'
  return new Map(
    people.rows.map((row) => [
      row.id,
      {
        siteId: row.site_id,
        time: {
          zone: row.zone,
          known: seen(row.id),
          hours: seen(row.id) ? (hours.get(row.id) ?? []) : [],
          spans: seen(row.id) ? (spans.get(row.id) ?? []) : [],
          outside: 'outside',
        },
      },
    ]),
  )
}

/** People's lanes whole, as they themselves see them: of those who offer their own time. Nobody's ids are left out. */
export const readOwnLanes = async (
  sql: Sql,
  ids: readonly string[],
  range: { readonly from: number; readonly to: number; readonly apart: readonly string[] },
  now: number,
): Promise<Map<string, { time: LaneTime; siteId: string }>> => {
  const [people, hours, spans] = await together([
    sql.query<{ id: string; zone: string; site_id: string }>(
      'select id, zone, site_id from person where id = any($1)',
      [ids],
    ),
    hoursOf(sql, ids),
    readBusy(sql, ids, range.from, range.to, now, range.apart),
  ])
  return new Map(
    people.rows.map((row) => [
      row.id,
      {
        siteId: row.site_id,
        time: {
          zone: row.zone,
          known: true,
          hours: hours.get(row.id) ?? [],
          spans: spans.get(row.id) ?? [],
          outside: 'outside',
        },
      },
    ]),
  )
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
