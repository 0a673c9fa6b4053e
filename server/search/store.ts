import type { Answer } from '@marmot/core/sharing'
import type pg from 'pg'
import { isMeetingSql } from '../entries/index.ts'
import { at, endMs, type Sql, startMs, together, transaction, wallSql } from '../platform/database.ts'

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
  // Quoted: what a sign is without its accents can be several, or one that means something to a query.
  `to_tsquery('simple', quote_literal(plain(${parameter})) || ':*${where}')`

/** The words that were asked for, all or some of them, each once: worked out for every row it would take most of the time. */
const askedSql = (parameters: readonly string[], { where = '', join = '&&' } = {}): string =>
  parameters.map((one) => query(one, where)).join(` ${join} `)

/** SQL: what stands around dates: their agendas, and what was said about them; those that some condition picks. */
const around = (condition: string): string => `(select occurrence_id, words from agenda where ${condition}
  union all select occurrence_id, words from message where removed_at is null and ${condition})`

/** SQL: whether a date (`a`) has all or some of the words (a column of `asked`) itself. */
const itself = (words: 'words' | 'any_word'): string => `exists (
  select 1 from asked q, occurrence o join override u on u.entry_id = o.entry_id and u.recurrence = o.recurrence
   where o.id = a.occurrence_id and u.words @@ q.${words}
  union all select 1 from asked q, ${around('occurrence_id = a.occurrence_id')} x where x.words @@ q.${words})`

/**
 * SQL: of `found` (an entry, and whose share in it it is by their participant), the date at which each is shown: one that has
 * the words itself where `dated`, else the next, else the last that there was; those first that come first.
 */
const shownSql = (now: string, most: string): string => `
  dates as (
    select distinct on (f.entry_id) f.entry_id, f.participant_id, a.occurrence_id, a.span, a.answer
      from found f join attendance a on a.participant_id = f.participant_id
     order by f.entry_id,
              (f.dated and ${itself('words')}) desc, (f.dated and ${itself('any_word')}) desc,
              (upper(a.span) > ${now}) desc, case when upper(a.span) > ${now} then lower(a.span) end, lower(a.span) desc),
  shown as (
    select * from dates d
     order by (upper(d.span) > ${now}) desc, case when upper(d.span) > ${now} then lower(d.span) end, lower(d.span) desc
     limit ${most})
  select e.id as "entryId", o.id as "occurrenceId", ${wallSql('o.recurrence')} as recurrence,
         coalesce(v.title, e.title) as title, coalesce(v.place, e.place) as place, coalesce(v.private, e.private) as private,
         ${startMs('d.span')} as start, ${endMs('d.span')} as end, e.all_day as "allDay",
         (e.rule is not null and p.every_date) as repeats,
         ${isMeetingSql('e')} as meeting,
         coalesce(nullif(e.organizer_name, ''), e.organizer_address, w.name) as owner, d.answer, p.person_id as "personId"
    from shown d join entry e on e.id = d.entry_id join occurrence o on o.id = d.occurrence_id
    join participant p on p.id = d.participant_id join person w on w.id = e.owner_id
    left join override v on v.entry_id = e.id and v.recurrence = o.recurrence`

/** Ids of people and places of whose names a word is the beginning of one. */
const namedBy = async (
  sql: Sql,
  word: string,
): Promise<{ readonly people: string[]; readonly places: string[] }> => {
  const [people, places] = await together([
    sql.query<{ id: string }>(
      `select id from person where names_of(name, address) @@ ${query('$1::text')} limit 500`,
      [word],
    ),
    sql.query<{ id: string }>(
      `select id from resource where to_tsvector('simple'::regconfig, plain(name)) @@ ${query('$1::text')} limit 500`,
      [word],
    ),
  ])
  return { people: people.rows.map((row) => row.id), places: places.rows.map((row) => row.id) }
}

