import { HOUR } from '@marmot/core/time'
import { at, msSql, type Sql } from '../platform/database.ts'

/** The longest that is kept free before or after a meeting. */
const LONGEST = 8 * HOUR

/** What somebody keeps free before or after a meeting; instants in milliseconds. */
interface Gap {
  readonly personId: string
  readonly occurrenceId: string
  readonly start: number
  readonly end: number
}

/** Keeps some people's time free before and after a meeting, in minutes, wherever it goes. */
export const keepGaps = async (
  sql: Sql,
  entryId: string,
  people: readonly string[],
  { before, after }: { readonly before: number; readonly after: number },
): Promise<void> => {
  if (before === 0 && after === 0) return
  await sql.query(
    'insert into gap (entry_id, person_id, before, after) select $1, person, $3, $4 from unnest($2::uuid[]) person',
    [entryId, people, before, after],
  )
}

/** What some people keep free in `[from, to)` before and after meetings to which they have not said no. */
export const gapsOf = async (sql: Sql, people: readonly string[], from: number, to: number): Promise<Gap[]> =>
  (
    await sql.query<Gap>(
      `select g.person_id as "personId", a.occurrence_id as "occurrenceId", ${msSql('k.start')} as start, ${msSql('k.end')} as end
         from gap g join occurrence o on o.entry_id = g.entry_id and o.gone_at is null
         join attendance a on a.occurrence_id = o.id and a.person_id = g.person_id and a.answer <> 'declined'
         cross join lateral (values
           (lower(a.span) - make_interval(mins => g.before), lower(a.span)),
           (upper(a.span), upper(a.span) + make_interval(mins => g.after))) k("start", "end")
        where g.person_id = any($1) and o.span && tstzrange($4, $5) and k.start < k.end
          and k.start < $3 and k.end > $2`,
      [people, at(from), at(to), at(from - LONGEST), at(to + LONGEST)],
    )
  ).rows
