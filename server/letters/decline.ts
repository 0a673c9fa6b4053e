import { randomUUID } from 'node:crypto'
import { lockCounts, type WholeMeeting } from '../entries/index.ts'
import { addMeetingNotices } from '../notices/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { sendLetters } from './owed.ts'
import { insertLetters, lettersTo, readerOf } from './store.ts'

/** A proposal that is declined: whose, for which date of a series, for which time, and what is said with it. */
interface Declined {
  readonly participant: WholeMeeting['participants'][number]
  readonly recurrence: string | null
  readonly proposed: { readonly start: number; readonly end: number }
  readonly words: string
}

/**
 * Writes to whoever proposed another time that the meeting keeps the one it has (RFC 5546 section 3.2.8), in the caller's
 * transaction. It tells nothing of the meeting that was not told before.
 */
export const declineCounter = async (
  sql: Sql,
  entryId: string,
  { participant, recurrence, proposed, words }: Declined,
  actorId: string | null,
  now: number,
): Promise<void> => {
  const counts = await lockCounts(sql, entryId)
  const reader = readerOf(participant)
  const { number, toldId } = await lettersTo(sql, entryId, reader)
  // Whoever never had a letter proposed on the screen, within the moment in which nobody is told.
  if (!counts || toldId === null) return
  const id = randomUUID()
  await together([
    insertLetters(
      sql,
      { entryId, ...counts },
      [
        {
          ...reader,
          id,
          number: number + 1,
          method: 'DECLINECOUNTER',
          recurrence,
          required: participant.required,
          aboutId: toldId,
          beforeId: null,
          asksAgain: false,
          reason: words,
          nudges: null,
          proposed,
          toldId: null,
        },
      ],
      actorId,
      now,
    ),
    sendLetters(sql, [id]),
    addMeetingNotices(
      sql,
      entryId,
      reader.personId ? [{ personId: reader.personId, kind: 'kept', recurrence, words }] : [],
      actorId,
      now,
    ),
  ])
}