/**
 * What stands on a person's own lane with all of some words: of its title, place and text, of one of its dates, of the agendas
 * of those and what was said about them, of who takes part in it, or of where it is. Agendas and messages are asked date by
 * date of one's meetings: 450 dates take 15 ms, whatever the words are; looked for among all by a word that most have they
 * took 200.
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
  const parameters = words.map((word) => `${give(word)}::text`)
  const named = await together(words.map((word) => namedBy(sql, word)))
  const conditions = named.map(({ people, places }, i) => {
    const word = `q.word${i}`
    return `(e.words @@ ${word}
      or exists (select 1 from override u where u.entry_id = e.id and u.words @@ ${word})
      or exists (select 1 from participant x where x.entry_id = e.id and x.id <> p.id and (
           ${people.length ? `x.person_id = any(${give(people)}::uuid[]) or` : ''}
           x.guest_address is not null and names_of(x.guest_name, x.guest_address) @@ ${word}))
      or e.id in (select d.entry_id from around d where d.word${i})
      or (e.organizer_address is not null and names_of(e.organizer_name, e.organizer_address) @@ ${word})
      ${
        places.length
          ? `or e.id in (select c.entry_id from placed c where c.resource_id = any(${give(places)}::uuid[]))`
          : ''
      })`
  })
  // All places of one's own dates at once: asked for entry by entry they took a second.
  const placed = named.some((one) => one.places.length)
    ? `placed as materialized (
         select distinct o.entry_id, r.resource_id from attendance a
           join reservation r on r.occurrence_id = a.occurrence_id and r.state <> 'released'
           join occurrence o on o.id = a.occurrence_id where a.person_id = $1),`
    : ''
  return (
    await sql.query<FoundRow>(
      `with asked as materialized (
         select ${askedSql(parameters)} as words, ${askedSql(parameters, { join: '||' })} as any_word, ${parameters.map((one, i) => `${query(one)} as word${i}`).join(', ')}),
       ${placed}
       shared as materialized (
         select p.id, p.entry_id from participant p join entry e on e.id = p.entry_id
          where p.person_id = $1 and ${isMeetingSql('e')}),
       around as materialized (
         select s.entry_id, ${words.map((_, i) => `x.words @@ q.word${i} as word${i}`).join(', ')}
           from asked q, shared s join attendance a on a.participant_id = s.id
           cross join lateral ${around('occurrence_id = a.occurrence_id and words @@ q.any_word')} x),
       found as materialized (
         select e.id as entry_id, p.id as participant_id,
                exists (select 1 from override u where u.entry_id = e.id and u.words @@ q.words)
                  or e.id in (select d.entry_id from around d) as dated
           from asked q, participant p join entry e on e.id = p.entry_id
          where p.person_id = $1 and e.deleted_at is null and (e.lapses_at is null or e.lapses_at > $2)
            and ${conditions.join(' and ')}),
       ${shownSql('$2', '$3')}`,
      values,
    )
  ).rows
}

/** So many entries that have the words are looked at on others' lanes: a word that more have finds little by itself. */
const MOST_OTHERS = 1500
/** So long others' lanes are looked through, in milliseconds; whoever types on finds the rest. */
const MOST_MS = 40

/** PostgreSQL's code for a statement that took longer than it may. */
const TOO_LONG = '57014'

const tookTooLong = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && error.code === TOO_LONG

/**
 * What stands on others' lanes with all of some words: in its headline, on those of `headlines`; in its text, too, on those
 * of `everything`. What the asker takes part in is left out, being theirs. Null where it took too long: words that too much
 * has.
 */
export const findTheirs = async (
  pool: pg.Pool,
  askerId: string,
  lanes: { readonly headlines: readonly string[]; readonly everything: readonly string[] },
  words: readonly string[],
  most: number,
  now: number,
): Promise<FoundRow[] | null> => {
  if (lanes.headlines.length + lanes.everything.length === 0) return []
  const values: unknown[] = [askerId, at(now), most, lanes.headlines, lanes.everything]
  const parameters = words.map((word) => `$${values.push(word)}::text`)
  try {
    return await transaction(pool, async (sql) => {
      await sql.query(`set local statement_timeout = ${MOST_MS}`)
      const found = await sql.query<FoundRow>(
        `with asked as materialized (
           select ${askedSql(parameters)} as words, ''::tsquery as any_word, ${askedSql(parameters, { where: 'AB' })} as headline),
         named as materialized (
           select e.id, e.words from asked q, entry e where e.words @@ q.words and e.deleted_at is null
              and (e.lapses_at is null or e.lapses_at > $2) limit ${MOST_OTHERS}),
         found as materialized (
           select distinct on (n.id) n.id as entry_id, p.id as participant_id, false as dated
             from asked q, named n join participant p on p.entry_id = n.id
            where (p.person_id = any($5::uuid[]) or p.person_id = any($4::uuid[]) and n.words @@ q.headline)
              and not exists (select 1 from participant m where m.entry_id = n.id and m.person_id = $1)),
         ${shownSql('$2', '$3')}`,
        values,
      )
      return found.rows
    })
  } catch (error) {
    if (tookTooLong(error)) return null
    throw error
  }
}

/** What stands on a person's own lane whose title looks like some text, most alike first. Of equal titles one is compared. */
export const alikeMine = async (
  sql: Sql,
  personId: string,
  text: string,
  most: number,
  now: number,
): Promise<FoundRow[]> =>
  (
    await sql.query<FoundRow>(
      `with asked as materialized (select plain($4) as text, ''::tsquery as words, ''::tsquery as any_word),
       own as materialized (
         select e.id, p.id as participant_id, e.title from participant p join entry e on e.id = p.entry_id
          where p.person_id = $1 and e.deleted_at is null and (e.lapses_at is null or e.lapses_at > $2)),
       likely as materialized (
         select t.title, word_similarity(q.text, plain(t.title)) as alike
           from asked q, (select distinct title from own) t),
       found as materialized (
         select o.id as entry_id, o.participant_id, false as dated from own o join likely l on l.title = o.title
          where l.alike > 0.5 order by l.alike desc limit $3),
       ${shownSql('$2', '$3')}`,
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
