import { randomUUID } from 'node:crypto'
import type { sendMeeting } from '@marmot/contract/meetings'
import { noteOfText } from '@marmot/core/entries'
import { seriesRule, seriesWalls } from '@marmot/core/openings'
import { DAY, dayOf, wallFromText, wallText } from '@marmot/core/time'
import type { z } from 'zod'
import { startAgenda } from '../agenda/index.ts'
import {
  type Conference,
  firstDatesOfKept,
  horizonOf,
  insertEntries,
  insertParticipants,
  noteChange,
  overrideOf,
  replaceOverrides,
  standingIn,
  timeOrProblem,
  writeFirstDates,
} from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { dropHold } from '../openings/index.ts'
import { cleanNote } from '../platform/clean.ts'
import { type Sql, together } from '../platform/database.ts'
import { meetingChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'
import { findPlaces, takePlaces, type WantedDate } from '../reservations/index.ts'
import { actorOf } from './acting.ts'
import { whomToInvite } from './whom.ts'

/** A meeting as it is sent. */
type Body = z.infer<(typeof sendMeeting)['body']>

/** One date to make: its place in the series, when it is, and the places it takes. */
interface DateToMake extends WantedDate {
  readonly starts: string
}

/**
 * The dates of a meeting, one or a series with its repairs; none is over. Throws when a change is for no date of it.
 */
export const datesToMake = (body: Body, now: number): DateToMake[] => {
  const dateAt = (recurrence: string): DateToMake => {
    const change = body.series?.changes.find((each) => each.recurrence === recurrence)
    const starts = change?.starts ?? recurrence
    const span = timeOrProblem({ ...body, starts })
    return {
      recurrence,
      starts,
      span,
      placeIds: change?.places ?? body.places,
    }
  }
  const all = (dates: DateToMake[]): DateToMake[] => {
    if (dates.some((date) => date.span.end <= now))
      throw new ProblemError(422, 'in-the-past', 'That time is over. Choose one that is still to come.', {
        fields: [{ path: 'starts', message: 'is in the past' }],
      })
    return dates
  }
  if (!body.series) return all([dateAt(body.starts)])
  const walls = seriesWalls(body.series.rule, wallFromText(body.starts) ?? 0).map(wallText)
  const stray = body.series.changes.findIndex((change) => !walls.includes(change.recurrence))
  if (stray >= 0)
    throw new ProblemError(
      422,
      'no-such-date',
      'One of the changed dates is no date of the series. Nothing was sent.',
      {
        fields: [{ path: `series.changes.${stray}.recurrence`, message: 'is no date of the series' }],
      },
    )
  const dates = walls.map(dateAt)
  if ((dates.at(-1)?.span.end ?? 0) > horizonOf(now).to - DAY)
    throw new ProblemError(
      422,
      'series-too-long',
      'A series can run for a year and a half at most. Give it fewer dates.',
      {
        fields: [{ path: 'series.rule.count', message: 'runs too far ahead' }],
      },
    )
  return all(dates)
}

/**
 * Makes a meeting with its participants and reservations, and owes the invitations, in the caller's transaction: all or
 * nothing. Throws where a place cannot be had.
 */
export const send = async (
  sql: Sql,
  body: Body,
  dates: readonly DateToMake[],
  {
    askerId,
    now,
    momentMs,
    conference = null,
  }: { askerId: string; now: number; momentMs: number; conference?: Conference | null },
) => {
  const ownerId = body.of ?? askerId
  const actorId = actorOf(askerId, ownerId)
  const [first] = dates
  if (!first) throw new Error('a meeting has a date')
  await standingIn(sql, askerId, ownerId, now)
  const invited = await whomToInvite(sql, body, ownerId)
  const held = body.hold ? await dropHold(sql, body.hold, askerId) : []
  const wanted = { dates, askerId: ownerId, viewerId: askerId, zone: body.zone }
  const places = await findPlaces(sql, wanted, now)
  const entryId = randomUUID()
  const entry = {
    ...body,
    conference,
    id: entryId,
    note: cleanNote(noteOfText(body.note)),
    allDay: false,
    rule: body.series ? seriesRule(body.series.rule, dayOf(wallFromText(body.starts) ?? 0)) : null,
    added: [],
    excepted: [],
    shows: 'busy' as const,
    private: false,
  }
  const overrides = dates
    .filter((date) => date.starts !== date.recurrence)
    .map((date) => overrideOf(date.recurrence, { starts: date.starts }))
  const people = [ownerId, ...invited.flatMap((one) => one.personId ?? [])]
  await together([
    insertEntries(sql, ownerId, [entry], now),
    insertParticipants(sql, entryId, invited),
    overrides.length ? replaceOverrides(sql, entryId, overrides) : Promise.resolve(),
    writeFirstDates(sql, firstDatesOfKept(entryId, entry, overrides, now)),
    startAgenda(sql, { entryId, recurrence: first.recurrence }, body.agenda),
    takePlaces(sql, wanted, entryId),
    tell(sql, [
      ...timeChanged(people),
      ...meetingChanged(entryId, people),
      ...reservationsChanged([...places.map((place) => place.id), ...held]),
    ]),
  ])
  const [, changeId] = await together([
    oweLetters(sql, entryId, { actorId, momentMs, now }),
    noteChange(
      sql,
      {
        ownerId,
        actorId: askerId,
        kind: 'sent',
        title: body.title,
        entries: [{ id: entryId, version: 1, was: null }],
      },
      now,
    ),
  ])
  const start = timeOrProblem({ ...body, starts: first.starts })
  return {
    entryId,
    start: new Date(start.start).toISOString(),
    end: new Date(start.end).toISOString(),
    invited: invited.length,
    moved: start.fit === 'gap',
    changeId,
    untoldMs: momentMs,
  }
}
