import type { ListColumn, ListedReservation } from '@marmot/contract/reservations'
import type { AskWhom } from '@marmot/core/reservations'
import { NO_LEVEL, type SpanState, seenSpan } from '@marmot/core/sharing'
import { instantText } from '@marmot/core/time'
import { isMeetingSql } from '../entries/index.ts'
import { at, endMs, type Sql, startMs, together, wallSql } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'

/** What is listed, and how. Instants in milliseconds. */
export interface Listing {
  readonly whose: 'mine' | 'cared'
  readonly from: number
  readonly to: number
  readonly find: string
  readonly kind?: string | undefined
  readonly site?: string | undefined
  readonly sort: ListColumn
  readonly down: boolean
  readonly group?: ListColumn | undefined
  readonly first: number
  readonly many: number
}

interface Row {
  id: string
  resource_id: string
  place: string
  kind: string
  site: string
  person_id: string
  by: string
  start: number
  end: number
  state: 'held' | 'requested' | 'taken'
  entry_id: string
  recurrence: string
  title: string
  purpose: string
  head_count: number | null
  contact: AskWhom | null
  private: boolean
  repeats: boolean
  meeting: boolean
  participates: boolean
  in_group: number | null
  total: number
}

/** What each column is sorted and grouped by. Titles are in no order for whoever may not read them. */
const ORDER: Record<ListColumn, string> = {
  start: 'lower(r.span)',
  place: 'p.name',
  kind: 'p.kind',
  site: 's.name',
  by: 'w.name',
  title: "case when r.person_id = $1 then coalesce(nullif(v.title, ''), e.title) end",
  purpose: 'e.purpose',
  headCount: 'e.head_count',
  state: 'r.state',
}
/** Grouped by its beginning, it is by the day on the clock of its site. */
const groupSql = (column: ListColumn): string =>
  column === 'start' ? '(lower(r.span) at time zone s.zone)::date' : ORDER[column]

/** A part of some text, as PostgreSQL's `like` has it. */
const within = (text: string): string => `%${text.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`

/**
 * A page of somebody's reservations, or of those of the places that they look after, and how many there are in all. Whoever looks
 * after a place knows who has it, what for, and whom to ask, since that is said to them; what it is called they know as far
 * as its person shares that.
 */
export const listReservationsFor = async (
  sql: Sql,
  askerId: string,
  listing: Listing,
  now: number,
): Promise<{ reservations: ListedReservation[]; total: number; caresFor: number }> => {
  const { whose, group, sort, down } = listing
  const way = down ? 'desc nulls last' : 'asc nulls last'
  const grouped = group ? groupSql(group) : null
  const [rows, cared] = await together([
    sql.query<Row>(
      `select r.id, r.resource_id, p.name as place, p.kind, s.name as site, r.person_id, w.name as by,
              ${startMs('r.span')} as start, ${endMs('r.span')} as end, r.state, o.entry_id,
              ${wallSql('o.recurrence')} as recurrence, coalesce(nullif(v.title, ''), e.title) as title,
              e.purpose, e.head_count, e.contact, coalesce(v.private, e.private) as private,
              (e.rule is not null or e.added <> '{}') as repeats, ${isMeetingSql('e')} as meeting,
              exists (select 1 from attendance a where a.occurrence_id = o.id and a.person_id = $1) as participates,
              ${grouped ? `count(*) over (partition by ${grouped})` : 'null'}::integer as in_group,
              (count(*) over ())::integer as total
         from reservation r join resource p on p.id = r.resource_id join site s on s.id = p.site_id
         join person w on w.id = r.person_id
         join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
         left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
        where r.state <> 'released' and r.blocked && tstzrange($2, $3) and r.span && tstzrange($2, $3) and (r.lapses_at is null or r.lapses_at > $4)
          and ${whose === 'mine' ? 'r.person_id = $1' : 'p.steward_id = $1'}
          and ($5::text is null or p.name ilike $5 or s.name ilike $5 or w.name ilike $5 or e.purpose ilike $5
               or (r.person_id = $1 and coalesce(nullif(v.title, ''), e.title) ilike $5))
          and ($6::text is null or p.kind = $6) and ($7::uuid is null or p.site_id = $7)
        order by ${grouped ? `${grouped} nulls last, ` : ''}${ORDER[sort]} ${way}, lower(r.span), r.id
        limit $8 offset $9`,
      [
        askerId,
        at(listing.from),
        at(listing.to),
        at(now),
        listing.find ? within(listing.find) : null,
        listing.kind ?? null,
        listing.site ?? null,
        listing.many,
        listing.first,
      ],
    ),
    sql.query<{ many: number }>('select count(*)::integer as many from resource where steward_id = $1', [
      askerId,
    ]),
  ])
  const levels = await levelsFor(sql, askerId, [...new Set(rows.rows.map((row) => row.person_id))], now)
  return {
    reservations: rows.rows.map((row) => listedAs(row, levels.get(row.person_id) ?? NO_LEVEL, askerId)),
    total: rows.rows[0]?.total ?? 0,
    caresFor: cared.rows[0]?.many ?? 0,
  }
}

const listedAs = (
  row: Row,
  level: Parameters<typeof seenSpan>[1]['level'],
  askerId: string,
): ListedReservation => {
  const mine = row.person_id === askerId
  const state: SpanState = row.state === 'taken' ? 'busy' : 'held'
  const whole = { ...row, state, entryId: row.entry_id, place: '' }
  const seen = seenSpan(whole, { level, owns: mine, participates: row.participates })
  const opens = Boolean(seen?.entryId)
  return {
    id: row.id,
    resourceId: row.resource_id,
    place: row.place,
    kind: row.kind,
    site: row.site,
    start: instantText(row.start),
    end: instantText(row.end),
    state: row.state,
    by: row.by,
    title: seen?.title ?? '',
    purpose: row.purpose,
    headCount: row.head_count,
    contact: row.contact,
    mine,
    entryId: opens ? row.entry_id : null,
    recurrence: opens ? row.recurrence : null,
    repeats: row.repeats,
    meeting: row.meeting,
    inGroup: row.in_group,
  }
}
