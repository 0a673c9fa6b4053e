import { at, type Sql } from '../platform/database.ts'

/** A meeting with a room at our conference service: what somebody outside organizes has none. */
const OURS = `conference is not null and conference ->> 'room' > ''`

/** Meetings for which the conference service has given no link yet. */
export const roomsWanted = async (
  sql: Sql,
  most: number,
): Promise<{ entryId: string; room: string; title: string }[]> =>
  (
    await sql.query<{ entryId: string; room: string; title: string }>(
      `select id as "entryId", conference ->> 'room' as room, title from entry
        where ${OURS} and conference ->> 'link' = '' and deleted_at is null and cancelled_at is null
        order by created_at desc limit $1`,
      [most],
    )
  ).rows

/**
 * Rooms in which nobody meets any more, with the entries that had them: their last date, and what could be taken back of
 * them, is a week ago.
 */
export const roomsOver = async (
  sql: Sql,
  now: number,
  most: number,
): Promise<{ room: string; entryIds: string[] }[]> =>
  (
    await sql.query<{ room: string; entryIds: string[] }>(
      `select e.conference ->> 'room' as room, array_agg(e.id) as "entryIds" from entry e
        where ${OURS}
        group by 1
       having bool_and(not exists (
                select 1 from occurrence o where o.entry_id = e.id and upper(o.span) > $1::timestamptz - interval '7 days'))
        limit $2`,
      [at(now), most],
    )
  ).rows
