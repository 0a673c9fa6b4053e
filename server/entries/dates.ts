import { type Override, occurrencesWithin, readWalls, repeats, type Series } from '@marmot/core/recurrence'
import { DAY, type Instant, type Wall, wallFromText, zoneTable } from '@marmot/core/time'
import type pg from 'pg'
import { at, type Sql, together, transaction, wallSql } from '../platform/database.ts'
import type { EntryState, KeptOverride } from './store.ts'

/** How far ahead occurrences are written out, and how far back an old series still has its dates. */
const HORIZON_AHEAD = 550 * DAY
const HORIZON_BACK = 400 * DAY

/** The range in which the dates of a series are written out. */
export const horizonOf = (now: number) => ({ from: now - HORIZON_BACK, to: now + HORIZON_AHEAD })

type KeptSeries = Pick<EntryState, 'zone' | 'starts' | 'minutes' | 'allDay' | 'rule' | 'added' | 'excepted'>
type KeptDate = Pick<KeptOverride, 'recurrence' | 'cancelled' | 'starts' | 'minutes'>

/** A wall time as SQL reads it, to the second: an added date that was imported may have one. */
const stampOf = (wall: Wall): string => new Date(wall).toISOString().slice(0, 19)

/** One date to be written out. */
interface WrittenDate {
  readonly entryId: string
  readonly recurrence: Wall
  readonly start: Instant
  readonly end: Instant
}

/** The dates of a single entry, or those of a series as far as the horizon. */
export const datesOf = (
  entryId: string,
  series: Series,
  overrides: readonly Override[],
  zone: string,
  now: number,
): WrittenDate[] => {
  const { from, to } = repeats(series)
    ? horizonOf(now)
    : { from: Number.NEGATIVE_INFINITY, to: Number.POSITIVE_INFINITY }
  return occurrencesWithin(series, overrides, zoneTable(zone), from, to).map((date) => ({ entryId, ...date }))
}

/** Writes out dates, and everybody's share in each, over what stands; what is the same already is left alone. */
export const writeDates = async (sql: Sql, dates: readonly WrittenDate[]): Promise<void> => {
  const occurrences = sql.query(
    `insert into occurrence (entry_id, recurrence, span)
     select i, r, tstzrange(s, e) from unnest($1::uuid[], $2::timestamp[], $3::timestamptz[], $4::timestamptz[]) d(i, r, s, e)
     on conflict (entry_id, recurrence) do update set span = excluded.span where occurrence.span <> excluded.span`,
    [
      dates.map((date) => date.entryId),
      dates.map((date) => stampOf(date.recurrence)),
      dates.map((date) => at(date.start)),
      dates.map((date) => at(date.end)),
    ],
  )
  const attendances = sql.query(
    `insert into attendance (occurrence_id, participant_id, person_id, span, answer, shows)
     select o.id, p.id, p.person_id, o.span, p.answer, coalesce(v.shows, e.shows)
       from occurrence o
       join entry e on e.id = o.entry_id
       join participant p on p.entry_id = o.entry_id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where o.entry_id = any($1)
     on conflict (occurrence_id, participant_id) do update set span = excluded.span, shows = excluded.shows
      where attendance.span <> excluded.span or attendance.shows <> excluded.shows`,
    [[...new Set(dates.map((date) => date.entryId))]],
  )
  await together([occurrences, attendances])
}

/** The dates of an entry as it is kept, with walls as text. */
const datesOfKept = (
  entryId: string,
  { zone, starts, minutes, allDay, rule, added, excepted }: KeptSeries,
  overrides: readonly KeptDate[],
  now: number,
): WrittenDate[] => {
  const series: Series = {
    starts: readWalls([starts])[0] ?? 0,
    minutes,
    allDay,
    rule,
    added: readWalls(added),
    excepted: readWalls(excepted),
  }
  const changed = overrides.map(
    (override): Override => ({
      recurrence: wallFromText(override.recurrence) ?? 0,
      cancelled: override.cancelled,
      starts: override.starts === null ? null : wallFromText(override.starts),
      minutes: override.minutes,
    }),
  )
  return datesOf(entryId, series, changed, zone, now)
}

/** Writes out the dates of an entry that was made in this transaction: nothing has to be read, and nothing be taken away. */
export const writeFirstDates = (
  sql: Sql,
  entryId: string,
  state: KeptSeries,
  overrides: readonly KeptDate[],
  now: number,
): Promise<void> => writeDates(sql, datesOfKept(entryId, state, overrides, now))

/**
 * Writes out an entry's occurrences and everybody's attendance anew from its rule and overrides. Dates that stay keep
 * their rows and each person's answer to them; a date that moved keeps its answers too. Run in the transaction of the
 * change that made it necessary.
 */
export const writeOccurrences = async (sql: Sql, entryId: string, now: number): Promise<void> => {
  const [entries, changed] = await together([
    sql.query<KeptSeries & { gone: boolean }>(
      `select zone, ${wallSql('starts')} as starts, minutes, all_day as "allDay", rule,
            array(select ${wallSql('w')} from unnest(added) w) as added,
            array(select ${wallSql('w')} from unnest(excepted) w) as excepted,
            (deleted_at is not null or cancelled_at is not null) as gone
       from entry where id = $1`,
      [entryId],
    ),
    sql.query<KeptDate>(
      `select ${wallSql('recurrence')} as recurrence, cancelled, ${wallSql('starts')} as starts, minutes
       from override where entry_id = $1`,
      [entryId],
    ),
  ])
  const row = entries.rows[0]
  if (!row) return
  const dates = row.gone ? [] : datesOfKept(entryId, row, changed.rows, now)
  const gone = sql.query(
    'delete from occurrence where entry_id = $1 and recurrence <> all($2::timestamp[])',
    [entryId, dates.map((date) => stampOf(date.recurrence))],
  )
  await together([gone, writeDates(sql, dates)])
}

/** Moves the horizon on: writes out the dates of every series that is still running, one transaction each. */
export const moveHorizon = async (pool: pg.Pool, now: number): Promise<number> => {
  const running = await pool.query<{ id: string }>(
    `select e.id from entry e where (e.rule is not null or e.added <> '{}') and e.deleted_at is null and e.cancelled_at is null
        and exists (select 1 from occurrence o where o.entry_id = e.id and upper(o.span) > $1)`,
    [at(now)],
  )
  for (const { id } of running.rows) {
    await transaction(pool, async (sql) => {
      await sql.query('select 1 from entry where id = $1 for update', [id])
      await writeOccurrences(sql, id, now)
    })
  }
  return running.rows.length
}
