import type { SpanState } from '@marmot/core/sharing'
import { at, endMs, type Sql, startMs } from '../platform/database.ts'

/** A time that one of a person's own calendars elsewhere takes: a feed that they said is their time. Milliseconds. */
export interface Elsewhere {
  readonly start: number
  readonly end: number
  readonly state: SpanState
  readonly title: string
}

/** What a person's own calendars elsewhere take of `[from, to)`, and of which times of them nothing is known. */
export const elsewhereOf = async (
  sql: Sql,
  personId: string,
  from: number,
  to: number,
): Promise<{ taken: Elsewhere[]; unknown: { start: number; end: number }[] }> => {
  const { rows } = await sql.query<Omit<Elsewhere, 'state'> & { state: SpanState | 'unknown' }>(
    `select ${startMs('s.span')} as start, ${endMs('s.span')} as end, s.state,
            coalesce(nullif(s.title, ''), f.name) as title
       from feed f join feed_span s on s.feed_id = f.id
      where f.mine and f.person_id = $1 and s.span && tstzrange($2, $3)
      order by lower(s.span), upper(s.span)`,
    [personId, at(from), at(to)],
  )
  return {
    taken: rows.flatMap(({ state, ...row }) => (state === 'unknown' ? [] : [{ ...row, state }])),
    unknown: rows.flatMap(({ state, start, end }) => (state === 'unknown' ? [{ start, end }] : [])),
  }
}
