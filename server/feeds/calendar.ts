import type { CalendarEntry, CalendarOverride, Contact } from '@marmot/core/feeds'
import { readWalls } from '@marmot/core/recurrence'
import type { SpanState } from '@marmot/core/sharing'
import { wallFromText } from '@marmot/core/time'
import { at, type Sql, wallSql } from '../platform/database.ts'

interface Row {
  id: string
  version: number
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
  participants: Contact[]
  overrides: (Omit<CalendarOverride, 'recurrence' | 'starts'> & {
    recurrence: string
    starts: string | null
  })[]
}

/** An owner's entry as it goes out, with its id and version here. */
export interface KnownEntry {
  readonly id: string
  readonly version: number
  readonly entry: CalendarEntry
}

const wallsSql = (column: string) => `array(select ${wallSql('w')} from unnest(${column}) w order by w)`

/**
 * An owner's own entries, whole: all, those with dates in `[from, to)`, or those of the given UIDs. Reminders and
 * category are the owner's.
 */
export const ownEntries = async (
  sql: Sql,
  ownerId: string,
  which: {
    readonly from?: number | undefined
    readonly to?: number | undefined
    readonly uids?: readonly string[]
  } = {},
): Promise<KnownEntry[]> => {
  const rows = await sql.query<Row>(
    `select e.id, e.version, coalesce(e.source_uid, e.uid) as uid, e.zone, ${wallSql('e.starts')} as starts, e.minutes,
            e.all_day as "allDay", e.rule, ${wallsSql('e.added')} as added, ${wallsSql('e.excepted')} as excepted,
            e.title, e.place, e.note, e.shows, e.private, c.name as category, p.reminders, e.contacts,
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
       from entry e join participant p on p.entry_id = e.id and p.organizer
       left join category c on c.id = p.category_id
      where e.owner_id = $1 and e.deleted_at is null and e.cancelled_at is null
        and ($2::timestamptz is null or exists (
              select 1 from occurrence o where o.entry_id = e.id and o.span && tstzrange($2, $3)))
        and ($4::text[] is null or coalesce(e.source_uid, e.uid) = any($4))
      order by e.starts, e.id`,
    [
      ownerId,
      which.from === undefined ? null : at(which.from),
      which.to === undefined ? null : at(which.to),
      which.uids ?? null,
    ],
  )
  return rows.rows.map(({ id, version, participants, ...row }) => ({
    id,
    version,
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
