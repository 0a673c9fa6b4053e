import { whereAreThey, whereInWords } from '@marmot/core/reservations'
import { at, endMs, type Sql, startMs, wallSql } from '../platform/database.ts'

/** A place that is reserved for a date. */
export interface ReservedPlace {
  readonly id: string
  readonly name: string
  readonly siteId: string
  readonly site: string
  readonly outdoors: boolean
  /** True while its steward has not decided. */
  readonly requested: boolean
}

/** What is reserved for dates, by the date's id; a date for which nothing is has no entry. */
export type PlacesByDate = ReadonlyMap<string, readonly ReservedPlace[]>

const NONE: PlacesByDate = new Map()

const PLACE =
  'r.occurrence_id as "occurrenceId", s.id, s.name, s.site_id as "siteId", t.name as site, s.outdoors, (r.state = \'requested\') as requested'

const byDate = (rows: readonly (ReservedPlace & { occurrenceId: string })[]): PlacesByDate => {
  const places = new Map<string, ReservedPlace[]>()
  for (const { occurrenceId, ...place } of rows) {
    const list = places.get(occurrenceId)
    if (list) list.push(place)
    else places.set(occurrenceId, [place])
  }
  return places
}

/** What is reserved for some dates. */
export const placesOf = async (sql: Sql, occurrenceIds: readonly string[]): Promise<PlacesByDate> =>
  occurrenceIds.length === 0
    ? NONE
    : byDate(
        (
          await sql.query<ReservedPlace & { occurrenceId: string }>(
            `select ${PLACE} from reservation r
               join resource s on s.id = r.resource_id join site t on t.id = s.site_id
              where r.occurrence_id = any($1) and r.state <> 'released' order by s.name`,
            [occurrenceIds],
          )
        ).rows,
      )

/** What is reserved for the dates of some entries. */
export const placesOfEntries = async (sql: Sql, entryIds: readonly string[]): Promise<PlacesByDate> =>
  byDate(
    (
      await sql.query<ReservedPlace & { occurrenceId: string }>(
        `select ${PLACE} from reservation r join resource s on s.id = r.resource_id join site t on t.id = s.site_id
          where r.state <> 'released' and r.occurrence_id = any(array(
            select o.id from occurrence o where o.entry_id = any($1) and o.gone_at is null))
          order by s.name`,
        [entryIds],
      )
    ).rows,
  )

/** What is reserved for the dates on a person's lane that touch `[from, to)`. */
export const placesOnLane = async (
  sql: Sql,
  personId: string,
  from: number,
  to: number,
): Promise<PlacesByDate> =>
  byDate(
    (
      await sql.query<ReservedPlace & { occurrenceId: string }>(
        // By an array: joined, all reservations there are would be read instead of those of a few thousand dates.
        `select ${PLACE} from reservation r join resource s on s.id = r.resource_id join site t on t.id = s.site_id
          where r.state <> 'released' and r.occurrence_id = any(array(
            select a.occurrence_id from attendance a where a.person_id = $1 and a.span && tstzrange($2, $3)))
          order by s.name`,
        [personId, at(from), at(to)],
      )
    ).rows,
  )

/** Where a date is, in words: its reserved places, and what else was said of where it is. */
export const whereOf = (places: PlacesByDate, occurrenceId: string | null, said: string): string => {
  const reserved = occurrenceId === null ? undefined : places.get(occurrenceId)
  return reserved ? whereInWords(reserved, said) : said
}

/** At which site a date is out of doors: as it was said, else by a place of it that is. */
export const outdoorsAt = (places: PlacesByDate, occurrenceId: string, said: string | null): string | null =>
  said ?? places.get(occurrenceId)?.find((place) => place.outdoors)?.siteId ?? null

/** Whether places are reserved for a date. */
export const isPlaced = (places: PlacesByDate, occurrenceId: string | null): boolean =>
  occurrenceId !== null && places.has(occurrenceId)

/** A date of an entry by its name, and by the wall time that its series gave for it. */
interface EntryDate {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string
  readonly start: number
  readonly end: number
}

/** The dates of entries that stand, in order. */
export const datesOfMany = async (sql: Sql, entryIds: readonly string[]): Promise<EntryDate[]> =>
  (
    await sql.query<EntryDate>(
      `select id, entry_id as "entryId", ${wallSql('recurrence')} as recurrence,
              ${startMs('span')} as start, ${endMs('span')} as end from occurrence
        where entry_id = any($1) and gone_at is null order by recurrence`,
      [entryIds],
    )
  ).rows

/** Where the dates of an entry are: where most of them are, and, by their wall times, those that are elsewhere. */
export const whereDatesAre = (
  places: PlacesByDate,
  dates: readonly EntryDate[],
  said: string,
  overrides: readonly { readonly recurrence: string; readonly place: string | null }[],
): { usual: string; otherwise: ReadonlyMap<string, string> } => {
  const own = new Map(overrides.map((one) => [one.recurrence, one.place]))
  const { usual, otherwise } = whereAreThey(
    new Map(
      dates.map(({ id, recurrence }) => [recurrence, whereOf(places, id, own.get(recurrence) ?? said)]),
    ),
  )
  return { usual: usual ?? said, otherwise }
}

/** Those of some entries that have places reserved for any of their dates. */
export const placedEntries = async (sql: Sql, entryIds: readonly string[]): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select e.id from unnest($1::uuid[]) e(id) cross join lateral (
         select 1 from occurrence o join reservation r on r.occurrence_id = o.id
          where o.entry_id = e.id and o.gone_at is null and r.state <> 'released' limit 1) placed`,
      [entryIds],
    )
  ).rows.map((row) => row.id)
