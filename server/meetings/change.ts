import type { changeMeeting } from '@marmot/contract/meetings'
import { repeats } from '@marmot/core/recurrence'
import { toWall, wallText, zoneTable } from '@marmot/core/time'
import type { z } from 'zod'
import {
  actingOn,
  type Conference,
  copyAnswers,
  copyAttachments,
  datesOfMany,
  dropDateless,
  handOver,
  type Invited,
  insertEntries,
  insertParticipants,
  type KeptEntry,
  type KeptOverride,
  nextVersion,
  noteAsked,
  noteChange,
  noteSplit,
  overrideOf,
  type PlannedChange,
  plannedChange,
  presentIn,
  putOverride,
  putParticipants,
  putParticipantsOn,
  readKept,
  readMeetings,
  readOverrides,
  replaceOverrides,
  seriesOf,
  setAnswer,
  setAnswerOn,
  stateOf,
  timeOrProblem,
  updateEntry,
  type WholeMeeting,
  writeOccurrences,
} from '../entries/index.ts'
import { oweTellings, type Telling, toldIn } from '../letters/index.ts'
import { siteOrProblem } from '../people/index.ts'
import { noteOrProblem } from '../platform/clean.ts'
import { type Sql, together } from '../platform/database.ts'
import { meetingChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { movePlaces, reservedBy, type WantedDate } from '../reservations/index.ts'
import { actorOf } from './acting.ts'
import { inVain } from './place-trouble.ts'
import { askStewards } from './requests.ts'
import { meetingsFor } from './store.ts'
import { type Chosen, whomToInvite } from './whom.ts'

/** What somebody wants a meeting to become; what is left out stays. */
type Given = z.output<(typeof changeMeeting)['body']>

export interface Attempt {
  readonly entryId: string
  readonly askerId: string
  readonly given: Given
  readonly now: number
  readonly momentMs: number
  /** How one joins it from afar, where that is to be had from now on. */
  readonly conference?: Conference
  /** A participant who has said already that they come at the new time. */
  readonly accepting?: string
}

const over = (message: string, path: string): ProblemError =>
  new ProblemError(422, 'in-the-past', message, { fields: [{ path, message: 'is in the past' }] })

/** The meeting, locked, if the asker may change it and it is still as they saw it. */
const lockAsSeen = async (sql: Sql, { entryId, askerId, given, now }: Attempt) => {
  const kept = await readKept(sql, entryId, now, true)
  const [meeting] = await readMeetings(sql, [entryId], now, given)
  if (!kept || kept.deleted || !meeting) throw notFound('meeting of yours')
  await actingOn(sql, meeting, askerId, now)
  if (meeting.cancelled)
    throw new ProblemError(409, 'cancelled', `"${kept.title}" was cancelled. Nothing was changed.`)
  if (kept.version !== given.version) {
    const [newest] = await meetingsFor(sql, [entryId], askerId, now, given.recurrence ?? null)
    throw new ProblemError(
      409,
      'stale',
      `"${kept.title}" was changed meanwhile. Nothing of yours was lost: choose what to keep.`,
      { more: { version: kept.version, newest } },
    )
  }
  if (meeting.repeats && given.scope !== 'all' && given.recurrence === undefined)
    throw new ProblemError(
      422,
      'which-date',
      'It repeats: say which of its dates is meant. Nothing was changed.',
      {
        fields: [{ path: 'recurrence', message: 'is missing' }],
      },
    )
  if (given.recurrence !== undefined && meeting.repeats && meeting.recurrence !== given.recurrence)
    throw notFound('date of this series')
  return { kept, meeting }
}

/** The date that a change is seen from, with what it has now. Walls in the meeting's own zone. */
interface DateInHand {
  readonly recurrence: string
  readonly starts: string
  readonly minutes: number
}

const dateInHand = (kept: KeptEntry, overrides: readonly KeptOverride[], given: Given): DateInHand => {
  // A single meeting has one date, whatever somebody calls it.
  const recurrence = (repeats(seriesOf(kept)) && given.recurrence) || kept.starts
  const own = overrides.find((one) => one.recurrence === recurrence)
  // All dates are changed from what they have in common, one from what it is.
  const its = given.scope === 'this' ? own : undefined
  return { recurrence, starts: its?.starts ?? recurrence, minutes: its?.minutes ?? kept.minutes }
}

const same = <T>(next: T, usual: T): T | null => (next === usual ? null : next)

/** Which entry the dates are in that were changed, and by how much the change moved the series, in ms on the wall. */
interface Put {
  readonly targetId: string
  readonly by: number
}

/** Changes one date: only what differs from the series is kept, in the series' own zone. */
const changeDate = async (
  sql: Sql,
  kept: KeptEntry,
  own: KeptOverride | undefined,
  date: DateInHand,
  is: Pick<DateInHand, 'starts' | 'minutes'> & { readonly title?: string; readonly note?: string },
): Promise<Put> => {
  await putOverride(
    sql,
    kept.id,
    overrideOf(date.recurrence, {
      ...own,
      cancelled: false,
      starts: same(is.starts, date.recurrence),
      minutes: same(is.minutes, kept.minutes),
      title: same(is.title ?? own?.title ?? kept.title, kept.title),
      note: same(is.note ?? own?.note ?? kept.note, kept.note),
    }),
  )
  return { targetId: kept.id, by: 0 }
}

/** What of an entry's words becomes another. */
const wordsOf = (given: Given) => ({
  ...(given.title === undefined ? {} : { title: given.title }),
  ...(given.note === undefined ? {} : { note: noteOrProblem(given.note) }),
})

/** A date that has a time of its own keeps it where all are changed in something else. */
const withOwn = (
  planned: readonly KeptOverride[],
  own: KeptOverride | undefined,
  given: Given,
): readonly KeptOverride[] => {
  if (!own || given.starts || given.minutes || given.zone) return planned
  const words = {
    title: given.title === undefined ? own.title : null,
    note: given.note === undefined ? own.note : null,
  }
  return [...planned, { ...own, ...words }]
}

/** Makes the dates from one on a series of their own, with their people, answers and files; gives its id. */
const splitOff = async (
  sql: Sql,
  { id, ...kept }: KeptEntry,
  plan: PlannedChange & { readonly head: NonNullable<PlannedChange['head']> },
  {
    recurrence,
    given,
    meeting,
    now,
  }: { recurrence: string; given: Given; meeting: WholeMeeting; now: number },
): Promise<string> => {
  await updateEntry(sql, id, { ...plan.head.state, cancelReason: '' })
  await replaceOverrides(sql, id, plan.head.overrides)
  const zone = given.zone ?? kept.zone
  const state = { ...kept, ...wordsOf(given), ...plan.state, zone, sourceUid: null, cancelReason: '' }
  const [tailId = ''] = await insertEntries(sql, kept.ownerId, [state], now)
  const invited = await whomToInvite(sql, chosenOf(meeting.participants, given), kept.ownerId)
  const knownAs = new Map(meeting.participants.map((one) => [one.personId ?? one.address, one.everyDate]))
  await insertParticipants(
    sql,
    tailId,
    invited.map((one) => ({
      ...one,
      everyDate: one.everyDate ?? knownAs.get(one.personId ?? one.address ?? '') ?? true,
    })),
  )
  await copyAttachments(sql, id, tailId)
  await handOver(sql, id, tailId, recurrence)
  await copyAnswers(sql, id, tailId, Boolean(given.starts || given.minutes || given.zone || given.places))
  for (const one of [id, tailId]) await dropDateless(sql, one)
  await noteSplit(sql, tailId, { entryId: id, recurrence, version: kept.version })
  await writeOccurrences(sql, id, now)
  return tailId
}

/** Changes all dates, or one and those that follow, which become a series of their own. */
const changeDates = async (
  sql: Sql,
  {
    kept,
    overrides,
    meeting,
    given,
    now,
    ...time
  }: {
    kept: KeptEntry
    overrides: readonly KeptOverride[]
    meeting: WholeMeeting
    given: Given
    recurrence: string
    starts: string
    minutes: number
    now: number
  },
): Promise<Put> => {
  const { recurrence } = time
  const zone = given.zone ?? kept.zone
  const plan = plannedChange(kept, overrides, {
    ...time,
    scope: given.scope === 'following' ? 'following' : 'all',
    zone,
    allDay: kept.allDay,
    repetition: null,
  })
  const { head, by } = plan
  const own = overrides.find((one) => one.recurrence === recurrence)
  const targetId = head
    ? await splitOff(sql, kept, { ...plan, head }, { recurrence, given, meeting, now })
    : kept.id
  if (!head) await updateEntry(sql, targetId, { ...wordsOf(given), ...plan.state, zone })
  await replaceOverrides(sql, targetId, withOwn(plan.overrides, own, given))
  return { targetId, by }
}

/** Keeps that somebody comes at the time that a meeting has from now on: they said so before. */
const accept = async (
  sql: Sql,
  participantId: string,
  date: { readonly entryId: string; readonly recurrence: string | null; readonly version: number },
  now: number,
): Promise<void> => {
  const { entryId, recurrence, version } = date
  const given = {
    answer: 'accepted' as const,
    message: '',
    answeredBy: null,
    stamp: now,
    now,
    version,
    quiet: false,
  }
  if (recurrence === null) await setAnswer(sql, participantId, given)
  else await setAnswerOn(sql, participantId, entryId, recurrence, given)
}

/**
 * Changes a meeting: all of it, one date of a series, or one and those that follow, which become a series of their own. In
 * one transaction its places are exchanged (the old ones stand until the new ones are had), its people are put, the change
 * is kept whole so that it can be taken back, and the letters are owed. Throws when it was changed meanwhile, or a place
 * cannot be had; nothing has changed then.
 */
export const change = async (sql: Sql, attempt: Attempt) => {
  const { entryId, askerId, given, now, momentMs } = attempt
  const { kept, meeting } = await lockAsSeen(sql, attempt)
  const was = await stateOf(sql, entryId)
  const [overrides, datesBefore] = await together([readOverrides(sql, entryId), datesOfMany(sql, [entryId])])
  const date = dateInHand(kept, overrides, given)
  const own = overrides.find((one) => one.recurrence === date.recurrence)
  const zone = given.zone ?? kept.zone
  const minutes = given.minutes ?? date.minutes
  const checked = timeOrProblem({ starts: given.starts ?? date.starts, minutes, zone, allDay: kept.allDay })
  if ((given.starts || given.minutes) && checked.end <= now)
    throw over('That time is over. Choose one that is still to come.', 'starts')
  const one = given.scope === 'this' && repeats(seriesOf(kept))
  const chosen = chosenOf(one ? presentIn(meeting) : meeting.participants, given)
  const starts = given.starts ?? date.starts
  const { targetId, by } = one
    ? await changeDate(sql, kept, own, date, {
        starts: given.starts ? wallText(toWall(zoneTable(kept.zone), checked.start)) : date.starts,
        minutes,
        ...wordsOf(given),
      })
    : await changeDates(sql, {
        kept,
        overrides,
        meeting,
        given,
        recurrence: date.recurrence,
        starts,
        minutes,
        now,
      })
  const { autoNudge, rsvp, purpose, headCount, contact, outdoors } = given
  await siteOrProblem(sql, outdoors)
  // What took no time of one's own alone is a meeting like any other once somebody is invited.
  const invites = !kept.meeting && chosen.people.length + chosen.guests.length > 0
  const shows = given.shows ?? (invites && kept.shows === 'listed' ? 'busy' : undefined)
  const conference = given.conference === false ? null : kept.conference ? undefined : attempt.conference
  await updateEntry(sql, targetId, {
    ...(autoNudge === undefined ? {} : { autoNudge }),
    ...(rsvp === undefined ? {} : { rsvp }),
    ...(shows === undefined ? {} : { shows }),
    ...(purpose === undefined ? {} : { purpose }),
    ...(headCount === undefined ? {} : { headCount }),
    ...(contact === undefined ? {} : { contact }),
    ...(outdoors === undefined ? {} : { outdoors }),
    ...(conference === undefined ? {} : { conference }),
  })
  const split = targetId !== entryId
  const concerned =
    !split && (given.people || given.guests)
      ? await putPeople(
          sql,
          entryId,
          one ? date.recurrence : null,
          await whomToInvite(sql, chosen, kept.ownerId),
        )
      : []
  const before = await reservedBy(sql, targetId)
  await writeOccurrences(sql, targetId, now, by)
  const [datesNow, datesLeft] = await together([
    datesOfMany(sql, [targetId]),
    split ? datesOfMany(sql, [entryId]) : NO_DATES,
  ])
  // Dates that would lie beyond those that are written out would have no places, and nobody's answers.
  if (datesNow.length + datesLeft.length < datesBefore.length)
    throw new ProblemError(
      422,
      'series-too-far',
      'Some of its dates would lie too far away: a series can be moved within a year and a half. Nothing was changed.',
      { fields: [{ path: 'starts', message: 'is too far away' }] },
    )
  const only = one ? date.recurrence : null
  const dates = wantedDates(datesNow, before, given.places, only, now)
  const wanted = { dates, askerId: kept.ownerId, viewerId: askerId, zone }
  const places = await movePlaces(sql, wanted, targetId, now, only).catch(
    inVain({ ...chosen, dates, organizerId: kept.ownerId }),
  )
  if (places.length > 0) await askStewards(sql, targetId, actorOf(askerId, kept.ownerId), now)
  const entries = [{ id: entryId, version: await nextVersion(sql, entryId), was }]
  if (split) entries.push({ id: targetId, version: 1, was: null })
  else if (given.starts || given.minutes || given.zone || places.length || (one && concerned.length))
    await noteAsked(sql, entryId)
  const version = entries.at(-1)?.version ?? 1
  if (attempt.accepting) await accept(sql, attempt.accepting, { entryId, recurrence: only, version }, now)
  const changeId = await noteChange(
    sql,
    {
      ownerId: kept.ownerId,
      actorId: askerId,
      kind: 'changed',
      title: given.title ?? kept.title,
      entries,
    },
    now,
  )
  const tellings: Telling[] = []
  const owing = { actorId: actorOf(askerId, kept.ownerId), momentMs, now }
  for (const { id } of entries) tellings.push(...(await oweTellings(sql, id, owing)))
  const people = [
    ...meeting.participants.flatMap((each) => each.personId ?? []),
    ...concerned,
    ...tellings.flatMap((each) => each.personId ?? []),
  ]
  await tell(sql, [
    ...timeChanged(people),
    ...entries.flatMap(({ id }) => meetingChanged(id, people)),
    ...reservationsChanged(places),
  ])
  const all = eachOnce(tellings)
  return {
    entryId: targetId,
    version,
    changeId,
    start: new Date(checked.start).toISOString(),
    end: new Date(checked.end).toISOString(),
    moved: checked.fit === 'gap',
    tellings: all,
    told: toldIn(all),
    untoldMs: momentMs,
  }
}

/** Puts who takes part: in all dates, or in the one that is named. Gives the people concerned. */
const putPeople = (sql: Sql, entryId: string, only: string | null, invited: readonly Invited[]) =>
  only === null ? putParticipants(sql, entryId, invited) : putParticipantsOn(sql, entryId, only, invited)

const NO_DATES: ReturnType<typeof datesOfMany> = Promise.resolve([])

/** What each is told by a change that touches two series: what is said of the later one, where there is anything. */
const eachOnce = (tellings: readonly Telling[]): Telling[] => {
  const byReader = new Map<string, Telling>()
  for (const one of tellings) {
    const key = one.personId ?? one.address
    const before = byReader.get(key)
    if (!before || one.gets !== 'nothing')
      byReader.set(key, { ...one, asksAgain: one.asksAgain || (before?.asksAgain ?? false) })
  }
  return [...byReader.values()]
}

/** Who takes part from now on beside the organizer: those of a kind of whom nothing was said stay. */
const chosenOf = (participants: WholeMeeting['participants'], given: Given): Chosen => {
  const asked = participants.filter((each) => !each.organizer)
  return {
    people:
      given.people ??
      asked.flatMap(({ personId, required }) => (personId ? [{ id: personId, required }] : [])),
    guests:
      given.guests ??
      asked.flatMap(({ personId, address, guestName, required }) =>
        personId ? [] : [{ address, name: guestName, required }],
      ),
  }
}

/** The places wanted for each date concerned that is not over: those given, else those that the date has. */
const wantedDates = (
  dates: Awaited<ReturnType<typeof datesOfMany>>,
  before: readonly { readonly resourceId: string; readonly occurrenceId: string }[],
  given: readonly string[] | undefined,
  only: string | null,
  now: number,
): WantedDate[] =>
  dates
    .filter((date) => only === null || date.recurrence === only)
    .map(({ id, recurrence, start, end }) => {
      const its = before.flatMap((one) => (one.occurrenceId === id ? one.resourceId : []))
      // What is over is not moved to other places any more.
      return { recurrence, span: { start, end }, placeIds: given && end > now ? given : its }
    })
