import { randomUUID } from 'node:crypto'
import { countsOn, goesOnElsewhere, isOver, type Owed, owedTo, partOf, type Told } from '@marmot/core/letters'
import {
  askAnswersAgain,
  isReservation,
  lockCounts,
  nextSequence,
  readMeetings,
  type WholeMeeting,
} from '../entries/index.ts'
import { addMeetingNotices, takeBackMeetingNotices } from '../notices/index.ts'
import { msSql, type Sql, together } from '../platform/database.ts'
import { addJob, addJobs, type NewJob } from '../platform/jobs.ts'
import { meetingChanged, tell, timeChanged } from '../platform/live.ts'
import {
  insertLetters,
  insertTellings,
  type LastLetter,
  type NewLetter,
  type Reader,
  readerKey,
  readerOf,
  readLast,
  takeBackUntried,
} from './store.ts'

/** The job that writes what is owed, once the moment in which a change can be taken back is over. */
export const OWED_TASK = 'write-letters'
/** The job that sends letters that are written. */
export const SEND_TASK = 'send-invitation'
/** Attendees are read once for so many letters; more would be out of date by the time that the last one leaves. */
const LETTERS_A_JOB = 10

/** The key of the job that tells what is owed about a meeting: it is there once. */
const owedKey = (entryId: string): string => `owed:${entryId}`

type Participant = WholeMeeting['participants'][number]

/** How one joins a meeting, once the conference service has said so. */
const joiningOf = ({ conference }: WholeMeeting): Told['conference'] =>
  conference?.link ? { link: conference.link, telephone: conference.telephone, code: conference.code } : null

/** Where something is, for whoever reserved it: places that are only asked for as yet are said to be. */
const withAsked = (where: string, asked: readonly string[]): string =>
  where
    .split('; ')
    .map((place) => (asked.includes(place) ? `${place} (asked for, not granted yet)` : place))
    .join('; ')

/** What somebody who takes part would be told of a meeting as it is now; null when there is nothing left of it. */
const truthFor = (meeting: WholeMeeting, participant: Participant): Told | null => {
  const whereOf = (where: string) => (participant.organizer ? withAsked(where, meeting.asked) : where)
  return meeting.cancelled
    ? null
    : partOf(
        {
          title: meeting.usualTitle,
          note: meeting.usualNote,
          place: whereOf(meeting.usualPlace),
          zone: meeting.zone,
          starts: meeting.starts,
          minutes: meeting.minutes,
          rule: meeting.rule,
          added: meeting.added,
          excepted: meeting.excepted,
          changes: meeting.changes.map((one) =>
            one.place === null ? one : { ...one, place: whereOf(one.place) },
          ),
          cancelled: meeting.cancelledDates,
          required: participant.required,
          // Whose it is knows that they come.
          rsvp: meeting.rsvp && !participant.organizer,
          conference: joiningOf(meeting),
        },
        participant,
      )
}

/** One reader of letters about a meeting: what they were told last, and what is true for them now. */
interface Case {
  readonly reader: Reader
  readonly participant: Participant | null
  readonly last: LastLetter | null
  readonly now: Told | null
  /** What they were told last of the series that this one goes on from, and what its first date was called there. */
  readonly source?: { readonly told: Told; readonly toldId: string; readonly recurrence: string } | null
}

/** What was told of a meeting, and of the series that it goes on from. */
interface ToldBefore {
  readonly last: readonly LastLetter[]
  readonly source: readonly LastLetter[]
}

const readTold = async (
  sql: Sql,
  meeting: WholeMeeting | undefined,
  last: LastLetter[],
): Promise<ToldBefore> => ({
  last,
  // What was told of it since has no such date any more.
  source: meeting?.splitFrom ? await readLast(sql, meeting.splitFrom, meeting.splitVersion) : [],
})

const casesOf = (meeting: WholeMeeting | undefined, { last, source }: ToldBefore): Case[] => {
  const sourceOf = new Map(source.map((one) => [readerKey(one), one]))
  const lastOf = new Map(last.map((one) => [readerKey(one), one]))
  // Whoever reserved places alone is told of those, and of what becomes of it once others take part.
  const alone = meeting !== undefined && isReservation(meeting)
  const asked = (meeting?.participants ?? []).filter(
    (one) => !one.organizer || alone || lastOf.has(readerKey(readerOf(one))),
  )
  const cases = asked.map((participant): Case => {
    const reader = readerOf(participant)
    const before = lastOf.get(readerKey(reader)) ?? null
    lastOf.delete(readerKey(reader))
    const knew = sourceOf.get(readerKey(reader))
    return {
      reader,
      participant,
      last: before,
      now: meeting ? truthFor(meeting, participant) : null,
      source:
        knew?.told && knew.toldId && meeting?.splitAt
          ? { told: knew.told, toldId: knew.toldId, recurrence: meeting.splitAt }
          : null,
    }
  })
  const letOff = [...lastOf.values()].map(
    (one): Case => ({ reader: one, participant: null, last: one, now: null }),
  )
  return [...cases, ...letOff]
}

