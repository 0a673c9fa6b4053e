import type { GuestTime, PersonTime, SpanOnWire } from '@marmot/contract/availability'
import {
  type Answer,
  type Level,
  type Looking,
  NO_LEVEL,
  type SeenSpan,
  type SpanState,
  seenSpan,
  stateOnLane,
  type Viewer,
} from '@marmot/core/sharing'
import { gapsOf, placesOf, whereOf } from '../entries/index.ts'
import { readOff, readOffOf } from '../holidays/index.ts'
import { hoursOf } from '../people/index.ts'
import { at, endMs, type Sql, startMs, together } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'
import { guestFeedTime, ownFeedTime } from './feed-time.ts'

const NOBODY = '00000000-0000-0000-0000-000000000000'

interface Row {
  occurrence_id: string
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
const onWire = (
  span: Omit<SeenSpan, 'state'> & { readonly state: SpanState; readonly dayOff?: boolean },
): SpanOnWire => ({
  ...span,
  start: new Date(span.start).toISOString(),
  end: new Date(span.end).toISOString(),
})

const rangeOnWire = ({ start, end }: { start: number; end: number }) => ({
  start: new Date(start).toISOString(),
  end: new Date(end).toISOString(),
})

/** What is known of guests' time in `[from, to)` from feeds that a person reads. */
export const readGuestTime = async (
  sql: Sql,
  readerId: string,
  guests: readonly string[],
  from: number,
  to: number,
): Promise<GuestTime[]> =>
  [...(await guestFeedTime(sql, readerId, guests, from, to))].map(([address, time]) => ({
    address,
    spans: time.spans.map(onWire),
    unknown: time.unknown.map(rangeOnWire),
  }))

/** The rows of people's lanes. A hold that has lapsed by `now` is passed over, though its job has not come yet. */
const readRows = (
  sql: Sql,
  people: readonly string[],
  viewerId: string,
  { from, to, now }: { from: number; to: number; now: number },
) =>
  sql.query<Row>(
    `select a.occurrence_id, a.person_id, ${startMs('a.span')} as start, ${endMs('a.span')} as end, a.answer, e.id as entry_id,
            a.shows, case when e.all_day then e.zone end as "wholeDays", coalesce(v.title, e.title) as title,
            coalesce(v.place, e.place) as place, coalesce(v.private, e.private) as private,
            mine.id is not null and (mine.every_date or exists (
              select 1 from attendance own where own.occurrence_id = o.id and own.participant_id = mine.id)) as participates
       from attendance a
       join occurrence o on o.id = a.occurrence_id
       join entry e on e.id = o.entry_id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
       left join participant mine on mine.entry_id = e.id and mine.person_id = $2
      where a.person_id = any($1) and a.span && tstzrange($3, $4) and (e.lapses_at is null or e.lapses_at > $5)
      order by a.person_id, lower(a.span)`,
    [people, viewerId, at(from), at(to), at(now)],
  )

interface SeenRow {
  readonly row: Row
  readonly span: SeenSpan
}

/** A row of a lane as far as somebody may see it; none when they may not, or it does not stand. */
const seenRow = (row: Row, looking: Looking): SeenRow[] => {
  const state = stateOnLane(row.shows, row.answer)
  const span = state && seenSpan({ ...row, entryId: row.entry_id, state }, looking)
  return span ? [{ row, span }] : []
}

/** Seen spans with the places that are reserved for them, where the viewer may see where they are. */
const withPlaces = async (sql: Sql, seen: readonly SeenRow[]): Promise<SeenSpan[]> => {
  const told = seen.filter(({ span }) => span.place !== undefined)
  const places = await placesOf(
    sql,
    told.map(({ row }) => row.occurrence_id),
  )
  return seen.map(({ row, span }) =>
    span.place === undefined ? span : { ...span, place: whereOf(places, row.occurrence_id, row.place) },
  )
}

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
  const seen = rows.rows.flatMap((row) => seenRow(row, { level, owns: false, participates: false }))
  const off = level.sees === 'nothing' ? [] : await readOffOf(sql, ownerId, from, to)
  return [...(await withPlaces(sql, seen)), ...off]
}

/** People's time in `[from, to)` as a viewer may see it. Nobody is left out; ids that are nobody's are. */
export const readTime = async (
  sql: Sql,
  viewer: Viewer | string,
  ids: readonly string[],
  from: number,
  to: number,
  now: number,
  /** Dates, by their ids, that are left out. */
  apart: readonly string[] = [],
): Promise<PersonTime[]> => {
  const viewerId = typeof viewer === 'string' ? viewer : viewer.id
  const [zones, levels] = await together([
    sql.query<{ id: string; siteId: string; zone: string }>(
      'select id, site_id as "siteId", zone from person where id = any($1)',
      [ids],
    ),
    levelsFor(sql, viewer, ids, now),
  ])
  const visible = zones.rows.flatMap(({ id }) => (levels.get(id)?.sees === 'nothing' ? [] : [id]))
  const [hours, found, gaps, feeds, off] = await together([
    hoursOf(sql, visible),
    readRows(sql, visible, viewerId, { from, to, now }),
    gapsOf(sql, visible, from, to),
    ownFeedTime(sql, visible, from, to),
    readOff(sql, visible, from, to),
  ])
  const leftOut = new Set(apart)
  const rows = found.rows.filter((row) => !leftOut.has(row.occurrence_id))
  const seen = rows.flatMap((row) =>
    seenRow(row, {
      level: levels.get(row.person_id) ?? NO_LEVEL,
      owns: row.person_id === viewerId,
      participates: row.participates,
    }),
  )
  const spans = new Map<string, SpanOnWire[]>()
  for (const [i, span] of (await withPlaces(sql, seen)).entries()) {
    const personId = seen[i]?.row.person_id ?? ''
    const kept = spans.get(personId)
    if (kept) kept.push(onWire(span))
    else spans.set(personId, [onWire(span)])
  }
  for (const { personId, occurrenceId, start, end } of gaps) {
    if (leftOut.has(occurrenceId)) continue
    const gap = onWire({ start, end, state: 'busy' })
    const kept = spans.get(personId)
    if (kept) kept.push({ ...gap, gap: true })
    else spans.set(personId, [{ ...gap, gap: true }])
  }
  const seeing = new Set(visible)
  return zones.rows.map(({ id, siteId, zone }) => ({
    personId: id,
    zone,
    sees: levels.get(id)?.sees ?? 'nothing',
    does: levels.get(id)?.does ?? 'look',
    hours: hours.get(id) ?? [],
    spans: [
      ...(spans.get(id) ?? []),
      ...(seeing.has(id) ? off({ id, siteId, zone }).map(onWire) : []),
      ...(feeds.get(id)?.spans ?? []).map(onWire),
    ],
    unknown: (feeds.get(id)?.unknown ?? []).map(rangeOnWire),
  }))
}
