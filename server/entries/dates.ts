import { randomUUID } from 'node:crypto'
import { namesOf } from '@marmot/core/entries'
import { type Override, occurrencesWithin, readWalls, repeats, type Series } from '@marmot/core/recurrence'
import { DAY, type Instant, type Wall, wallFromText, zoneTable } from '@marmot/core/time'
import type pg from 'pg'
import { at, endMs, type Sql, startMs, together, transaction } from '../platform/database.ts'
import { type EntryState, type NewOverride, readEntrySql, readOverrideSql } from './fields.ts'

/** How far ahead occurrences are written out, and how far back those of a series that begins long ago. */
const HORIZON_AHEAD = 550 * DAY
const HORIZON_BACK = 400 * DAY

/** The range in which the dates of a series are written out. */
export const horizonOf = (now: number) => ({ from: now - HORIZON_BACK, to: now + HORIZON_AHEAD })

type KeptSeries = Pick<EntryState, 'starts' | 'minutes' | 'allDay' | 'rule' | 'added' | 'excepted'>
type KeptDate = Pick<NewOverride, 'recurrence' | 'cancelled' | 'starts' | 'minutes'>

/** A wall time as SQL reads it, to the second: an added date that was imported may have one. */
const stampOf = (wall: Wall): string => new Date(wall).toISOString().slice(0, 19)

/** The wall time that PostgreSQL writes as `2026-12-03 14:00:00`. */
const wallOfStamp = (stamp: string): Wall => Date.parse(`${stamp.replace(' ', 'T')}Z`)

/** One date to be written out. A date that there was already is known by its id. */
interface WrittenDate {
  readonly id: string
  readonly entryId: string
  readonly recurrence: Wall
  readonly start: Instant
  readonly end: Instant
}

/** The dates of a single entry, or those of a series as far as the horizon. */
const expand = (series: Series, overrides: readonly Override[], zone: string, now: number) => {
  const { from, to } = repeats(series)
    ? horizonOf(now)
    : { from: Number.NEGATIVE_INFINITY, to: Number.POSITIVE_INFINITY }
  return occurrencesWithin(series, overrides, zoneTable(zone), from, to)
}

/** The first dates of an entry that has none yet. */
export const firstDatesOf = (
  entryId: string,
  series: Series,
  overrides: readonly Override[],
  zone: string,
  now: number,
): WrittenDate[] =>
  expand(series, overrides, zone, now).map((date) => ({ id: randomUUID(), entryId, ...date }))

/** Writes out dates over what stands under their names. */
const putDates = (sql: Sql, dates: readonly WrittenDate[]) =>
  sql.query(
    `insert into occurrence (id, entry_id, recurrence, span)
     select i, e, r, tstzrange(f, t)
       from unnest($1::uuid[], $2::uuid[], $3::timestamp[], $4::timestamptz[], $5::timestamptz[]) d(i, e, r, f, t)
     on conflict (id) do update
        set entry_id = excluded.entry_id, recurrence = excluded.recurrence, span = excluded.span, gone_at = null`,
    [
      dates.map((date) => date.id),
      dates.map((date) => date.entryId),
      dates.map((date) => stampOf(date.recurrence)),
      dates.map((date) => at(date.start)),
      dates.map((date) => at(date.end)),
    ],
  )

/** SQL: whether a participant takes part in a date, by their row and what is said of the two (`participant_date`). */
export const takesPartSql = (participant: string, said: string): string =>
  `coalesce(${said}.takes_part, ${participant}.every_date)`

/** Brings everybody's share in the dates of entries up to date; what is the same already is left alone. */
const putAttendances = (sql: Sql, entryIds: readonly string[]) =>
  sql.query(
    `insert into attendance (occurrence_id, participant_id, person_id, span, answer, shows)
     select o.id, p.id, p.person_id, o.span, p.answer, coalesce(v.shows, e.shows)
       from occurrence o
       join entry e on e.id = o.entry_id
       join participant p on p.entry_id = o.entry_id
       left join participant_date d on d.participant_id = p.id and d.occurrence_id = o.id
       left join override v on v.entry_id = o.entry_id and v.recurrence = o.recurrence
      where o.entry_id = any($1) and o.gone_at is null and ${takesPartSql('p', 'd')}
     on conflict (occurrence_id, participant_id) do update set span = excluded.span, shows = excluded.shows
      where attendance.span <> excluded.span or attendance.shows <> excluded.shows`,
    [entryIds],
  )

