import { proposalRefusal } from '@marmot/core/proposals'
import { HOUR, MINUTE, shortTime, zoneTable } from '@marmot/core/time'
import { lockEntry, readMeetings } from '../entries/index.ts'
import { sendBack } from '../letters/index.ts'
import { type Answering, answeringIn, backFrom } from '../meetings/index.ts'
import { addProposalNotice } from '../notices/index.ts'
import type { Sql } from '../platform/database.ts'
import { tellMeeting } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { findPlaces, requestedDate } from '../reservations/index.ts'
import { insertProposal, lastProposal } from './store.ts'

/** Nobody has more other times to propose; whoever does is a program. A steward has as many as are asked of their place. */
const MOST_AN_HOUR = 10
const MOST_AN_HOUR_OF_A_PLACE = 100

const tooOften = () =>
  new ProblemError(429, 'too-many-proposals', 'You proposed many times just now. Try again in an hour.')

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
  const { made, often } = await lastProposal(sql, { participantId: participant.id }, occurrenceId, now - HOUR)
  const refusal = proposalRefusal(proposed, meeting, made, now)
  if (refusal) throw new ProblemError(422, refusal, REFUSALS[refusal])
  if (often >= MOST_AN_HOUR) throw tooOften()
  const kept = { occurrenceId, ...proposed, message: given.message }
  const id = await insertProposal(sql, { participantId: participant.id }, kept, now)
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
      by: { participantId: participant.id },
      recurrence: meeting.repeats ? meeting.recurrence : null,
      words: shortTime(proposed.start, zoneTable(meeting.organizerZone)),
    },
    now,
  )
  await tellMeeting(sql, who.entryId, [organizerId, ...(participant.personId ? [participant.personId] : [])])
  return id
}

/**
 * Keeps another time at which a steward would have a date that their place is asked for, in the place of what they proposed for
 * it before, and tells whoever asks. The place can be had then, by its rules and by whoever has it. In the caller's transaction;
 * gives its id.
 */
export const proposeInstead = async (
  sql: Sql,
  asked: { readonly entryId: string; readonly resourceId: string; readonly stewardId: string },
  given: Proposed & { readonly recurrence: string | null },
  now: number,
): Promise<string> => {
  const { entryId, resourceId, stewardId } = asked
  await lockEntry(sql, entryId)
  const date = await requestedDate(sql, asked, given.recurrence, now)
  const [meeting] = date
    ? await readMeetings(sql, [entryId], now, { recurrence: date.recurrence, seenBy: date.ownerId })
    : []
  if (!date || !meeting?.organizerZone) throw notFound('request to you')
  const proposed = { start: given.start, end: given.start + given.minutes * MINUTE, stamp: now }
  const who = { resourceId, stewardId }
  const { often } = await lastProposal(sql, who, date.occurrenceId, now - HOUR)
  const refusal = proposalRefusal(proposed, { ...date, cancelled: meeting.cancelled }, null, now)
  if (refusal) throw new ProblemError(422, refusal, REFUSALS[refusal])
  if (often >= MOST_AN_HOUR_OF_A_PLACE) throw tooOften()
  const span = { start: proposed.start, end: proposed.end }
  const dates = [{ placeIds: [resourceId], span, recurrence: date.recurrence }]
  const wanted = { dates, askerId: date.ownerId, viewerId: stewardId, zone: meeting.organizerZone }
  await findPlaces(sql, wanted, now, entryId)
  const kept = { occurrenceId: date.occurrenceId, ...proposed, message: given.message }
  const id = await insertProposal(sql, who, kept, now)
  await addProposalNotice(
    sql,
    {
      entryId,
      organizerId: date.ownerId,
      by: { personId: stewardId },
      recurrence: meeting.repeats ? date.recurrence : null,
      words: `${shortTime(proposed.start, zoneTable(meeting.organizerZone))} in ${date.place}`,
    },
    now,
  )
  await tellMeeting(sql, entryId, [date.ownerId, stewardId])
  return id
}
