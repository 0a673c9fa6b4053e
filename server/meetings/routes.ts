import { randomUUID } from 'node:crypto'
import { undoChange } from '@marmot/contract/entries'
import {
  answerMeeting,
  cancelMeeting,
  changeMeeting,
  readMeeting,
  sendMeeting,
} from '@marmot/contract/meetings'
import { noteOfText } from '@marmot/core/entries'
import { seriesRule, seriesWalls } from '@marmot/core/openings'
import { DAY, dayOf, wallFromText, wallText } from '@marmot/core/time'
import type { z } from 'zod'
import {
  firstDatesOfKept,
  horizonOf,
  insertEntries,
  insertParticipants,
  lockEntry,
  markCancelled,
  markDateCancelled,
  maySee,
  noteChange,
  noteSeen,
  overrideOf,
  peopleIn,
  readMeetings,
  replaceOverrides,
  standingIn,
  stateOf,
  takesPart,
  timeOrProblem,
  undo,
  withOthers,
  writeFirstDates,
  writeOccurrences,
} from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { dropHold } from '../openings/index.ts'
import { cleanNote } from '../platform/clean.ts'
import { together, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import {
  meetingChanged,
  reservationsChanged,
  tell,
  tellMeeting,
  tellReservations,
  tellTime,
  timeChanged,
} from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import {
  findPlaces,
  putPlacesBack,
  releaseOfEntry,
  takePlaces,
  type WantedDate,
} from '../reservations/index.ts'
import { answerInvitation } from './answers.ts'
import { change, type WantedPlaces } from './change.ts'
import { placeTrouble } from './place-trouble.ts'
import { meetingsFor } from './store.ts'
import { whomToInvite } from './whom.ts'

type Body = z.infer<(typeof sendMeeting)['body']>

/** One date to make: its place in the series, when it is, and the places it takes. */
interface DateToMake extends WantedDate {
  readonly starts: string
}

/** The dates of a meeting, one or a series with its repairs. Throws when a change is for no date of it. */
const datesOf = (body: Body, now: number): DateToMake[] => {
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
  if (!body.series) return [dateAt(body.starts)]
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
  return dates
}

export const meetingsRoutes = ({ mount, deps }: Routes, { settings }: Pick<House, 'settings'>): void => {
  const { pool, clock } = deps
  const { takeBackMs: momentMs } = settings

  mount(sendMeeting, async ({ body, asker, context }) => {
    timeOrProblem(body)
    const now = clock()
    const dates = datesOf(body, now)
    const [first] = dates
    if (!first) throw new Error('a meeting has a date')
    if (dates.some((date) => date.span.end <= now))
      throw new ProblemError(422, 'in-the-past', 'That time is over. Choose one that is still to come.', {
        fields: [{ path: 'starts', message: 'is in the past' }],
      })
    const ownerId = body.of ?? asker.id
    const actorId = actorOf(asker.id, ownerId)
    try {
      return await transaction(
        pool,
        (sql) =>
          once(sql, clock, { asker, context, body }, async () => {
            await standingIn(sql, asker.id, ownerId, now)
            const invited = await whomToInvite(sql, body, ownerId)
            const held = body.hold ? await dropHold(sql, body.hold, asker.id) : []
            const wanted = { dates, askerId: ownerId, viewerId: asker.id, zone: body.zone }
            const places = await findPlaces(sql, wanted, now)
            const entryId = randomUUID()
            const entry = {
              ...body,
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
              takePlaces(sql, wanted, entryId),
              tell(sql, [
                ...timeChanged(people),
                ...meetingChanged(entryId, people),
                ...reservationsChanged([...places.map((place) => place.id), ...held]),
              ]),
            ])
            await oweLetters(sql, entryId, { actorId, momentMs, now })
            const changeId = await noteChange(
              sql,
              {
                ownerId,
                actorId: asker.id,
                kind: 'sent',
                title: body.title,
                entries: [{ id: entryId, version: 1, was: null }],
              },
              now,
            )
            const start = timeOrProblem({ ...body, starts: first.starts })
            return {
              entryId,
              start: new Date(start.start).toISOString(),
              end: new Date(start.end).toISOString(),
              invited: invited.length,
              moved: start.fit === 'gap',
              changeId,
            }
          }),
        { onePlan: true },
      )
    } catch (error) {
      throw await placeTrouble(pool, error, dates, { askerId: asker.id, ...body }, now)
    }
  })

  mount(readMeeting, async ({ params, query, asker }) => {
    if (!(await takesPart(pool, params.entryId, asker.id))) throw notFound('meeting')
    const seen = await noteSeen(pool, { ...params, personId: asker.id }, clock())
    const [meeting] = await meetingsFor(pool, [params.entryId], asker.id, clock(), query.recurrence ?? null)
    if (!meeting) throw notFound('meeting')
    if (seen)
      await tellMeeting(
        pool,
        params.entryId,
        meeting.participants.flatMap((one) => (one.organizer && one.personId) || []),
      )
    return meeting
  })

  mount(answerMeeting, async ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      const personId = body.of ?? asker.id
      await standingIn(sql, asker.id, personId, clock())
      const { recurrence } = body
      const who = { entryId: params.entryId, personId, actorId: asker.id, recurrence }
      // A stand-in answers what they may see, like everything else they do.
      if (
        personId !== asker.id &&
        !(await maySee(sql, params.entryId, recurrence ?? null, personId, asker.id, clock()))
      )
        throw notFound('invitation')
      await answerInvitation(sql, who, body, clock())
      return { answer: body.answer }
    }),
  )

  mount(cancelMeeting, async ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      const { entryId } = params
      const now = clock()
      await lockEntry(sql, entryId)
      const [meeting] = await readMeetings(sql, [entryId], now, body)
      if (!meeting) throw notFound('meeting of yours')
      await standingIn(sql, asker.id, meeting.organizerId, now).catch(() => {
        throw notFound('meeting of yours')
      })
      const date = meeting.repeats ? (body.recurrence ?? null) : null
      const { organizerId: ownerId, title } = meeting
      const told = meeting.participants.filter((participant) => !participant.organizer).length
      const isDate = date === null || meeting.recurrence === date || meeting.cancelledDates.includes(date)
      if (!isDate) throw notFound('date of this series')
      const was = await stateOf(sql, entryId)
      const changed =
        date === null
          ? await markCancelled(sql, entryId, ownerId, now)
          : await markDateCancelled(sql, entryId, date)
      if (!changed) return { told, changeId: null }
      const freed = await releaseOfEntry(sql, entryId, date)
      await writeOccurrences(sql, entryId, now)
      const changeId = await noteChange(
        sql,
        {
          ownerId,
          actorId: asker.id,
          kind: 'cancelled',
          title,
          entries: [{ id: entryId, version: meeting.version + 1, was }],
        },
        now,
      )
      await oweLetters(sql, entryId, { actorId: actorOf(asker.id, ownerId), momentMs, now })
      const people = meeting.participants.flatMap((participant) => participant.personId ?? [])
      await tell(sql, [
        ...timeChanged(people),
        ...meetingChanged(entryId, people),
        ...reservationsChanged(freed),
      ])
      return { told, changeId }
    }),
  )

  mount(changeMeeting, async ({ params, body, asker }) => {
    const now = clock()
    const attempt = { entryId: params.entryId, askerId: asker.id, given: body, now, momentMs }
    const wanted: WantedPlaces = { dates: [], people: [], guests: [] }
    try {
      return await transaction(pool, (sql) => change(sql, attempt, wanted))
    } catch (error) {
      throw await placeTrouble(pool, error, wanted.dates, { askerId: asker.id, ...wanted }, now)
    }
  })

  mount(undoChange, async ({ params, asker }) =>
    transaction(pool, async (sql) => {
      const now = clock()
      const { ownerId, entries } = await undo(sql, params.changeId, asker.id, now)
      const concerned = await withOthers(
        sql,
        entries.map((one) => one.entryId),
      )
      const people: string[] = [ownerId]
      for (const { entryId, places } of entries) {
        if (!concerned.has(entryId) && places.length === 0) continue
        const moved = await putPlacesBack(sql, entryId, places, now)
        await tellReservations(sql, moved)
        const asked = await peopleIn(sql, entryId)
        await tellMeeting(sql, entryId, asked)
        people.push(...asked)
        await oweLetters(sql, entryId, { actorId: actorOf(asker.id, ownerId), momentMs, now })
      }
      await tellTime(sql, people)
      return { undone: true }
    }),
  )
}

/** Whoever acts in another's name; null for the owner. */
const actorOf = (askerId: string, ownerId: string): string | null => (askerId === ownerId ? null : askerId)
