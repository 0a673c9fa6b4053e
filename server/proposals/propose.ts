import { proposalRefusal } from '@marmot/core/proposals'
import { HOUR, MINUTE, shortTime, zoneTable } from '@marmot/core/time'
import { lockEntry, readMeetings } from '../entries/index.ts'
import { sendBack } from '../letters/index.ts'
import { type Answering, answeringIn, backFrom } from '../meetings/index.ts'
import { addProposalNotice } from '../notices/index.ts'
import type { Sql } from '../platform/database.ts'
import { tellMeeting } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'
import { insertProposal, lastProposal } from './store.ts'

/** Nobody has more other times to propose; whoever does is a program. */
const MOST_AN_HOUR = 10

const REFUSALS = {
  cancelled: 'This meeting was cancelled. There is nothing to propose.',
  over: 'This meeting is over. There is nothing to propose.',
  'in-the-past': 'The proposed time is over. Choose one that is still to come.',
  'no-length': 'The proposed time has to last between a minute and a month.',
  'same-time': 'That is the time that the meeting has.',
  'older-proposal': 'You have proposed another time since, and that one stands.',
} as const

/** Another time, in milliseconds; `stamp` is when it was proposed, by the clock of whoever did. */
interface Proposed {
  readonly start: number
  readonly minutes: number
  readonly message: string
  readonly stamp?: number | null
}

/**
 * Keeps another time that somebody who is invited proposes for a date, however it came, in the place of what they proposed
 * for it before, and tells the organizer. In the caller's transaction; gives its id.
 */
export const propose = async (sql: Sql, who: Answering, given: Proposed, now: number): Promise<string> => {
  await lockEntry(sql, who.entryId)
  const seenBy = 'personId' in who ? who.personId : who.participantId
  const recurrence = who.recurrence ?? null
  const [read] = await readMeetings(sql, [who.entryId], now, { recurrence, seenBy })
  const { meeting, participant } = answeringIn(read, who)
  const { occurrenceId } = meeting
  if (!occurrenceId || !participant.here)
    throw new ProblemError(
      409,
      'no-such-date',
      `"${meeting.title}" has no such date any more. Nothing was proposed.`,
    )
  const proposed = {
    start: given.start,
    end: given.start + given.minutes * MINUTE,
    stamp: given.stamp ?? now,
  }
  const { made, often } = await lastProposal(sql, participant.id, occurrenceId, now - HOUR)
  const refusal = proposalRefusal(proposed, meeting, made, now)
  if (refusal) throw new ProblemError(422, refusal, REFUSALS[refusal])
  if (often >= MOST_AN_HOUR)
    throw new ProblemError(
      429,
      'too-many-proposals',
      'You proposed many times just now. Try again in an hour.',
    )
  const kept = { participantId: participant.id, occurrenceId, ...proposed, message: given.message }
  const id = await insertProposal(sql, kept, now)
  const { organizerId } = meeting
  if (organizerId === null) {
    const date = meeting.repeats || meeting.sourceDates ? meeting.recurrence : null
    const { start, end } = proposed
    for (const back of backFrom(meeting, participant, date, now))
      await sendBack(sql, { ...back, comment: given.message, said: { start, end } })
    if (participant.personId) await tellMeeting(sql, who.entryId, [participant.personId])
    return id
  }
  await addProposalNotice(
    sql,
    {
      entryId: who.entryId,
      organizerId,
      participantId: participant.id,
      recurrence: meeting.repeats ? meeting.recurrence : null,
      words: shortTime(proposed.start, zoneTable(meeting.organizerZone)),
    },
    now,
  )
  await tellMeeting(sql, who.entryId, [organizerId, ...(participant.personId ? [participant.personId] : [])])
  return id
}