/** Takes the share in those dates away from participants in which they do not take part. */
const dropAttendances = (sql: Sql, entryId: string) =>
  sql.query(
    `delete from attendance a using occurrence o, participant p
      where o.id = a.occurrence_id and o.entry_id = $1 and p.id = a.participant_id
        and not coalesce((select d.takes_part from participant_date d
                           where d.participant_id = p.id and d.occurrence_id = o.id), p.every_date)`,
    [entryId],
  )

/** Writes out the first dates of entries, and everybody's share in each. */
export const writeFirstDates = async (sql: Sql, dates: readonly WrittenDate[]): Promise<void> => {
  await together([putDates(sql, dates), putAttendances(sql, [...new Set(dates.map((date) => date.entryId))])])
}

/** What an entry that does not repeat has of a series. */
export const SINGLE = { allDay: false, rule: null, added: [], excepted: [] }

/** An entry's series, with its walls as numbers. */
export const seriesOf = ({ starts, minutes, allDay, rule, added, excepted }: KeptSeries): Series => ({
  starts: readWalls([starts])[0] ?? 0,
  minutes,
  allDay,
  rule,
  added: readWalls(added),
  excepted: readWalls(excepted),
})

const datedOverride = (override: KeptDate): Override => ({
  recurrence: wallFromText(override.recurrence) ?? 0,
  cancelled: override.cancelled,
  starts: override.starts ? wallFromText(override.starts) : null,
  minutes: override.minutes ?? null,
})

/** The first dates of an entry as it is kept, with walls as text. */
export const firstDatesOfKept = (
  entryId: string,
  state: KeptSeries & { readonly zone: string },
  overrides: readonly KeptDate[],
  now: number,
): WrittenDate[] => firstDatesOf(entryId, seriesOf(state), overrides.map(datedOverride), state.zone, now)

interface StandingDate {
  readonly id: string
  readonly recurrence: string
  readonly start: number
  readonly end: number
  readonly gone: boolean
}

/**
 * Writes out an entry's occurrences and everybody's attendance anew from its rule and overrides. A date that goes on
 * keeps its name, and with it each person's answer, its places and reminders (`namesOf`; `by` is how far the change
 * moved the series, in milliseconds on the wall). One that the entry gives no more is gone, which takes it off the
 * lanes; what lies further back than the horizon stays as it was. Run in the transaction of the change that made it
 * necessary.
 */
export const writeOccurrences = async (sql: Sql, entryId: string, now: number, by = 0): Promise<void> => {
  const [entries, changed, before] = await together([
    sql.query<KeptSeries & { zone: string; gone: boolean }>(
      `select ${readEntrySql('e')}, (e.deleted_at is not null or e.cancelled_at is not null) as gone
         from entry e where e.id = $1`,
      [entryId],
    ),
    sql.query<KeptDate>(`select ${readOverrideSql('v')} from override v where v.entry_id = $1`, [entryId]),
    sql.query<StandingDate>(
      `select id, recurrence::text as recurrence, ${startMs('span')} as start, ${endMs('span')} as end,
              gone_at is not null as gone
         from occurrence where entry_id = $1 order by gone_at desc, recurrence`,
      [entryId],
    ),
  ])
  const row = entries.rows[0]
  if (!row) return
  const series = seriesOf(row)
  const had = before.rows.map((date) => ({ ...date, recurrence: wallOfStamp(date.recurrence) }))
  const given = row.gone ? [] : expand(series, changed.rows.map(datedOverride), row.zone, now)
  const names = namesOf(
    had,
    given.map((date) => date.recurrence),
    by,
  )
  const was = new Map(had.map((date) => [date.id, date]))
  const moved = given.flatMap((date): WrittenDate[] => {
    const id = names.get(date.recurrence) ?? randomUUID()
    const one = was.get(id)
    const stands =
      one &&
      !one.gone &&
      one.recurrence === date.recurrence &&
      one.start === date.start &&
      one.end === date.end
    return stands ? [] : [{ id, entryId, ...date }]
  })
  const goOn = new Set(names.values())
  const frozen = row.gone || !repeats(series) ? Number.NEGATIVE_INFINITY : horizonOf(now).from
  const gone = had.filter((date) => !date.gone && !goOn.has(date.id) && date.end > frozen)
  const ids = gone.map((date) => date.id)
  await together([
    ...(ids.length ? takeOff(sql, ids) : []),
    ...(moved.length ? [putDates(sql, moved)] : []),
    dropAttendances(sql, entryId),
    putAttendances(sql, [entryId]),
  ])
}

