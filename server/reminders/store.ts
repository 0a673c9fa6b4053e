import { HOUR, MINUTE } from '@marmot/core/time'
import type pg from 'pg'
import { isMeetingSql, placesOf, whereOf } from '../entries/index.ts'
import { at, endMs, msSql, type Sql, startMs, transaction, wallSql } from '../platform/database.ts'
import { addJobs } from '../platform/jobs.ts'
import { tellReminders } from '../platform/live.ts'

export const TASK = 'send-reminder'
/** A server that was down for longer than this does not remind of what came due before. */
const LONGEST_GAP = 12 * HOUR
/** What has begun longer ago than this needs no reminder any more. */
const TOO_LATE = 5 * MINUTE

/** Answers with which somebody is not coming, and is not reminded. */
const NOT_COMING = "('declined', 'delegated')"

/**
 * Tells everybody of whose entries a reminder has come due since the last time. The time up to which it was done is one
 * locked row, so that of two servers the second finds nothing left; the unique key says the same once more.
 */
export const remind = async (pool: pg.Pool, now: number): Promise<number> =>
  transaction(pool, async (sql) => {
    await sql.query("insert into setting (name, value) values ('reminded', $1) on conflict do nothing", [
      JSON.stringify(now - 2 * MINUTE),
    ])
    const row = await sql.query<{ value: number }>(
      "select value::text::float8 as value from setting where name = 'reminded' for update",
    )
    const since = Math.max(row.rows[0]?.value ?? now, now - LONGEST_GAP)
    if (since >= now) return 0
    // One look into the index of starts for each length of time that anybody is ever reminded before.
    await sql.query(
      `insert into reminder (occurrence_id, person_id, due_at, next_at)
       select a.occurrence_id, a.person_id, lower(a.span) - l.ahead, $2
         from (select minutes, minutes * interval '1 minute' as ahead from reminder_length) l
         cross join lateral (
           select x.* from attendance x
            where lower(x.span) > $1::timestamptz + l.ahead and lower(x.span) <= $2::timestamptz + l.ahead
              and lower(x.span) > $2::timestamptz - $3::interval and x.answer not in ${NOT_COMING}) a
         join participant p on p.id = a.participant_id join person w on w.id = a.person_id
        where l.minutes = any(coalesce(p.reminders, w.reminders))
       on conflict do nothing`,
      [at(since), at(now), `${TOO_LATE / MINUTE} minutes`],
    )
    const told = await sql.query<{ id: string; person_id: string; by_mail: boolean }>(
      `update reminder r set told_at = $1 from person w
        where w.id = r.person_id and r.told_at is null and r.dismissed_at is null and r.next_at <= $1
          and exists (select 1 from attendance a where a.occurrence_id = r.occurrence_id
                        and a.person_id = r.person_id and a.answer not in ${NOT_COMING})
       returning r.id, r.person_id, w.reminds_by_mail as by_mail`,
      [at(now)],
    )
    await addJobs(
      sql,
      TASK,
      told.rows.flatMap(({ id, by_mail }) =>
        by_mail ? [{ payload: { reminderId: id }, key: `reminder:${id}:${now}` }] : [],
      ),
    )
    await tellReminders(
      sql,
      told.rows.map((one) => one.person_id),
    )
    await sql.query("update setting set value = $1 where name = 'reminded'", [JSON.stringify(now)])
    return told.rows.length
  })

interface Row {
  id: string
  occurrenceId: string
  entryId: string
  recurrence: string
  title: string
  place: string
  start: number
  end: number
  meeting: boolean
  address: string
  name: string
  zone: string
  nextAt: number
}

/**
 * Reminders that stand: told, not put away, of dates that are still on and that one still means to come to. One by its
 * id, or a person's of what is not over at an instant.
 */
export const standingReminders = async (
  sql: Sql,
  which: { readonly reminderId: string } | { readonly personId: string; readonly now: number },
): Promise<Row[]> => {
  const [where, values] =
    'reminderId' in which
      ? ['r.id = $1', [which.reminderId]]
      : ['r.person_id = $1 and upper(a.span) > $2', [which.personId, at(which.now)]]
  const rows = await sql.query<Row>(
    `select r.id, o.id as "occurrenceId", e.id as "entryId", ${wallSql('o.recurrence')} as recurrence, coalesce(v.title, e.title) as title,
            coalesce(v.place, e.place) as place, ${startMs('a.span')} as start, ${endMs('a.span')} as end,
            ${isMeetingSql('e')} as meeting,
            w.address, w.name, w.zone, ${msSql('r.next_at')} as "nextAt"
       from reminder r join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
       join attendance a on a.occurrence_id = r.occurrence_id and a.person_id = r.person_id
       join person w on w.id = r.person_id
       left join override v on v.entry_id = e.id and v.recurrence = o.recurrence
      where ${where} and r.told_at is not null and r.dismissed_at is null and a.answer not in ${NOT_COMING}
      order by lower(a.span) limit 20`,
    values,
  )
  const places = await placesOf(
    sql,
    rows.rows.map((row) => row.occurrenceId),
  )
  return rows.rows.map((row) => ({ ...row, place: whereOf(places, row.occurrenceId, row.place) }))
}

/** Has a reminder of a person's come again at an instant. False when it is not theirs. */
export const snooze = async (
  sql: Sql,
  reminderId: string,
  personId: string,
  until: number,
): Promise<boolean> =>
  ((
    await sql.query(
      `update reminder set told_at = null, dismissed_at = null, next_at = $3 where id = $1 and person_id = $2`,
      [reminderId, personId, at(until)],
    )
  ).rowCount ?? 0) > 0

/** Puts a reminder of a person's away. False when it is not theirs. */
export const dismiss = async (
  sql: Sql,
  reminderId: string,
  personId: string,
  now: number,
): Promise<boolean> =>
  ((
    await sql.query(
      'update reminder set dismissed_at = coalesce(dismissed_at, $3) where id = $1 and person_id = $2',
      [reminderId, personId, at(now)],
    )
  ).rowCount ?? 0) > 0

/** Forgets reminders of what is long over. */
export const tidyReminders = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from reminder where due_at < $1::timestamptz - interval '30 days'", [at(now)])
}
