import { whereInWords } from '@marmot/core/reservations'
import { at, type Sql, wallSql } from '../platform/database.ts'

/** A place that is reserved for a date. */
export interface ReservedPlace {
  readonly id: string
  readonly name: string
  readonly siteId: string
  readonly site: string
}

/** What is reserved for dates, by the date's id; a date for which nothing is has no entry. */
type PlacesByDate = ReadonlyMap<string, readonly ReservedPlace[]>

const NONE: PlacesByDate = new Map()

const PLACE = 'r.occurrence_id as "occurrenceId", s.id, s.name, s.site_id as "siteId", t.name as site'

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
        `select ${PLACE} from attendance a join reservation r on r.occurrence_id = a.occurrence_id
           join resource s on s.id = r.resource_id join site t on t.id = s.site_id
          where a.person_id = $1 and a.span && tstzrange($2, $3) and r.state <> 'released' order by s.name`,
        [personId, at(from), at(to)],
      )
    ).rows,
  )

/** Where a date is, in words: its reserved places, and what else was said of where it is. */
export const whereOf = (places: PlacesByDate, occurrenceId: string | null, said: string): string => {
  const reserved = occurrenceId === null ? undefined : places.get(occurrenceId)
  return reserved ? whereInWords(reserved, said) : said
}

/** A date of an entry by its name, and by the wall time that its series gave for it. */
interface EntryDate {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string
}

/** The dates of entries that stand, in order. */
export const datesOfMany = async (sql: Sql, entryIds: readonly string[]): Promise<EntryDate[]> =>
  (
    await sql.query<EntryDate>(
      `select id, entry_id as "entryId", ${wallSql('recurrence')} as recurrence from occurrence
        where entry_id = any($1) and gone_at is null order by recurrence`,
      [entryIds],
    )
  ).rows

/** What most of some words are; the first of those that are as many. */
const mostOf = (words: Iterable<string>): string | undefined => {
  const counts = new Map<string, number>()
  for (const each of words) counts.set(each, (counts.get(each) ?? 0) + 1)
  const most = Math.max(...counts.values())
  return [...counts].find(([, count]) => count === most)?.[0]
}

/** Where the dates of an entry are: where most of them are, and, by their wall times, those that are elsewhere. */
export const whereAreThey = (
  places: PlacesByDate,
  dates: readonly EntryDate[],
  said: string,
  overrides: readonly { readonly recurrence: string; readonly place: string | null }[],
): { usual: string; otherwise: ReadonlyMap<string, string> } => {
  const own = new Map(overrides.map((one) => [one.recurrence, one.place]))
  const where = new Map(
    dates.map(({ id, recurrence }) => [recurrence, whereOf(places, id, own.get(recurrence) ?? said)]),
  )
  const usual = mostOf(where.values()) ?? said
  return { usual, otherwise: new Map([...where].filter(([, words]) => words !== usual)) }
}

/** Those of some entries that have places reserved for any of their dates. */
export const placedEntries = async (sql: Sql, entryIds: readonly string[]): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select distinct o.entry_id as id from occurrence o join reservation r on r.occurrence_id = o.id
        where o.entry_id = any($1) and o.gone_at is null and r.state <> 'released'`,
      [entryIds],
    )
  ).rows.map((row) => row.id)
