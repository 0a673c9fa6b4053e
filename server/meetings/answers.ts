import { lateRefusal } from '@marmot/core/invitations'
import type { SentBack } from '@marmot/core/letters'
import type { Answer } from '@marmot/core/sharing'
import { HOUR, type Instant, wallFromText } from '@marmot/core/time'
import {
  answeredAt,
  lockEntry,
  noteChange,
  readMeetings,
  setAnswer,
  setAnswerOn,
  type WholeMeeting,
} from '../entries/index.ts'
import { sendBack } from '../letters/index.ts'
import { addAnswerNotice, answersSince } from '../notices/index.ts'
import type { Sql } from '../platform/database.ts'
import { tellMeeting, tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'

/** Who answers: a person by their own id, or a participant by theirs (a guest's link, a mail). */
export type Answering = {
  entryId: string /** The one date of a series that it is for; all without. */
  recurrence?: string | null
} & (
  | { personId: string /** A stand-in who answers for them. */; actorId?: string }
  | { participantId: string }
)

/** Nobody changes their mind more often; whoever does is a program. */
const MOST_AN_HOUR = 20

/** The date an answer is for, when it is for one; null for all of them, and for a single meeting. Throws when there is none such. */
const dateOf = (
  meeting: WholeMeeting,
  { here }: WholeMeeting['participants'][number],
  recurrence: string | null | undefined,
): string | null => {
  if (!recurrence || !meeting.repeats) return null
  if (meeting.recurrence !== recurrence || meeting.cancelledDates.includes(recurrence) || !here)
    throw new ProblemError(
      409,
      'no-such-date',
      `"${meeting.title}" has no such date any more. Nothing was answered.`,
    )
  return recurrence
}

/** Who of a meeting answers, and for which date, null for all. Throws when there is nothing for them to answer. */
export const answeringIn = (meeting: WholeMeeting | undefined, who: Answering) => {
  const participant = meeting?.participants.find((one) =>
    'personId' in who ? one.personId === who.personId : one.id === who.participantId,
  )
  if (!meeting || !participant) throw notFound('invitation')
  if (participant.organizer)
    throw new ProblemError(409, 'is-organizer', 'You organize this meeting; there is nothing to answer.')
  if (meeting.cancelled)
    throw new ProblemError(
      409,
      'cancelled',
      `${meeting.organizer} has cancelled "${meeting.title}". There is nothing to answer.`,
    )
  return { meeting, participant, recurrence: dateOf(meeting, participant, who.recurrence) }
}

/** What goes back to whoever organizes a meeting elsewhere: for one date, for all, or for each of those that were named. */
export const backFrom = (
  meeting: WholeMeeting,
  { name, address }: WholeMeeting['participants'][number],
  recurrence: string | null,
  now: number,
): Omit<SentBack, 'said' | 'comment'>[] => {
  const named = meeting.sourceDates ? [meeting.starts, ...meeting.added] : [null]
  return (recurrence === null ? named : [recurrence]).map((wall) => ({
    uid: meeting.sourceUid ?? meeting.uid,
    sequence: meeting.sourceSequence,
    stamp: now,
    title: meeting.title,
    organizer: { name: meeting.organizer, address: meeting.organizerAddress },
    attendee: { name, address },
    date: wall === null ? null : { recurrence: wallFromText(wall) ?? 0, zone: meeting.zone },
  }))
}

/** Sends an answer to whoever organizes a meeting elsewhere. */
const answerBack = async (
  sql: Sql,
  meeting: WholeMeeting,
  participant: WholeMeeting['participants'][number],
  given: {
    readonly recurrence: string | null
    readonly answer: Answer
    readonly message: string
    readonly delegate: string | null
  },
  now: number,
): Promise<void> => {
  const { answer, delegate, message } = given
  for (const back of backFrom(meeting, participant, given.recurrence, now))
    await sendBack(sql, { ...back, comment: message, said: { answer, delegate } })
}

/** Throws where a meeting's time was changed, or somebody answered, after an answer was given that comes only now. */
const refuseLate = async (
  sql: Sql,
  meeting: WholeMeeting,
  { id, ownAnswer }: WholeMeeting['participants'][number],
  recurrence: string | null,
  late: { readonly given: Instant; readonly version: number },
): Promise<void> => {
  const answered = await answeredAt(sql, id, meeting.entryId, recurrence)
  const refusal = lateRefusal(late, meeting.askedVersion, answered)
  if (refusal === 'moved-meanwhile')
    throw new ProblemError(
      409,
      refusal,
      `The time of "${meeting.title}" was changed after you answered. Your answer was not sent; answer again.`,
      { more: { start: new Date(meeting.start).toISOString(), end: new Date(meeting.end).toISOString() } },
    )
  if (refusal === 'answered-meanwhile')
    throw new ProblemError(
      409,
      refusal,
      `You answered "${meeting.title}" once more later, and that answer stands. The earlier one was not sent.`,
      { more: { answer: ownAnswer } },
    )
}

/**
 * Keeps an answer, however it came, to one date or to all, and tells the organizer. The same answer to the same time again
 * changes nothing and tells nobody. `stamp` is when it was given, by the giver's clock; `quiet` keeps it from the organizer; `version` is what of the meeting the giver had
 * seen, where that is not as it is now; `late` of one that was given without a connection, which is refused where something
 * else became of it meanwhile.
 */
export const answerInvitation = async (
  sql: Sql,
  who: Answering,
  given: {
    answer: Answer
    message: string
    stamp?: number | null
    version?: number | null
    quiet?: boolean
    late?: { readonly given: Instant; readonly version: number } | null
    /** To whose address it is passed on, where somebody outside has to be told that. */
    delegate?: string | null
  },
  now: number,
): Promise<void> => {
  await lockEntry(sql, who.entryId)
  const [read] = await readMeetings(sql, [who.entryId], now, { recurrence: who.recurrence ?? null })
  const { meeting, participant, recurrence } = answeringIn(read, who)
  const { quiet = false } = given
  // For all dates the same answer may still change a date that had another.
  if (
    (recurrence !== null || !meeting.repeats) &&
    participant.answeredVersion >= meeting.askedVersion &&
    participant.ownAnswer === given.answer &&
    participant.quiet === quiet &&
    (quiet || participant.message === given.message)
  )
    return
  if (given.late) await refuseLate(sql, meeting, participant, recurrence, given.late)
  if ((await answersSince(sql, participant.id, now - HOUR)) >= MOST_AN_HOUR)
    throw new ProblemError(
      429,
      'too-many-answers',
      'This was answered too often just now. Try again in an hour.',
    )
  const actorId = 'actorId' in who && who.actorId !== participant.personId ? (who.actorId ?? null) : null
  const { answer, message } = given
  const kept = {
    answer,
    message,
    answeredBy: actorId,
    stamp: given.late ? Math.min(given.late.given, now) : (given.stamp ?? now),
    now,
    version: given.version ?? meeting.version,
    quiet,
  }
  if (recurrence === null) await setAnswer(sql, participant.id, kept)
  else await setAnswerOn(sql, participant.id, who.entryId, recurrence, kept)
  if (actorId && participant.personId)
    await noteChange(
      sql,
      { ownerId: participant.personId, actorId, kind: 'answered', title: meeting.title, entries: [] },
      now,
    )
  if (quiet) {
    if (participant.personId) {
      await tellTime(sql, [participant.personId])
      await tellMeeting(sql, who.entryId, [participant.personId])
    }
    return
  }
  if (meeting.organizerId === null) {
    await answerBack(
      sql,
      meeting,
      participant,
      { recurrence, answer, message, delegate: given.delegate ?? null },
      now,
    )
    if (participant.personId) {
      await tellTime(sql, [participant.personId])
      await tellMeeting(sql, who.entryId, [participant.personId])
    }
    return
  }
  await addAnswerNotice(
    sql,
    {
      entryId: who.entryId,
      organizerId: meeting.organizerId,
      participantId: participant.id,
      answer: given.answer,
      recurrence,
    },
    now,
  )
  if (participant.personId) await tellTime(sql, [participant.personId])
  await tellMeeting(
    sql,
    who.entryId,
    meeting.participants.flatMap((one) => one.personId ?? []),
  )
}
