import type { Meeting } from '@marmot/contract/meetings'
import { readMeetings, repeatsInWords, type WholeMeeting } from '../entries/index.ts'
import { type LetterState, letterKey, lettersOf, readerOf } from '../letters/index.ts'
import { type Sql, together } from '../platform/database.ts'

/** A meeting as a participant gets it: what somebody wrote with an answer is for the organizer alone. */
const meetingFor = (
  meeting: WholeMeeting,
  viewerId: string,
  letters: ReadonlyMap<string, LetterState>,
): Meeting => {
  const iOrganize = meeting.organizerId === viewerId
  return {
    ...meeting,
    start: new Date(meeting.start).toISOString(),
    end: new Date(meeting.end).toISOString(),
    places: meeting.places.map(({ id, name, siteId }) => ({ id, name, siteId })),
    iOrganize,
    recurrence: meeting.repeats ? meeting.recurrence : null,
    series: repeatsInWords(meeting),
    myAnswer: meeting.participants.find((participant) => participant.personId === viewerId)?.answer ?? null,
    participants: meeting.participants.map((participant) => ({
      ...participant,
      ...(letters.get(letterKey(meeting.entryId, readerOf(participant))) ?? {
        mail: 'none',
        mailMethod: null,
      }),
      message: iOrganize || participant.personId === viewerId ? participant.message : '',
      answeredAt: participant.answeredAt?.toISOString() ?? null,
      seenAt: participant.seenAt?.toISOString() ?? null,
    })),
  }
}

/** Meetings as a participant gets them, each at its next date, or at the one that is named. */
export const meetingsFor = async (
  sql: Sql,
  entryIds: readonly string[],
  viewerId: string,
  now: number,
  recurrence: string | null = null,
): Promise<Meeting[]> => {
  const [meetings, letters] = await together([
    readMeetings(sql, entryIds, now, { recurrence }),
    lettersOf(sql, entryIds),
  ])
  return meetings.map((meeting) => meetingFor(meeting, viewerId, letters))
}