/** What is owed to one reader, if anything. What is over for them anyway is not written about. */
const owedIn = ({ last, now, source }: Case, at: number): Owed | null => {
  const told = last?.told ?? null
  const over = (one: Told | null) => one === null || isOver(one, at)
  if (over(told) && over(now)) return null
  const owed = owedTo(told, now)
  const elsewhere = told === null && now && source && goesOnElsewhere(source.told, source.recurrence, now)
  return owed && elsewhere ? { ...owed, askAgain: 'all' } : owed
}

/** Whether there is something that somebody who takes part has not been told. */
export const isOwed = (
  meeting: WholeMeeting,
  participant: Participant,
  last: LastLetter,
  now: number,
): boolean =>
  owedIn({ reader: readerOf(participant), participant, last, now: truthFor(meeting, participant) }, now) !==
  null

interface Due extends Case {
  readonly owed: Owed
}

/** Everybody who is owed a letter, with what it says. */
const dueIn = (meeting: WholeMeeting | undefined, told: ToldBefore, now: number): Due[] =>
  casesOf(meeting, told).flatMap((one) => {
    const owed = owedIn(one, now)
    return owed ? [{ ...one, owed }] : []
  })

const asksAgain = ({ askAgain }: Owed): boolean => askAgain === 'all' || askAgain.length > 0

/** What somebody is told of a meeting, once it is. */
export interface Telling {
  readonly personId: string | null
  readonly address: string
  readonly name: string
  readonly zone: string | null
  readonly gets: 'invitation' | 'change' | 'cancellation' | 'nothing'
  /** True where an answer that they gave holds no more, and is asked for again. */
  readonly asksAgain: boolean
}

/** Takes back what was written about a meeting and cannot have left yet, and the notices beside it. */
const takeBack = async (sql: Sql, entryId: string): Promise<LastLetter[]> => {
  const { untold, last } = await takeBackUntried(sql, entryId)
  await takeBackMeetingNotices(sql, entryId, untold)
  return last
}

/**
 * What everybody concerned would be told of a meeting as it is in this transaction: who takes part, whether or not there is
 * anything to tell them, and who was let off. What was written about it and has not left is taken back: it is not told.
 */
const readTellings = async (sql: Sql, entryId: string, now: number): Promise<Telling[]> => {
  const [last, [meeting]] = await together([takeBack(sql, entryId), readMeetings(sql, [entryId], now)])
  const told = await readTold(sql, meeting, last)
  const due = new Map(dueIn(meeting, told, now).map((one) => [readerKey(one.reader), one]))
  const getsOf = (one: Due | undefined): Telling['gets'] => {
    if (!one) return 'nothing'
    if (one.owed.method === 'CANCEL') return 'cancellation'
    return one.last?.told || one.source ? 'change' : 'invitation'
  }
  const asked = (meeting?.participants ?? []).filter((one) => !one.organizer)
  const letOff = [...due.values()].filter((one) => one.participant === null)
  return [
    ...asked.map((one): Telling => {
      const its = due.get(readerKey(readerOf(one)))
      const given = one.answer !== 'needs-action' && one.answeredVersion < (meeting?.askedVersion ?? 0)
      return { ...one, gets: getsOf(its), asksAgain: given && its !== undefined && asksAgain(its.owed) }
    }),
    ...letOff.map(
      ({ reader, last }): Telling => ({
        personId: reader.personId,
        address: reader.address ?? '',
        name: last?.name ?? (reader.guestName || (reader.address ?? '')),
        zone: last?.zone ?? null,
        gets: 'cancellation',
        asksAgain: false,
      }),
    ),
  ]
}

/** How many of them get a letter. */
export const toldIn = (tellings: readonly Telling[]): number =>
  tellings.filter((one) => one.gets !== 'nothing').length

/** Why somebody who takes part is told that it is off, or goes on no more; nothing for whoever was let off. */
const reasonFor = (
  meeting: WholeMeeting | undefined,
  { participant, last, now }: Case,
  owed: Owed,
): string => {
  if (!participant || !meeting) return ''
  if (owed.method === 'REQUEST') return last?.told && last.told.rule !== now?.rule ? meeting.cancelReason : ''
  return owed.recurrence === null ? meeting.cancelReason : (meeting.reasons.get(owed.recurrence) ?? '')
}

/** Whether somebody has answered already to what they are told. */
const hasAnsweredTo = (meeting: WholeMeeting | undefined, { participant }: Case): boolean =>
  participant !== null &&
  participant.ownAnswer !== 'needs-action' &&
  participant.answeredVersion >= (meeting?.askedVersion ?? 0)

