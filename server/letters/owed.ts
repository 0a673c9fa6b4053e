import { randomUUID } from 'node:crypto'
import { countsOn, isOver, type Owed, owedTo, type Told } from '@marmot/core/letters'
import {
  askAnswersAgain,
  lockCounts,
  nextSequence,
  readMeetings,
  type WholeMeeting,
} from '../entries/index.ts'
import { addMeetingNotices } from '../notices/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { addJob, addJobs, type NewJob } from '../platform/jobs.ts'
import { meetingChanged, tell, timeChanged } from '../platform/live.ts'
import {
  insertLetters,
  insertTelling,
  type LastLetter,
  type NewLetter,
  type Reader,
  readerKey,
  readerOf,
  takeBackUntried,
} from './store.ts'

/** The job that writes what is owed, once the moment in which a change can be taken back is over. */
export const OWED_TASK = 'write-letters'
/** The job that sends letters that are written. */
export const SEND_TASK = 'send-invitation'
/** Attendees are read once for so many letters; more would be out of date by the time that the last one leaves. */
const LETTERS_A_JOB = 10

type Participant = WholeMeeting['participants'][number]

/** What somebody who takes part would be told of a meeting as it is now; null when there is nothing left of it. */
const truthFor = (meeting: WholeMeeting, participant: Participant): Told | null =>
  meeting.cancelled
    ? null
    : {
        title: meeting.usualTitle,
        note: meeting.usualNote,
        place: meeting.usualPlace,
        zone: meeting.zone,
        starts: meeting.starts,
        minutes: meeting.minutes,
        rule: meeting.rule,
        added: meeting.added,
        excepted: meeting.excepted,
        changes: meeting.changes,
        cancelled: meeting.cancelledDates,
        required: participant.required,
      }

/** One reader of letters about a meeting: what they were told last, and what is true for them now. */
interface Case {
  readonly reader: Reader
  readonly participant: Participant | null
  readonly last: LastLetter | null
  readonly now: Told | null
}

const casesOf = (meeting: WholeMeeting | undefined, last: readonly LastLetter[]): Case[] => {
  const lastOf = new Map(last.map((one) => [readerKey(one), one]))
  const asked = (meeting?.participants ?? []).filter((one) => !one.organizer)
  const cases = asked.map((participant): Case => {
    const reader = readerOf(participant)
    const before = lastOf.get(readerKey(reader)) ?? null
    lastOf.delete(readerKey(reader))
    return { reader, participant, last: before, now: meeting ? truthFor(meeting, participant) : null }
  })
  const letOff = [...lastOf.values()].map(
    (one): Case => ({ reader: one, participant: null, last: one, now: null }),
  )
  return [...cases, ...letOff]
}

/** What is owed to one reader, if anything. What is over for them anyway is not written about. */
const owedIn = ({ last, now }: Case, at: number): Owed | null => {
  const told = last?.told ?? null
  const over = (one: Told | null) => one === null || isOver(one, at)
  return over(told) && over(now) ? null : owedTo(told, now)
}

/** The letter that is owed; `truthId` is what is true now, as it is kept. */
const letterIn = ({ reader, last, now }: Case, owed: Owed, truthId: string): NewLetter => {
  const toldId = last?.toldId ?? null
  return {
    ...reader,
    id: randomUUID(),
    number: (last?.number ?? 0) + 1,
    method: owed.method,
    recurrence: owed.recurrence,
    required: now?.required ?? last?.told?.required ?? true,
    // A cancellation speaks of what was known; everything else of what is true.
    aboutId: owed.method === 'CANCEL' ? (toldId ?? truthId) : truthId,
    beforeId: owed.method === 'REQUEST' ? toldId : null,
    asksAgain: owed.askAgain === 'all' || owed.askAgain.length > 0,
    toldId: now && truthId,
  }
}

