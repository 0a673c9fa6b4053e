import type { Answer } from '@marmot/core/sharing'
import { at, endMs, type Sql, startMs, wallSql } from '../platform/database.ts'

/** An entry that was found on somebody's lane. Instants in milliseconds. */
export interface FoundRow {
  readonly entryId: string
  readonly occurrenceId: string
  readonly recurrence: string
  readonly title: string
  readonly place: string
  readonly private: boolean
  readonly start: number
  readonly end: number
  readonly allDay: boolean
  readonly repeats: boolean
  readonly meeting: boolean
  readonly owner: string
  readonly answer: Answer
  readonly personId: string
}

/** A word as the database looks for it: by its beginning. `where` narrows it to weights: `AB` is the headline. */
const query = (parameter: string, where = ''): string =>
  `to_tsquery('simple', plain(${parameter}) || ':*${where}')`

const COLUMNS = `e.id as "entryId", d.id as "occurrenceId", ${wallSql('d.recurrence')} as recurrence,
  coalesce(v.title, e.title) as title, coalesce(v.place, e.place) as place, coalesce(v.private, e.private) as private,
  ${startMs('d.span')} as start, ${endMs('d.span')} as end, e.all_day as "allDay",
  (e.rule is not null and p.every_date) as repeats,
  (e.organizer_address is not null or exists (
    select 1 from participant x where x.entry_id = e.id and not x.organizer)) as meeting,
  coalesce(nullif(e.organizer_name, ''), e.organizer_address, w.name) as owner, a.answer, p.person_id as "personId"`

/** The date at which something is shown: one that has the words itself, else the next, else the last that there was. */
const dateSql = (now: string, words: string): string => `
  join lateral (
    select o.id, o.recurrence, o.span from occurrence o
      join attendance t on t.occurrence_id = o.id and t.participant_id = p.id
      left join override u on u.entry_id = o.entry_id and u.recurrence = o.recurrence
     where o.entry_id = e.id and o.gone_at is null
     order by ${words ? `(${words}) desc nulls last,` : ''} (upper(o.span) > ${now}) desc,
              case when upper(o.span) > ${now} then lower(o.span) end, lower(o.span) desc limit 1) d on true
  join attendance a on a.occurrence_id = d.id and a.participant_id = p.id
  left join override v on v.entry_id = e.id and v.recurrence = d.recurrence`

const ORDER = (now: string): string =>
  `order by (upper(d.span) > ${now}) desc, case when upper(d.span) > ${now} then lower(d.span) end, lower(d.span) desc`

/** Ids of people and places of whose names a word is the beginning of one. */
export const namedBy = async (
  sql: Sql,
  word: string,
): Promise<{ readonly people: string[]; readonly places: string[] }> => {
  const people = await sql.query<{ id: string }>(
    `select id from person where names_of(name, address) @@ ${query('$1')} limit 500`,
    [word],
  )
  const places = await sql.query<{ id: string }>(
    `select id from resource where to_tsvector('simple'::regconfig, plain(name)) @@ ${query('$1')} limit 500`,
    [word],
  )
  return { people: people.rows.map((row) => row.id), places: places.rows.map((row) => row.id) }
}

/**
 * What stands on a person's own lane with all of some words: of its title, place and text, of one of its dates, of who takes
 * part in it, or of where it is.
 */
export const findMine = async (
  sql: Sql,
  personId: string,
  words: readonly string[],
  most: number,
  now: number,
): Promise<FoundRow[]> => {
  const values: unknown[] = [personId, at(now), most]
  const give = (value: unknown): string => `$${values.push(value)}`
  const conditions: string[] = []
  const own: string[] = []
  for (const word of words) {
    const parameter = `${give(word)}::text`
    const named = await namedBy(sql, word)
    own.push(`u.words @@ ${query(parameter)}`)
    conditions.push(`(e.words @@ ${query(parameter)}
      or exists (select 1 from override u where u.entry_id = e.id and u.words @@ ${query(parameter)})
      or exists (select 1 from participant x where x.entry_id = e.id and x.id <> p.id
                  and (x.person_id = any(${give(named.people)}::uuid[])
                    or names_of(x.guest_name, x.guest_address) @@ ${query(parameter)}))
      or (e.organizer_address is not null
          and names_of(e.organizer_name, e.organizer_address) @@ ${query(parameter)})
      ${
        named.places.length
          ? `or exists (select 1 from occurrence o join reservation r on r.occurrence_id = o.id and r.state <> 'released'
                         where o.entry_id = e.id and r.resource_id = any(${give(named.places)}::uuid[]))`
          : ''
      })`)
  }
  return (
    await sql.query<FoundRow>(
      `select ${COLUMNS} from participant p join entry e on e.id = p.entry_id join person w on w.id = e.owner_id
         ${dateSql('$2', own.join(' and '))}
        where p.person_id = $1 and e.deleted_at is null and (e.lapses_at is null or e.lapses_at > $2)
          and ${conditions.join(' and ')}
        ${ORDER('$2')} limit $3`,
      values,
    )
  ).rows
}

