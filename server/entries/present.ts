import type { Sql } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
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

/** The date that a meeting had which was cancelled: what was planned and said stays there for those who were to come. */
const formerDate = async (
  sql: Sql,
  { entryId, cancelled }: Pick<WholeMeeting, 'entryId' | 'cancelled'>,
): Promise<string | null> =>
  cancelled
    ? ((
        await sql.query<{ id: string }>(
          'select id from occurrence where entry_id = $1 order by gone_at desc nulls last, recurrence limit 1',
          [entryId],
        )
      ).rows[0]?.id ?? null)
    : null

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
  const occurrenceId = meeting.occurrenceId ?? (await formerDate(sql, meeting))
  if (!occurrenceId) throw notFound('meeting')
  if (recurrence !== null && meeting.occurrenceId && meeting.recurrence !== recurrence) throw notFound('date')
  const mine = presentIn(meeting).find((one) => one.personId === seenBy || one.id === seenBy)
  if (!mine && !('personId' in who && (await mayActOn(sql, meeting, who.personId, now))))
    throw notFound('meeting')
  return { meeting, occurrenceId, participantId: mine?.id ?? null }
}
