import { type Sql, wallSql } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
import { takesPartSql } from './dates.ts'
import { mayActOn } from './looking.ts'
import { presentIn, readMeetings, type WholeMeeting } from './whole.ts'

/** Somebody at a date of a meeting: a person who takes part or acts for its organizer, or a participant who came by a link. */
export interface Present {
  readonly meeting: WholeMeeting
  readonly occurrenceId: string
  /** Null for whoever acts for the organizer without taking part. */
  readonly participantId: string | null
}

/** Who asks for what goes on at a meeting, by their id as a person or as a participant. */
export type Asking = { readonly personId: string } | { readonly participantId: string }

/**
 * The date of a meeting that was cancelled, out of those that were to be somebody's: what was planned and said stays there for
 * those who were to come.
 */
const formerDate = async (
  sql: Sql,
  entryId: string,
  recurrence: string | null,
  participantId: string | null,
): Promise<string | null> =>
  (
    await sql.query<{ id: string }>(
      `select o.id from occurrence o
         left join participant p on p.id = $3
         left join participant_date d on d.participant_id = p.id and d.occurrence_id = o.id
        where o.entry_id = $1 and ($2::timestamp is null or o.recurrence = $2)
          and ($3::uuid is null or ${takesPartSql('p', 'd')})
        order by o.gone_at desc nulls last, o.recurrence limit 1`,
      [entryId, recurrence, participantId],
    )
  ).rows[0]?.id ?? null

/**
 * What belongs to a date of a meeting (its agenda, what is said about it, files) is for those who take part in that date, and for
 * whoever may act for its organizer. Throws, as if there were no such meeting, for everybody else. The date is the next
 * one that is theirs, or the one that is named.
 */
export const presentAt = async (
  sql: Sql,
  {
    entryId,
    recurrence = null,
  }: { readonly entryId: string; readonly recurrence?: string | null | undefined },
  who: Asking,
  now: number,
): Promise<Present> => {
  const seenBy = 'personId' in who ? who.personId : who.participantId
  const [meeting] = await readMeetings(sql, [entryId], now, { recurrence, seenBy })
  // What somebody outside organizes is an entry of each who was invited: nothing of it is shared here.
  if (!meeting || meeting.organizerId === null) throw notFound('meeting')
  const isMine = (one: WholeMeeting['participants'][number]) => one.personId === seenBy || one.id === seenBy
  const off = meeting.cancelled && meeting.occurrenceId === null
  if (!off && recurrence !== null && meeting.recurrence !== recurrence) throw notFound('date')
  const mine = (off ? meeting.participants : presentIn(meeting)).find(isMine)
  if (!mine && !('personId' in who && (await mayActOn(sql, meeting, who.personId, now))))
    throw notFound('meeting')
  const occurrenceId = off
    ? await formerDate(sql, entryId, recurrence, mine?.id ?? null)
    : meeting.occurrenceId
  if (!occurrenceId) throw notFound('date')
  return { meeting, occurrenceId, participantId: mine?.id ?? null }
}

/** Where a date is by now, whichever series it belongs to and whatever it is called in it; null where it is none any more. */
export const dateById = async (
  sql: Sql,
  occurrenceId: string,
): Promise<{ entryId: string; recurrence: string } | null> =>
  (
    await sql.query<{ entryId: string; recurrence: string }>(
      `select entry_id as "entryId", ${wallSql('recurrence')} as recurrence from occurrence where id = $1`,
      [occurrenceId],
    )
  ).rows[0] ?? null
