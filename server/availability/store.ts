import type { PersonTime, SpanOnWire } from '@marmot/contract/availability'
import {
  type Answer,
  type Level,
  NO_LEVEL,
  type OwnSpan,
  type SeenSpan,
  type SpanState,
  seenSpan,
  stateOnLane,
  type Viewer,
} from '@marmot/core/sharing'
import { hoursOf } from '../people/index.ts'
import { at, endMs, type Sql, startMs } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'

const NOBODY = '00000000-0000-0000-0000-000000000000'

interface Row {
  person_id: string
  start: number
  end: number
  answer: Answer
  shows: SpanState
  entry_id: string
  title: string
  place: string
  private: boolean
  wholeDays: string | null
  participates: boolean
}

/** A span with its instants as they travel. */
export const onWire = (span: SeenSpan): SpanOnWire => ({
  ...span,
  start: new Date(span.start).toISOString(),
  end: new Date(span.end).toISOString(),
})

/** The rows of people's lanes. A hold that has lapsed by `now` is passed over, though its job has not come yet. */
const readRows = (
  sql: Sql,
  people: readonly string[],
  viewerId: string,
  { from, to, now }: { from: number; to: number; now: number },
) =>
  sql.query<Row>(
    `select a.person_id, ${startMs('a.span')} as start, ${endMs('a.span')} as end, a.answer, e.id as entry_id,
            a.shows, case when e.all_day then e.zone end as "wholeDays", coalesce(v.title, e.title) as title,
            coalesce(v.place, e.place) as place, coalesce(v.private, e.private) as private,
            mine.id is not null as participates
       from attendance a
       join occurrence o on o.id = a.occurrence_id
       join entry e on e.id = o.entry_id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
       left join participant mine on mine.entry_id = e.id and mine.person_id = $2
      where a.person_id = any($1) and a.span && tstzrange($3, $4) and (e.lapses_at is null or e.lapses_at > $5)
      order by a.person_id, lower(a.span)`,
    [people, viewerId, at(from), at(to), at(now)],
  )

/** One person's time in `[from, to)` at a level that was chosen for nobody in particular: what feeds are made of. */
export const readTimeAt = async (
  sql: Sql,
  ownerId: string,
  level: Level,
  from: number,
  to: number,
  now: number,
): Promise<SeenSpan[]> => {
  const rows = await readRows(sql, [ownerId], NOBODY, { from, to, now })
  return rows.rows.flatMap((row) => {
    const state = stateOnLane(row.shows, row.answer)
    const looking = { level, owns: false, participates: false }
    return (state && seenSpan({ ...row, entryId: row.entry_id, state }, looking)) ?? []
  })
}

/** People's time in `[from, to)` as a viewer may see it. Nobody is left out; ids that are nobody's are. */
export const readTime = async (
  sql: Sql,
  viewer: Viewer | string,
  ids: readonly string[],
  from: number,
  to: number,
  now: number,
): Promise<PersonTime[]> => {
  const viewerId = typeof viewer === 'string' ? viewer : viewer.id
  const zones = await sql.query<{ id: string; zone: string }>(
    'select id, zone from person where id = any($1)',
    [ids],
  )
  const people = zones.rows.map((row) => row.id)
  const levels = await levelsFor(sql, viewer, people, now)
  const visible = people.filter((id) => levels.get(id)?.sees !== 'nothing')
  const hours = await hoursOf(sql, visible)
  const spans = new Map<string, SpanOnWire[]>()
  for (const row of (await readRows(sql, visible, viewerId, { from, to, now })).rows) {
    const state = stateOnLane(row.shows, row.answer)
    if (!state) continue
    const whole: OwnSpan = { ...row, entryId: row.entry_id, state }
    const seen = seenSpan(whole, {
      level: levels.get(row.person_id) ?? NO_LEVEL,
      owns: row.person_id === viewerId,
      participates: row.participates,
    })
    if (!seen) continue
    const kept = spans.get(row.person_id) ?? []
    kept.push(onWire(seen))
    spans.set(row.person_id, kept)
  }
  return zones.rows.map(({ id, zone }) => ({
    personId: id,
    zone,
    sees: levels.get(id)?.sees ?? 'nothing',
    does: levels.get(id)?.does ?? 'look',
    hours: hours.get(id) ?? [],
    spans: spans.get(id) ?? [],
  }))
}
