import type { Answer } from '@marmot/core/sharing'
import { noteChange } from '../entries/index.ts'
import { readMeetings, setAnswer } from '../meetings/index.ts'
import { addAnswerNotice } from '../notices/index.ts'
import type { Sql } from '../platform/database.ts'
import { tellMeeting, tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { lockMeeting } from './store.ts'

/** Who answers: a person by their own id, or a participant by theirs (a guest's link, a mail). */
export type Answering = { entryId: string } & (
  | { personId: string /** A stand-in who answers for them. */; actorId?: string }
  | { participantId: string }
)

/**
 * Keeps an answer, however it came, and tells the organizer. The same answer again changes nothing and tells nobody.
 */
export const answerInvitation = async (
  sql: Sql,
  who: Answering,
  given: { answer: Answer; message: string },
  now: number,
): Promise<void> => {
  await lockMeeting(sql, who.entryId)
  const [meeting] = await readMeetings(sql, [who.entryId], now)
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
  if (participant.answer === given.answer && participant.message === given.message) return
  const actorId = 'actorId' in who && who.actorId !== participant.personId ? (who.actorId ?? null) : null
  await setAnswer(sql, participant.id, given.answer, given.message, actorId, now)
  if (actorId && participant.personId)
    await noteChange(
      sql,
      { ownerId: participant.personId, actorId, kind: 'answered', title: meeting.title, entries: [] },
      now,
    )
  await addAnswerNotice(
    sql,
    {
      entryId: who.entryId,
      organizerId: meeting.organizerId,
      participantId: participant.id,
      answer: given.answer,
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
