import type { changeMeeting } from '@marmot/contract/meetings'
import { noteOfText } from '@marmot/core/entries'
import { repeats } from '@marmot/core/recurrence'
import { toWall, wallText, zoneTable } from '@marmot/core/time'
import type { z } from 'zod'
import {
  actingOn,
  datesOfMany,
  type KeptEntry,
  type KeptOverride,
  nextVersion,
  noteAsked,
  noteChange,
  overrideOf,
  plannedChange,
  putOverride,
  putParticipants,
  readKept,
  readMeetings,
  readOverrides,
  replaceOverrides,
  seriesOf,
  stateOf,
  timeOrProblem,
  updateEntry,
  type WholeMeeting,
  writeOccurrences,
} from '../entries/index.ts'
import { oweLetters, readTellings, toldIn } from '../letters/index.ts'
import { cleanNote } from '../platform/clean.ts'
import { type Sql, together } from '../platform/database.ts'
import { meetingChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { movePlaces, reservedBy, type WantedDate } from '../reservations/index.ts'
import { actorOf } from './acting.ts'
import { inVain } from './place-trouble.ts'
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
}

const over = (message: string, path: string): ProblemError =>
  new ProblemError(422, 'in-the-past', message, { fields: [{ path, message: 'is in the past' }] })

/** The meeting, locked, if the asker may change it and it is still as they saw it. */
const lockAsSeen = async (sql: Sql, { entryId, askerId, given, now }: Attempt) => {
  const kept = await readKept(sql, entryId, now, true)
  const [meeting] = await readMeetings(sql, [entryId], now, given)
  if (!kept || kept.deleted || !meeting || !kept.meeting) throw notFound('meeting of yours')
  await actingOn(sql, { entryId, organizerId: kept.ownerId }, askerId, now)
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
  if (meeting.repeats && given.scope === 'this' && given.recurrence === undefined)
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

/** Changes one date: only what differs from the series is kept, in the series' own zone. */
const changeDate = async (
  sql: Sql,
  kept: KeptEntry,
  own: KeptOverride | undefined,
  date: DateInHand & { readonly title: string | undefined; readonly note: string | undefined },
) =>
  putOverride(
    sql,
    kept.id,
    overrideOf(date.recurrence, {
      ...own,
      cancelled: false,
      starts: same(date.starts, date.recurrence),
      minutes: same(date.minutes, kept.minutes),
      title: same(date.title ?? own?.title ?? kept.title, kept.title),
      note: same(date.note ?? own?.note ?? kept.note, kept.note),
    }),
  )

/**
 * Changes a meeting: all of it, or one date of a series. In one transaction its places are exchanged (the old ones stand
 * until the new ones are had), its people are put, the change is kept whole so that it can be taken back, and the letters
 * are owed. Throws when it was changed meanwhile, or a place cannot be had; nothing has changed then.
 */
export const change = async (sql: Sql, attempt: Attempt) => {
  const { entryId, askerId, given, now, momentMs } = attempt
  const { kept, meeting } = await lockAsSeen(sql, attempt)
  const was = await stateOf(sql, entryId)
  const overrides = await readOverrides(sql, entryId)
  const date = dateInHand(kept, overrides, given)
  const zone = given.zone ?? kept.zone
  const minutes = given.minutes ?? date.minutes
  const checked = timeOrProblem({ starts: given.starts ?? date.starts, minutes, zone })
  if ((given.starts || given.minutes) && checked.end <= now)
    throw over('That time is over. Choose one that is still to come.', 'starts')
  const words = {
    ...(given.title === undefined ? {} : { title: given.title }),
    ...(given.note === undefined ? {} : { note: cleanNote(noteOfText(given.note)) }),
  }
  const one = given.scope === 'this' && repeats(seriesOf(kept))
  let by = 0
  if (one) {
    const starts = given.starts ? wallText(toWall(zoneTable(kept.zone), checked.start)) : date.starts
    const own = overrides.find((each) => each.recurrence === date.recurrence)
    await changeDate(sql, kept, own, { ...date, starts, minutes, title: words.title, note: words.note })
  } else {
    const plan = plannedChange(kept, overrides, {
      scope: 'all',
      recurrence: date.recurrence,
      starts: given.starts ?? date.starts,
      minutes,
      zone,
      allDay: kept.allDay,
      repetition: null,
    })
    by = plan.by
    await updateEntry(sql, entryId, { ...words, ...plan.state, zone })
    await replaceOverrides(sql, entryId, plan.overrides)
  }
  if (given.autoNudge !== undefined) await updateEntry(sql, entryId, { autoNudge: given.autoNudge })
  const chosen = chosenOf(meeting, given)
  const concerned =
    given.people || given.guests
      ? await putParticipants(sql, entryId, await whomToInvite(sql, chosen, kept.ownerId))
      : []
  const [before, datesBefore] = await together([reservedBy(sql, entryId), datesOfMany(sql, [entryId])])
  await writeOccurrences(sql, entryId, now, by)
  const datesNow = await datesOfMany(sql, [entryId])
  // Dates that would lie beyond those that are written out would have no places, and nobody's answers.
  if (datesNow.length < datesBefore.length)
    throw new ProblemError(
      422,
      'series-too-far',
      'Some of its dates would lie too far away: a series can be moved within a year and a half. Nothing was changed.',
      { fields: [{ path: 'starts', message: 'is too far away' }] },
    )
  const only = one ? date.recurrence : null
  const dates = wantedDates(datesNow, before, given.places, only, now)
  const wanted = { dates, askerId: kept.ownerId, viewerId: askerId, zone }
  const places = await movePlaces(sql, wanted, entryId, now, only).catch(
    inVain({ ...chosen, dates, organizerId: kept.ownerId }),
  )
  const version = await nextVersion(sql, entryId)
  if (given.starts || given.minutes || given.zone || places.length) await noteAsked(sql, entryId)
  const changeId = await noteChange(
    sql,
    {
      ownerId: kept.ownerId,
      actorId: askerId,
      kind: 'changed',
      title: given.title ?? kept.title,
      entries: [{ id: entryId, version, was }],
    },
    now,
  )
  const tellings = await readTellings(sql, entryId, now)
  await oweLetters(sql, entryId, { actorId: actorOf(askerId, kept.ownerId), momentMs, now })
  const people = [...meeting.participants.flatMap((each) => each.personId ?? []), ...concerned]
  await tell(sql, [
    ...timeChanged(people),
    ...meetingChanged(entryId, people),
    ...reservationsChanged(places),
  ])
  return {
    version,
    changeId,
    start: new Date(checked.start).toISOString(),
    end: new Date(checked.end).toISOString(),
    moved: checked.fit === 'gap',
    tellings,
    told: toldIn(tellings),
    untoldMs: momentMs,
  }
}

/** Who takes part from now on beside the organizer: those of a kind of whom nothing was said stay. */
const chosenOf = (meeting: WholeMeeting, given: Given): Chosen => {
  const asked = meeting.participants.filter((each) => !each.organizer)
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
