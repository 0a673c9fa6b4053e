import type { CalendarEntry, CalendarOverride, Contact } from '@marmot/core/feeds'
import { readWalls } from '@marmot/core/recurrence'
import type { SpanState } from '@marmot/core/sharing'
import { wallFromText } from '@marmot/core/time'
import { at, msSql, type Sql, wallSql } from '../platform/database.ts'

interface Row {
  id: string
  version: number
  own: boolean
  uid: string
  zone: string
  starts: string
  minutes: number
  allDay: boolean
  rule: string | null
  added: string[]
  excepted: string[]
  title: string
  place: string
  note: string
  shows: SpanState
  private: boolean
  category: string | null
  reminders: number[] | null
  contacts: Contact[]
  sequence: number
  stamp: number | null
  participants: Contact[]
  overrides: (Omit<CalendarOverride, 'recurrence' | 'starts'> & {
    recurrence: string
    starts: string | null
  })[]
}

/** An entry as it goes out, with its id and version here. */
export interface KnownEntry {
  readonly id: string
  readonly version: number
  /** False for a meeting to which somebody else invited. */
  readonly own: boolean
  readonly entry: CalendarEntry
}

const wallsSql = (column: string) => `array(select ${wallSql('w')} from unnest(${column}) w order by w)`

/**
 * A person's entries, whole, their own and those they were invited to and have not declined: all, those with dates in
 * `[from, to)`, or those of the given UIDs. Reminders and category are the person's.
 */
export const entriesOf = async (
  sql: Sql,
  personId: string,
  which: {
    readonly from?: number | undefined
    readonly to?: number | undefined
    readonly uids?: readonly string[]
  } = {},
): Promise<KnownEntry[]> => {
  const rows = await sql.query<Row>(
    `select e.id, e.version, p.organizer as own, coalesce(e.source_uid, e.uid) as uid, e.zone, ${wallSql('e.starts')} as starts, e.minutes,
            e.all_day as "allDay", e.rule, ${wallsSql('e.added')} as added, ${wallsSql('e.excepted')} as excepted,
            e.title, e.place, e.note, e.shows, e.private, c.name as category, p.reminders, e.contacts,
            greatest(e.sequence, e.source_sequence) as sequence, ${msSql('e.source_stamp')} as stamp,
            coalesce((select jsonb_agg(jsonb_build_object('name', coalesce(w.name, x.guest_name),
                        'address', coalesce(w.address, x.guest_address), 'organizer', x.organizer,
                        'required', x.required, 'answer', x.answer) order by x.organizer desc, w.name, x.guest_name)
                        from participant x left join person w on w.id = x.person_id
                       where x.entry_id = e.id
                         and exists (select 1 from participant y where y.entry_id = e.id and not y.organizer)), '[]')
              as participants,
            coalesce((select jsonb_agg(jsonb_build_object('recurrence', ${wallSql('v.recurrence')},
                        'cancelled', v.cancelled, 'starts', ${wallSql('v.starts')}, 'minutes', v.minutes,
                        'title', v.title, 'place', v.place, 'note', v.note, 'shows', v.shows, 'private', v.private)
                        order by v.recurrence) from override v where v.entry_id = e.id), '[]') as overrides
       from entry e join participant p on p.entry_id = e.id and p.person_id = $1
       left join category c on c.id = p.category_id
      where (p.organizer or p.answer not in ('declined', 'delegated')) and e.deleted_at is null
        and e.cancelled_at is null and e.lapses_at is null
        and ($2::timestamptz is null or exists (
              select 1 from occurrence o where o.entry_id = e.id and o.gone_at is null and o.span && tstzrange($2, $3)))
        and ($4::text[] is null or coalesce(e.source_uid, e.uid) = any($4))
      order by e.starts, e.id`,
    [
      personId,
      which.from === undefined ? null : at(which.from),
      which.to === undefined ? null : at(which.to),
      which.uids ?? null,
    ],
  )
  return rows.rows.map(({ id, version, own, participants, ...row }) => ({
    id,
    version,
    own,
    entry: {
      ...row,
      starts: wallFromText(row.starts) ?? 0,
      added: readWalls(row.added),
      excepted: readWalls(row.excepted),
      reminders: row.reminders ?? [],
      contacts: participants.length ? participants : row.contacts,
      overrides: row.overrides.map((one) => ({
        ...one,
        recurrence: wallFromText(one.recurrence) ?? 0,
        starts: one.starts === null ? null : wallFromText(one.starts),
      })),
    },
  }))
}