/** Takes dates off the lanes; their names stay, and whatever refers to them. */
const takeOff = (sql: Sql, occurrenceIds: readonly string[]) => [
  sql.query('update occurrence set gone_at = clock_timestamp() where id = any($1)', [occurrenceIds]),
  sql.query('delete from attendance where occurrence_id = any($1)', [occurrenceIds]),
]

/** Takes all dates of entries off the lanes: an import that is taken back can be ten thousand. */
export const takeOffAll = async (sql: Sql, entryIds: readonly string[]): Promise<void> => {
  await together([
    sql.query(
      `delete from attendance where occurrence_id in
         (select id from occurrence where entry_id = any($1) and gone_at is null)`,
      [entryIds],
    ),
    sql.query(
      'update occurrence set gone_at = clock_timestamp() where entry_id = any($1) and gone_at is null',
      [entryIds],
    ),
  ])
}

/**
 * Hands the dates from a wall time on over to the entry that continues a series, with each person's answers to them, and
 * with who takes part in some of them alone. Whoever takes part in the continuation no more loses their share.
 */
export const handOver = async (sql: Sql, fromId: string, toId: string, recurrence: string): Promise<void> => {
  await sql.query(
    `update attendance a set participant_id = n.id
       from occurrence o, participant p, participant n
      where o.id = a.occurrence_id and o.entry_id = $1 and o.recurrence >= $3 and o.gone_at is null
        and p.id = a.participant_id and n.entry_id = $2
        and (n.person_id = p.person_id or n.guest_address = p.guest_address)`,
    [fromId, toId, recurrence],
  )
  await sql.query(
    `delete from attendance a using occurrence o, participant p
      where o.id = a.occurrence_id and o.entry_id = $1 and o.recurrence >= $2 and o.gone_at is null
        and p.id = a.participant_id and p.entry_id = $1`,
    [fromId, recurrence],
  )
  await sql.query(
    `update participant_date d set participant_id = n.id
       from occurrence o, participant p, participant n
      where o.id = d.occurrence_id and o.entry_id = $1 and o.recurrence >= $3 and o.gone_at is null
        and p.id = d.participant_id and p.entry_id = $1 and n.entry_id = $2 and n.every_date = p.every_date
        and (n.person_id = p.person_id or n.guest_address = p.guest_address)`,
    [fromId, toId, recurrence],
  )
  await sql.query(
    'update occurrence set entry_id = $2 where entry_id = $1 and recurrence >= $3 and gone_at is null',
    [fromId, toId, recurrence],
  )
}

/** Moves the horizon on: writes out the dates of every series that is still running, one transaction each. */
export const moveHorizon = async (pool: pg.Pool, now: number): Promise<number> => {
  const running = await pool.query<{ id: string }>(
    `select e.id from entry e where (e.rule is not null or e.added <> '{}') and e.deleted_at is null and e.cancelled_at is null
        and exists (select 1 from occurrence o where o.entry_id = e.id and upper(o.span) > $1 and o.gone_at is null)`,
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

/** So many dates are looked at in a night; what is left is there the next. */
const MOST_A_NIGHT = 100_000

/**
 * Forgets the dates that went a day ago or more and to which nothing refers: however often a series is changed, it keeps no more of
 * them than there is something to be kept for. What refers to dates is read from the database itself, so that whoever
 * adds a table has nothing to say here.
 */
export const tidyDates = async (sql: Sql): Promise<number> => {
  const referring = await sql.query<{ table: string; column: string }>(
    `select c.conrelid::regclass::text as table, quote_ident(a.attname) as column
       from pg_constraint c join pg_attribute a on a.attrelid = c.conrelid and a.attnum = c.conkey[1]
      where c.contype = 'f' and c.confrelid = 'occurrence'::regclass`,
  )
  // Each asked for by itself: joined, whole tables would be read for the few dates that are gone.
  const nowhere = referring.rows
    .map(({ table, column }) => `and (select 1 from ${table} t where t.${column} = o.id limit 1) is null`)
    .join(' ')
  const gone = await sql.query<{ id: string }>(
    `select o.id from occurrence o where o.gone_at < now() - interval '1 day' ${nowhere} limit $1`,
    [MOST_A_NIGHT],
  )
  const forgotten = await sql.query('delete from occurrence where id = any($1) and gone_at is not null', [
    gone.rows.map((row) => row.id),
  ])
  return forgotten.rowCount ?? 0
}
