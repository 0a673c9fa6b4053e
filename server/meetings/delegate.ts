import { delegationRefusal } from '@marmot/core/invitations'
import {
  insertParticipants,
  lockEntry,
  nextVersion,
  noteAsked,
  noteDelegated,
  presentIn,
  putParticipantsOn,
  readMeetings,
  writeOccurrences,
} from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { peopleByIds } from '../people/index.ts'
import type { Sql } from '../platform/database.ts'
import { tellMeeting, tellTime } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'
import { type Answering, answerInvitation, answeringIn } from './answers.ts'
import { type Chosen, whomToInvite } from './whom.ts'

const REFUSALS = {
  cancelled: 'This meeting was cancelled. There is nothing to pass on.',
  'to-oneself': 'You cannot pass an invitation on to yourself.',
  'takes-part-already': 'They take part already. Nothing was passed on.',
  'passed-on-already': 'You have passed this on already. Ask the organizer to change that.',
  'too-many-hands': 'This was passed on too often. Ask the organizer to invite them.',
} as const

/** To whom an invitation is passed on: one colleague, or one address. */
export type Delegate = Chosen

/**
 * Passes an invitation on, to all dates or to one: both stand in the list, the organizer is told, and whoever it is passed
 * on to is owed an invitation of their own. In the caller's transaction.
 */
export const delegate = async (
  sql: Sql,
  who: Answering,
  to: Delegate,
  given: { message: string; stamp?: number | null; version?: number | null },
  { now, momentMs }: { now: number; momentMs: number },
): Promise<void> => {
  await lockEntry(sql, who.entryId)
  const [read] = await readMeetings(sql, [who.entryId], now, { recurrence: who.recurrence ?? null })
  const { meeting, participant, recurrence } = answeringIn(read, who)
  // The organizer stands in the list, too, and so is refused like whoever takes part.
  const [invited] = await whomToInvite(sql, to, null)
  if (!invited) throw new Error('an invitation is passed on to somebody')
  const [colleague] = invited.personId ? await peopleByIds(sql, [invited.personId]) : []
  const address = colleague?.address ?? invited.address ?? ''
  const refusal = delegationRefusal(participant.address, address, meeting)
  if (refusal) throw new ProblemError(409, refusal, REFUSALS[refusal])
  const message = [`Passed on to ${colleague?.name ?? (invited.name || address)}.`, given.message]
    .filter(Boolean)
    .join(' ')
    .slice(0, 2000)
  if (meeting.organizerId === null) {
    // Whoever organizes it elsewhere invites whom it was passed on to.
    await answerInvitation(sql, who, { ...given, answer: 'delegated', message, delegate: address }, now)
    return
  }
  const fresh = { ...invited, required: participant.required }
  if (recurrence === null)
    await insertParticipants(sql, who.entryId, [{ ...fresh, everyDate: participant.everyDate }])
  else {
    const here = presentIn(meeting).filter((one) => !one.organizer)
    const staying = here.map(({ personId, address, guestName, required }) => ({
      personId,
      address: personId === null ? address : null,
      name: guestName,
      required,
    }))
    await putParticipantsOn(sql, who.entryId, recurrence, [...staying, fresh])
  }
  await noteDelegated(sql, participant.id, invited)
  await writeOccurrences(sql, who.entryId, now)
  await nextVersion(sql, who.entryId)
  if (recurrence !== null) await noteAsked(sql, who.entryId)
  await answerInvitation(sql, who, { ...given, answer: 'delegated', message }, now)
  const people = [...meeting.participants, invited].flatMap((one) => one.personId ?? [])
  await tellTime(sql, people)
  await tellMeeting(sql, who.entryId, people)
  await oweLetters(sql, who.entryId, { actorId: null, momentMs, now })
}
