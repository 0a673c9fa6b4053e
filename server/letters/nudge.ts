import { randomUUID } from 'node:crypto'
import { mayNudge, NUDGE_EVERY } from '@marmot/core/invitations'
import { isOver } from '@marmot/core/letters'
import { lockCounts, presentIn, readMeetings } from '../entries/index.ts'
import { addMeetingNotices } from '../notices/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { meetingChanged, tell, timeChanged } from '../platform/live.ts'
import { isOwed, sendLetters } from './owed.ts'
import { insertLetters, letterKey, type NewLetter, nudgedIn, readerKey, readerOf, readLast } from './store.ts'

/** Whom to nudge about a meeting, on a date of a series; everybody without `participantIds`. */
export interface Nudging {
  readonly recurrence: string | null
  readonly participantIds: readonly string[] | null
  /** A stand-in who asks in the organizer's name. */
  readonly actorId: string | null
  readonly now: number
}

/** Who was asked once more, and who was asked so lately that they are left in peace, by name. */
export interface Nudged {
  readonly nudged: string[]
  readonly lately: string[]
}

/**
 * Writes to those who have not answered and asks them once more, in the caller's transaction. What they are told is what
 * they were told (RFC 5546 section 3.2.2: the same SEQUENCE); whoever is owed something new gets that instead.
 */
export const nudge = async (
  sql: Sql,
  entryId: string,
  { recurrence, participantIds, actorId, now }: Nudging,
): Promise<Nudged> => {
  const [counts, last, [meeting], nudgedAt] = await together([
    lockCounts(sql, entryId),
    readLast(sql, entryId),
    readMeetings(sql, [entryId], now, { recurrence }),
    nudgedIn(sql, [entryId]),
  ])
  if (!counts || !meeting?.rsvp || meeting.cancelled || meeting.end <= now) return { nudged: [], lately: [] }
  const lastOf = new Map(last.map((one) => [readerKey(one), one]))
  const asked = presentIn(meeting).flatMap((participant) => {
    const reader = readerOf(participant)
    const known = lastOf.get(readerKey(reader))
    if (participant.organizer || (participantIds && !participantIds.includes(participant.id))) return []
    if (participant.answer !== 'needs-action' || !known?.told || isOver(known.told, now)) return []
    if (isOwed(meeting, participant, known, now)) return []
    const before = nudgedAt.get(letterKey(entryId, reader)) ?? null
    return [{ participant, reader, known, soon: !mayNudge(before, now) }]
  })
  const due = asked.filter((one) => !one.soon)
  const letters = due.map(({ participant, reader, known }): NewLetter => {
    // Who has answered to the others is asked about the date that they have not answered to.
    const date = meeting.repeats && participant.seriesAnswer !== 'needs-action' ? meeting.recurrence : null
    return {
      ...reader,
      id: randomUUID(),
      number: known.number + 1,
      method: 'REQUEST',
      recurrence: date,
      required: participant.required,
      aboutId: known.toldId ?? '',
      beforeId: null,
      asksAgain: false,
      reason: '',
      nudges: { from: now, to: now + NUDGE_EVERY },
      toldId: known.toldId,
    }
  })
  const people = meeting.participants.flatMap((one) => one.personId ?? [])
  await together([
    insertLetters(sql, { entryId, ...counts }, letters, actorId, now),
    sendLetters(
      sql,
      letters.map((letter) => letter.id),
    ),
    addMeetingNotices(
      sql,
      entryId,
      letters.flatMap((letter) =>
        letter.personId
          ? [{ personId: letter.personId, kind: 'nudged' as const, recurrence: letter.recurrence, words: '' }]
          : [],
      ),
      actorId,
      now,
    ),
    tell(sql, [...meetingChanged(entryId, people), ...timeChanged(people)]),
  ])
  return {
    nudged: due.map((one) => one.participant.name),
    lately: asked.filter((one) => one.soon).map((one) => one.participant.name),
  }
}
