import type { conferenceEvent, SeatReport } from '@marmot/contract/conferences'
import { attendedIn, canJoin } from '@marmot/core/conferences'
import { HOUR } from '@marmot/core/time'
import type { z } from 'zod'
import { type Conference, listenersIn, type Present } from '../entries/index.ts'
import type { Sql } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { aboutEntry, tell, tellCalls } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { type ConferenceService, dial, linkFor, makeRoom } from './service.ts'
import {
  calledSince,
  calledTo,
  dateOfRoom,
  endCallsOf,
  insertCalls,
  insertDialled,
  putSeat,
  type RoomDate,
  readSeats,
} from './store.ts'

/** Where the service reports who came and went. */
const reportsTo = ({ url }: Pick<House, 'url'>): string => `${url()}/api/conferences/seats`

/** The conference service; throws where there is none. */
export const serviceOf = ({ settings }: Pick<House, 'settings'>): ConferenceService => {
  if (settings.conference) return settings.conference
  throw new ProblemError(
    422,
    'no-conferences',
    'No conference service is set up here, so there is no link to join by. Nothing was changed.',
  )
}

/**
 * How one joins a meeting from afar, as the service gives it. Where it does not answer in time there is a room without a
 * link, and the link follows by itself. Asked for before the transaction in which it is kept: nothing that others have to
 * answer is waited for in one.
 */
export const conferenceFor = async (
  house: Pick<House, 'settings' | 'url'>,
  room: string,
  title: string,
): Promise<Conference> => {
  const service = serviceOf(house)
  try {
    return { room, ...(await makeRoom(service, room, { title, reports: reportsTo(house) })) }
  } catch {
    return { room, link: '', telephone: '', code: '' }
  }
}

/** Says, when the transaction commits, that somebody came into a meeting or left it. */
const tellConference = async (sql: Sql, entryId: string): Promise<void> => {
  const events: z.input<typeof conferenceEvent>[] = aboutEntry(
    'conference',
    entryId,
    await listenersIn(sql, entryId),
  )
  await tell(sql, events)
}

/** The conference of a meeting that one can join just now. Throws where it has none, or is not on. */
export const mustBeOn = async (
  sql: Sql,
  { meeting, occurrenceId }: Present,
  now: number,
): Promise<Conference> => {
  const { conference } = meeting
  if (!conference?.link)
    throw new ProblemError(
      409,
      'no-link',
      'This meeting has no link to join by, or none yet. Try again in a moment.',
    )
  const there = (await readSeats(sql, occurrenceId)).filter((one) => one.left === null).length
  if (meeting.cancelled) throw new ProblemError(409, 'not-now', 'This meeting was cancelled.')
  if (!canJoin(meeting, now, there))
    throw new ProblemError(
      409,
      'not-now',
      meeting.start > now ? 'One can join ten minutes before it begins.' : 'This meeting is over.',
    )
  return conference
}

/** The address under which somebody who is present at a date joins it by their own name. */
export const joinAs = async (
  house: Pick<House, 'settings'>,
  sql: Sql,
  present: Present,
  name: string,
  now: number,
): Promise<string> =>
  linkFor(serviceOf(house), await mustBeOn(sql, present, now), { participant: present.participantId, name })

/** Who is at a date of a meeting, who was, and who is being called. */
export const recordAt = async (sql: Sql, { occurrenceId }: Present, now: number) => {
  const seats = await readSeats(sql, occurrenceId)
  const attended = attendedIn(
    seats.map((one) => ({ ...one, who: one.participantId ?? `${one.via} ${one.name}` })),
    now,
  )
  return {
    attended: attended.map(({ name, from, until, seconds }) => ({
      name,
      from: new Date(from).toISOString(),
      until: until === null ? null : new Date(until).toISOString(),
      seconds,
    })),
    called: await calledTo(sql, occurrenceId, now),
  }
}

/** Nobody calls so many within an hour. */
const MOST_CALLS = 100

const mayCall = async (sql: Sql, actorId: string, now: number): Promise<void> => {
  if ((await calledSince(sql, actorId, now - HOUR)) >= MOST_CALLS)
    throw new ProblemError(
      429,
      'too-many-calls',
      'You have called very many within an hour. Nobody was called; try again a little later.',
    )
}

/** Has the service ring a telephone, whose bearer comes into a meeting by answering. */
export const dialTo = async (
  house: Pick<House, 'settings'>,
  sql: Sql,
  date: RoomDate & { readonly room: string },
  number: string,
  actorId: string,
  now: number,
): Promise<void> => {
  await mayCall(sql, actorId, now)
  await dial(serviceOf(house), date.room, number)
  await insertDialled(sql, date.occurrenceId, number, actorId, now)
  await tellConference(sql, date.entryId)
}

/** Calls people to a date on their screens. */
export const callTo = async (
  sql: Sql,
  date: RoomDate,
  people: readonly string[],
  actorId: string,
  now: number,
): Promise<void> => {
  if (people.length === 0) return
  await mayCall(sql, actorId, now)
  await insertCalls(sql, date.occurrenceId, people, actorId, now)
  await tellCalls(sql, people)
  await tellConference(sql, date.entryId)
}

/** Takes in what the service reports of a stay. Its clock is held against ours by when it says that it is now. */
export const takeReport = async (sql: Sql, report: SeatReport, now: number): Promise<void> => {
  const ahead = now - Date.parse(report.now)
  const joined = Date.parse(report.joined) + ahead
  const date = await dateOfRoom(sql, report.room, joined)
  if (!date) throw notFound('room')
  const left = report.left === null ? null : Math.max(joined, Date.parse(report.left) + ahead)
  const seat = { ...report, participantId: report.participant, joined, left }
  await putSeat(sql, date, seat)
  const rang = await endCallsOf(sql, date.occurrenceId, seat, now)
  if (rang.length) await tellCalls(sql, rang)
  await tellConference(sql, date.entryId)
}
