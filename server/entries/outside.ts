import { at, msSql, type Sql } from '../platform/database.ts'

/** A meeting that somebody outside organizes, or an entry from elsewhere, as somebody here has it. Instants in milliseconds. */
export interface OutsideEntry {
  readonly id: string
  readonly organizerAddress: string | null
  readonly sequence: number
  readonly stamp: number | null
  readonly cancelled: boolean
  readonly contacts: readonly { readonly address: string; readonly organizer: boolean }[]
  /** Whether it is some dates of a series alone. */
  readonly dates: boolean
  readonly participantId: string
}

/** What somebody has under a UID from elsewhere, locked; null where they have nothing. */
export const lockOutside = async (sql: Sql, ownerId: string, uid: string): Promise<OutsideEntry | null> =>
  (
    await sql.query<OutsideEntry>(
      `select e.id, e.organizer_address as "organizerAddress", e.source_sequence as sequence,
              ${msSql('e.source_stamp')} as stamp, e.cancelled_at is not null as cancelled, e.contacts,
              e.source_dates as dates, p.id as "participantId"
         from entry e join participant p on p.entry_id = e.id and p.organizer
        where e.owner_id = $1 and e.source_uid = $2 and e.deleted_at is null for update of e`,
      [ownerId, uid],
    )
  ).rows[0] ?? null

/** Whether one of some UIDs is that of an entry of ours, whosever. */
export const isOurUid = async (sql: Sql, uids: readonly string[]): Promise<boolean> =>
  ((await sql.query('select 1 from entry where uid = any($1) limit 1', [uids])).rowCount ?? 0) > 0

/** How many meetings of one organizer elsewhere came to somebody since an instant. */
export const outsideSince = async (
  sql: Sql,
  ownerId: string,
  organizerAddress: string,
  since: number,
): Promise<number> =>
  (
    await sql.query<{ n: number }>(
      'select count(*) as n from entry where owner_id = $1 and organizer_address = $2 and created_at > $3',
      [ownerId, organizerAddress, at(since)],
    )
  ).rows[0]?.n ?? 0

/** A meeting that was called off takes place after all. */
export const revive = async (sql: Sql, entryId: string): Promise<void> => {
  await sql.query("update entry set cancelled_at = null, cancel_reason = '' where id = $1", [entryId])
}

/** Asks whoever was invited from outside for their answer: to all dates, or to some by the wall times that name them. */
export const askInvited = async (
  sql: Sql,
  entryId: string,
  dates: 'all' | readonly string[],
): Promise<void> => {
  const some = dates === 'all' ? null : dates
  await sql.query(
    `update attendance a set answer = 'needs-action', message = null, answered_at = null, answered_by = null,
            answer_stamp = null, answered_version = null, quiet = false
       from occurrence o
      where o.id = a.occurrence_id and o.entry_id = $1 and ($2::timestamp[] is null or o.recurrence = any($2))`,
    [entryId, some],
  )
  if (some === null)
    await sql.query(
      `update participant set answer = 'needs-action', message = '', answered_at = null, answered_by = null,
              answer_stamp = null, answered_version = null, quiet = false
        where entry_id = $1 and organizer`,
      [entryId],
    )
}