/** So many entries that have the words are looked at on others' lanes: a word that more have finds nothing by itself. */
const MOST_OTHERS = 4000

/**
 * What stands on others' lanes with all of some words: in its headline, on those of `headlines`; in its text, too, on those
 * of `everything`. What the asker takes part in is left out, being theirs.
 */
export const findTheirs = async (
  sql: Sql,
  askerId: string,
  lanes: { readonly headlines: readonly string[]; readonly everything: readonly string[] },
  words: readonly string[],
  most: number,
  now: number,
): Promise<FoundRow[]> => {
  if (lanes.headlines.length + lanes.everything.length === 0) return []
  const values: unknown[] = [askerId, at(now), most, lanes.headlines, lanes.everything]
  const parameters = words.map((word) => `$${values.push(word)}::text`)
  const all = parameters.map((one) => query(one)).join(' && ')
  const headline = parameters.map((one) => query(one, 'AB')).join(' && ')
  return (
    await sql.query<FoundRow>(
      `with named as materialized (
         select e.id from entry e where e.words @@ (${all}) and e.deleted_at is null limit ${MOST_OTHERS})
       select distinct on ("entryId") * from (
         select ${COLUMNS}, d.span from named n join entry e on e.id = n.id join person w on w.id = e.owner_id
           join participant p on p.entry_id = e.id and (p.person_id = any($5)
             or p.person_id = any($4) and e.words @@ (${headline}))
           ${dateSql('$2', '')}
          where (e.lapses_at is null or e.lapses_at > $2)
            and not exists (select 1 from participant m where m.entry_id = e.id and m.person_id = $1)
          ${ORDER('$2')} limit $3) x`,
      values,
    )
  ).rows
}

/** What stands on a person's own lane whose title looks like some text, most alike first. */
export const alikeMine = async (
  sql: Sql,
  personId: string,
  text: string,
  most: number,
  now: number,
): Promise<FoundRow[]> =>
  (
    await sql.query<FoundRow>(
      `select ${COLUMNS} from participant p join entry e on e.id = p.entry_id join person w on w.id = e.owner_id
         ${dateSql('$2', '')}
        where p.person_id = $1 and e.deleted_at is null and (e.lapses_at is null or e.lapses_at > $2)
          and word_similarity(plain($4), plain(e.title)) > 0.5
        order by word_similarity(plain($4), plain(e.title)) desc limit $3`,
      [personId, at(now), most, text],
    )
  ).rows

/** Ids of people: of all whose names or addresses have the words. */
export const findPeopleIds = async (sql: Sql, words: readonly string[], most: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select id from person where names_of(name, address)
          @@ (${words.map((_, i) => query(`$${i + 2}::text`)).join(' && ')}) order by name limit $1`,
      [most, ...words],
    )
  ).rows.map((row) => row.id)

/** Ids of people whose names look like some text, most alike first. */
export const alikePeopleIds = async (sql: Sql, text: string, most: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      `select id from person where plain($1) <% plain(name)
        order by word_similarity(plain($1), plain(name)) desc, name limit $2`,
      [text, most],
    )
  ).rows.map((row) => row.id)

export interface FoundPlace {
  readonly id: string
  readonly name: string
  readonly kind: 'room' | 'lab' | 'desk' | 'equipment'
  readonly site: string
  readonly siteId: string
  readonly seats: number
}

/** Places that have the words in their names, their sites, or what is said of them. */
export const findPlaces = async (sql: Sql, words: readonly string[], most: number): Promise<FoundPlace[]> =>
  (
    await sql.query<FoundPlace>(
      `select r.id, r.name, r.kind, s.name as site, s.id as "siteId", r.seats from resource r join site s on s.id = r.site_id
        where to_tsvector('simple'::regconfig, plain(concat_ws(' ', r.name, s.name, r.floor, r.about,
                (select string_agg(k, ' ') from jsonb_object_keys(r.features) k))))
          @@ (${words.map((_, i) => query(`$${i + 2}::text`)).join(' && ')})
        order by r.kind, r.name limit $1`,
      [most, ...words],
    )
  ).rows