/** What is true for somebody, whether or not they have to come: one key for all of whom the same is. */
const truthKey = (now: Told | null): string => JSON.stringify(now && { ...now, required: null })

/** What is true now, once for all for whom it is the same, each to be kept under an id of its own. */
const truthsOf = (due: readonly Due[]): Map<string, { id: string; told: Told }> =>
  new Map(
    due.flatMap(({ now }): [string, { id: string; told: Told }][] =>
      now ? [[truthKey(now), { id: randomUUID(), told: now }]] : [],
    ),
  )

/** The letter that is owed; `truthId` is what is true now, as it is kept, if anything is. */
const letterIn = (
  { reader, participant, last, now, source }: Case,
  owed: Owed,
  hasAnswered: boolean,
  reason: string,
  truthId: string | null,
): NewLetter => {
  const toldId = last?.toldId ?? null
  return {
    ...reader,
    id: randomUUID(),
    number: (last?.number ?? 0) + 1,
    method: owed.method,
    recurrence: owed.recurrence,
    required: now?.required ?? last?.told?.required ?? true,
    // A cancellation speaks of what was known; everything else of what is true.
    aboutId: (owed.method === 'CANCEL' ? (toldId ?? truthId) : truthId) ?? '',
    beforeId: owed.method === 'REQUEST' ? (toldId ?? source?.toldId ?? null) : null,
    asksAgain: asksAgain(owed) && !hasAnswered && !participant?.organizer,
    reason,
    nudges: null,
    toldId: truthId,
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
    takeBack(sql, entryId),
    readMeetings(sql, [entryId], now),
  ])
  if (!counts) return
  const due = dueIn(meeting, await readTold(sql, meeting, last), now)
  if (due.length === 0) return
  const truths = truthsOf(due)
  const owed = due.map((one) => ({
    ...one,
    letter: letterIn(
      one,
      one.owed,
      hasAnsweredTo(meeting, one),
      reasonFor(meeting, one, one.owed),
      truths.get(truthKey(one.now))?.id ?? null,
    ),
  }))
  const counted = owed.some((one) => countsOn(one.owed))
  const sequence = counted ? await nextSequence(sql, entryId) : counts.sequence
  const letters = owed.map((one) => one.letter)
  const people = [
    ...(meeting?.participants ?? []).flatMap((one) => one.personId ?? []),
    ...owed.flatMap((one) => one.reader.personId ?? []),
  ]
  await together([
    insertTellings(sql, entryId, [...truths.values()]),
    insertLetters(sql, { entryId, sequence, version: counts.version }, letters, actorId, now),
    sendLetters(
      sql,
      letters.map((letter) => letter.id),
    ),
    askAgain(sql, owed),
    addMeetingNotices(
      sql,
      entryId,
      owed.flatMap(({ reader, participant, owed: { method, recurrence }, letter }) =>
        reader.personId === null || reader.personId === meeting?.organizerId || participant?.organizer
          ? []
          : [
              {
                personId: reader.personId,
                kind: method === 'CANCEL' ? 'cancelled' : letter.beforeId ? 'changed' : 'invited',
                recurrence,
                words: letter.reason,
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
    if (!participant || participant.organizer || !asksAgain(one)) continue
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
    ? addJob(sql, OWED_TASK, { entryId, actorId }, owedKey(entryId), momentMs)
    : writeOwed(sql, entryId, actorId, now)

/**
 * The same, and says what each of them is told by it: those to whom it makes no difference are told nothing, and what had
 * been written to them, and had not left yet, never leaves.
 */
export const oweTellings = async (
  sql: Sql,
  entryId: string,
  owing: { actorId: string | null; momentMs: number; now: number },
): Promise<Telling[]> => {
  const tellings = await readTellings(sql, entryId, owing.now)
  await oweLetters(sql, entryId, owing)
  return tellings
}

/** How long each of some meetings still waits until what is owed about it is told, in milliseconds; none where nothing is. */
export const tellsIn = async (
  sql: Sql,
  entryIds: readonly string[],
): Promise<ReadonlyMap<string, number>> => {
  const rows = await sql.query<{ key: string; ms: number }>(
    `select key, greatest(0, ${msSql('run_at')} - ${msSql('now()')}) as ms from graphile_worker.jobs
      where key = any($1) and attempts = 0 and locked_at is null`,
    [entryIds.map(owedKey)],
  )
  const byKey = new Map(rows.rows.map((row) => [row.key, row.ms]))
  return new Map(
    entryIds.flatMap((id): [string, number][] => {
      const ms = byKey.get(owedKey(id))
      return ms === undefined ? [] : [[id, ms]]
    }),
  )
}
