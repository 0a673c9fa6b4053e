import { createHash } from 'node:crypto'
import type { Meeting, Participant } from '@marmot/contract/meetings'
import { isAnswer, type Level } from '@marmot/core/sharing'
import {
  mayActOn,
  newestChange,
  presentIn,
  readMeetings,
  repeatsInWords,
  type WholeMeeting,
} from '../entries/index.ts'
import { type LetterState, letterKey, lettersOf, nudgedIn, readerOf, tellsIn } from '../letters/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { levelsFor } from '../sharing/index.ts'

/** What only some get of a meeting. */
interface Besides {
  readonly letters: ReadonlyMap<string, LetterState>
  readonly nudges: ReadonlyMap<string, number>
  readonly mayChange: boolean
  readonly untold: Meeting['untold']
}

const instantIn = (ms: number | undefined): string | null =>
  ms === undefined ? null : new Date(ms).toISOString()

/** The same id for the same address in the same meeting. */
const idOf = (entryId: string, address: string): string => {
  const hex = createHash('sha256').update(`${entryId} ${address}`).digest('hex')
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-8${hex.slice(13, 16)}-8${hex.slice(17, 20)}-${hex.slice(20, 32)}`
}

/** Of a meeting from outside, whoever else is in it, as the organizer says. */
const outsideIn = ({ entryId, contacts, participants }: WholeMeeting): Participant[] => {
  const ours = new Set(participants.map((one) => one.address))
  // Whoever organizes it is often among those invited, too.
  const organizers = new Set(contacts.flatMap((one) => (one.organizer ? one.address : [])))
  return contacts
    .filter((one) => !ours.has(one.address) && (one.organizer || !organizers.has(one.address)))
    .map((one) => ({
      id: idOf(entryId, one.address),
      personId: null,
      name: one.name || one.address,
      address: one.address,
      zone: null,
      required: one.required,
      organizer: one.organizer,
      everyDate: true,
      delegatedFrom: null,
      answer: isAnswer(one.answer) ? one.answer : 'needs-action',
      message: '',
      answeredAt: null,
      answeredBy: null,
      seenAt: null,
      mail: 'none',
      mailMethod: null,
      nudgedAt: null,
    }))
}

/** A meeting as somebody gets it: what was written with an answer is for the organizer, and whoever stands in for them. */
const meetingFor = (
  meeting: WholeMeeting,
  viewerId: string,
  { letters, nudges, mayChange, untold }: Besides,
): Meeting => {
  const mine = meeting.participants.find((participant) => participant.personId === viewerId)
  const told = (participant: WholeMeeting['participants'][number]): Participant => ({
    ...participant,
    answer: participant === mine ? participant.ownAnswer : participant.answer,
    ...(letters.get(letterKey(meeting.entryId, readerOf(participant))) ?? {
      mail: 'none',
      mailMethod: null,
    }),
    nudgedAt: instantIn(nudges.get(letterKey(meeting.entryId, readerOf(participant)))),
    message: mayChange || participant.personId === viewerId ? participant.message : '',
    answeredAt: participant.answeredAt?.toISOString() ?? null,
    seenAt: participant.seenAt?.toISOString() ?? null,
  })
  // Who was asked to one date alone sees a meeting that does not repeat, and nothing of its other dates.
  const everyDate = mine?.everyDate ?? true
  const repeats = meeting.repeats && (everyDate || mine?.otherwise.length !== 1)
  return {
    ...meeting,
    start: new Date(meeting.start).toISOString(),
    end: new Date(meeting.end).toISOString(),
    places: meeting.places.map(({ id, name, siteId, requested }) => ({ id, name, siteId, requested })),
    outdoors: meeting.outdoorsSaid ?? meeting.places.find((place) => place.outdoors)?.siteId ?? null,
    // A hold with its places is one's own, too; nobody is told of it.
    alone: meeting.placed && meeting.participants.every((one) => one.organizer),
    iOrganize: meeting.organizerId === viewerId,
    mayChange,
    contact: mayChange ? meeting.contact : null,
    untold,
    // Kept also where a series only ends sooner: that is in the letters of those who had the later dates.
    cancelReason: meeting.cancelled ? meeting.cancelReason : '',
    repeats,
    recurrence: repeats ? meeting.recurrence : null,
    series: everyDate ? repeatsInWords(meeting) : [],
    myAnswer: mine?.ownAnswer ?? null,
    answeredQuietly: mine?.quiet ?? false,
    participants: [...outsideIn(meeting), ...presentIn(meeting).map(told)],
    elsewhere: everyDate ? meeting.participants.filter((one) => !one.here).map(told) : [],
  }
}

/** Meetings as somebody gets them, each at its next date, or at the one that is named. */
export const meetingsFor = async (
  sql: Sql,
  entryIds: readonly string[],
  viewerId: string,
  now: number,
  recurrence: string | null = null,
): Promise<Meeting[]> => {
  const [meetings, letters, nudges, waits] = await together([
    readMeetings(sql, entryIds, now, { recurrence, seenBy: viewerId }),
    lettersOf(sql, entryIds),
    nudgedIn(sql, entryIds),
    tellsIn(sql, entryIds),
  ])
  const organizers = [...new Set(meetings.flatMap((one) => one.organizerId ?? []))].filter(
    (id) => id !== viewerId,
  )
  const levels = organizers.length ? await levelsFor(sql, viewerId, organizers, now) : NOBODY
  return Promise.all(
    meetings.map(async (meeting) => {
      const { entryId, organizerId } = meeting
      const mayChange =
        organizerId === viewerId ||
        (organizerId !== null &&
          levels.get(organizerId)?.does === 'stand-in' &&
          (await mayActOn(sql, meeting, viewerId, now)))
      const ms = mayChange ? waits.get(entryId) : undefined
      const untold =
        ms === undefined
          ? null
          : { ms, changeId: await newestChange(sql, entryId, meeting.version, viewerId) }
      return meetingFor(meeting, viewerId, { letters, nudges, mayChange, untold })
    }),
  )
}

const NOBODY: ReadonlyMap<string, Level> = new Map()
