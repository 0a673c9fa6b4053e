import {
  type CalendarEntry,
  type CalendarOverride,
  type Contact,
  NOTHING_CHANGED,
  partOfEntry,
} from '@marmot/core/feeds'
import { readWalls } from '@marmot/core/recurrence'
import { wallFromText } from '@marmot/core/time'
import {
  datesOfMany,
  type EntryState,
  placedEntries,
  placesOf,
  readEntrySql,
  readOverrideSql,
  whereDatesAre,
} from '../entries/index.ts'
import { at, type Sql, wallSql } from '../platform/database.ts'

interface Row extends Omit<EntryState, 'contacts'> {
  id: string
  version: number
  own: boolean
  uid: string
  category: string | null
  outdoorsSite: string | null
  reminders: number[] | null
  contacts: Contact[]
  sequence: number
  participants: Contact[]
  /** In which of its dates they take part: in all but `otherwise`, or in none but those. */
  everyDate: boolean
  otherwise: string[]
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

/** Entries with where they are: the places reserved for them, and what else was said. */
const withPlaces = async (sql: Sql, rows: readonly Row[]): Promise<readonly Row[]> => {
  const placed = await placedEntries(
    sql,
    rows.map((row) => row.id),
  )
  if (placed.length === 0) return rows
  const dates = await datesOfMany(sql, placed)
  const places = await placesOf(
    sql,
    dates.map((date) => date.id),
  )
  const byEntry = new Map<string, typeof dates>(placed.map((id) => [id, []]))
  for (const date of dates) byEntry.get(date.entryId)?.push(date)
  return rows.map((row) => {
    const own = byEntry.get(row.id)
    if (!own) return row
    const { usual, otherwise } = whereDatesAre(places, own, row.place, row.overrides)
    const changed = row.overrides.map((one) => ({ ...one, place: otherwise.get(one.recurrence) ?? null }))
    const known = new Set(row.overrides.map((one) => one.recurrence))
    const added = [...otherwise].flatMap(([recurrence, place]) =>
      known.has(recurrence) ? [] : [{ ...NOTHING_CHANGED, recurrence, cancelled: false, place }],
    )
    return { ...row, place: usual, overrides: [...changed, ...added] }
  })
}

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
    /** Also those that they have declined. */
    readonly declinedToo?: boolean
  } = {},
): Promise<KnownEntry[]> => {
  const rows = await sql.query<Row>(
    `select e.id, e.version, (p.organizer and e.organizer_address is null) as own, coalesce(e.source_uid, e.uid) as uid, ${readEntrySql('e')},
            c.name as category, (select s.name from site s where s.id = e.outdoors_site_id) as "outdoorsSite", p.reminders, greatest(e.sequence, e.source_sequence) as sequence,
            coalesce((select jsonb_agg(jsonb_build_object('name', coalesce(w.name, x.guest_name),
                        'address', coalesce(w.address, x.guest_address), 'organizer', x.organizer,
                        'required', x.required, 'answer',
                        case when x.quiet and x.id <> p.id then 'needs-action' else x.answer end) order by x.organizer desc, w.name, x.guest_name)
                        from participant x left join person w on w.id = x.person_id
                       where x.entry_id = e.id
                         and exists (select 1 from participant y where y.entry_id = e.id and not y.organizer)), '[]')
              as participants,
            p.every_date as "everyDate", array(select ${wallSql('o.recurrence')} from participant_date d
              join occurrence o on o.id = d.occurrence_id and o.entry_id = e.id and o.gone_at is null
              where d.participant_id = p.id and d.takes_part <> p.every_date order by o.recurrence) as otherwise,
            coalesce((select jsonb_agg(to_jsonb(x) order by x.recurrence)
                        from (select ${readOverrideSql('v')} from override v where v.entry_id = e.id) x), '[]') as overrides
       from entry e join participant p on p.entry_id = e.id and p.person_id = $1
       left join category c on c.id = p.category_id
      where (p.organizer and e.organizer_address is null or $5 or p.answer not in ('declined', 'delegated')) and e.deleted_at is null
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
      which.declinedToo ?? false,
    ],
  )
  const placed = await withPlaces(sql, rows.rows)
  return placed.flatMap(
    ({ id, version, own, participants, sourceStamp, everyDate, otherwise, outdoorsSite, ...row }) => {
      const whole: CalendarEntry = {
        ...row,
        outdoors: outdoorsSite,
        stamp: sourceStamp === null ? null : Date.parse(sourceStamp),
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
      }
      const entry = partOfEntry(whole, { everyDate, otherwise: readWalls(otherwise) })
      return entry ? [{ id, version, own, entry }] : []
    },
  )
}