/** Sends letters that are written: jobs of a few each. */
export const sendLetters = (sql: Sql, letterIds: readonly string[]): Promise<void> => {
  const jobs: NewJob[] = []
  for (let i = 0; i < letterIds.length; i += LETTERS_A_JOB) {
    const some = letterIds.slice(i, i + LETTERS_A_JOB)
    jobs.push({ payload: { letterIds: some }, key: `mail:${some[0]}` })
  }
  return addJobs(sql, SEND_TASK, jobs)
}

/**
 * Writes to everybody concerned what they have not been told of a meeting, at most one letter each, with its notice on
 * the screen; asks again for the answers that hold no more; and adds the jobs that send. All in the caller's transaction:
 * run again, it finds nothing left to tell.
 */
export const writeOwed = async (
  sql: Sql,
  entryId: string,
  actorId: string | null,
  now: number,
): Promise<void> => {
  const [counts, last, [meeting]] = await together([
    lockCounts(sql, entryId),
    takeBackUntried(sql, entryId),
    readMeetings(sql, [entryId], now),
  ])
  if (!counts) return
  const due = casesOf(meeting, last).flatMap((one) => {
    const what = owedIn(one, now)
    return what ? [{ ...one, owed: what }] : []
  })
  if (due.length === 0) return
  const truth = due.find((one) => one.now !== null)?.now
  const truthId = randomUUID()
  const owed = due.map((one) => ({ ...one, letter: letterIn(one, one.owed, truthId) }))
  const counted = owed.some((one) => countsOn(one.owed))
  const sequence = counted ? await nextSequence(sql, entryId) : counts.sequence
  const letters = owed.map((one) => one.letter)
  const people = [
    ...(meeting?.participants ?? []).flatMap((one) => one.personId ?? []),
    ...owed.flatMap((one) => one.reader.personId ?? []),
  ]
  await together([
    truth ? insertTelling(sql, truthId, entryId, truth) : Promise.resolve(),
    insertLetters(sql, { entryId, sequence, version: counts.version }, letters, actorId, now),
    sendLetters(
      sql,
      letters.map((letter) => letter.id),
    ),
    askAgain(sql, owed),
    addMeetingNotices(
      sql,
      entryId,
      owed.flatMap(({ reader, owed: { method, recurrence }, letter }) =>
        reader.personId === null
          ? []
          : [
              {
                personId: reader.personId,
                kind: method === 'CANCEL' ? 'cancelled' : letter.beforeId ? 'changed' : 'invited',
                recurrence,
              },
            ],
      ),
      actorId,
      now,
    ),
    tell(sql, [...meetingChanged(entryId, people), ...timeChanged(people)]),
  ])
}

/** Asks for answers anew of those for whom the time or place is another; those of one kind together. */
const askAgain = async (
  sql: Sql,
  owed: readonly { readonly participant: Participant | null; readonly owed: Owed }[],
): Promise<void> => {
  const byDates = new Map<string, { dates: Owed['askAgain']; ids: string[] }>()
  for (const { participant, owed: one } of owed) {
    if (!participant || (one.askAgain !== 'all' && one.askAgain.length === 0)) continue
    const key = JSON.stringify(one.askAgain)
    const group = byDates.get(key) ?? { dates: one.askAgain, ids: [] }
    group.ids.push(participant.id)
    byDates.set(key, group)
  }
  for (const { dates, ids } of byDates.values()) await askAnswersAgain(sql, ids, dates)
}

/**
 * Sees to it that everybody concerned is told what changed in a meeting: at once, or when the moment in which it can be
 * taken back is over. `momentMs` counts anew with each change.
 */
export const oweLetters = (
  sql: Sql,
  entryId: string,
  { actorId, momentMs, now }: { actorId: string | null; momentMs: number; now: number },
): Promise<void> =>
  momentMs > 0
    ? addJob(sql, OWED_TASK, { entryId, actorId }, `owed:${entryId}`, momentMs)
    : writeOwed(sql, entryId, actorId, now)
