import { randomUUID } from 'node:crypto'
import { answerMeeting, cancelMeeting, readMeeting, sendMeeting } from '@marmot/contract/meetings'
import { noteOfText } from '@marmot/core/entries'
import { seriesRule, seriesWalls } from '@marmot/core/openings'
import { DAY, dayOf, shortDay, wallFromText, wallText } from '@marmot/core/time'
import type { z } from 'zod'
import {
  firstDatesOfKept,
  horizonOf,
  type Invited,
  insertEntries,
  insertParticipants,
  markCancelled,
  markDateCancelled,
  maySee,
  noteChange,
  noteSeen,
  overrideOf,
  readMeetings,
  replaceOverrides,
  standingIn,
  takesPart,
  timeOrProblem,
  writeFirstDates,
  writeOccurrences,
} from '../entries/index.ts'
import { addMessages } from '../letters/index.ts'
import { addNotices } from '../notices/index.ts'
import { dropHold } from '../openings/index.ts'
import { peopleByAddress, peopleByIds } from '../people/index.ts'
import { cleanNote } from '../platform/clean.ts'
import { isRefusedBy, type Sql, together, transaction } from '../platform/database.ts'
import { meetingChanged, reservationsChanged, tell, tellMeeting, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import {
  findPlaces,
  NO_DOUBLE,
  PlaceRefused,
  releaseOfEntry,
  takePlaces,
  type WantedDate,
  withAlternatives,
} from '../reservations/index.ts'
import { answerInvitation } from './answers.ts'
import { meetingsFor } from './store.ts'

interface Chosen {
  readonly people: readonly { id: string; required: boolean }[]
  readonly guests: readonly { address: string; name: string; required: boolean }[]
}

/** Everybody to invite, each once; the organizer is there already. Throws when somebody does not exist. */
const whomToInvite = async (sql: Sql, chosen: Chosen, organizerId: string): Promise<Invited[]> => {
  const [known, colleagues] = await together([
    peopleByIds(
      sql,
      chosen.people.map((person) => person.id),
    ),
    peopleByAddress(
      sql,
      chosen.guests.map((guest) => guest.address),
    ),
  ])
  const missing = chosen.people.findIndex((person) => !known.some((one) => one.id === person.id))
  if (missing >= 0)
    throw new ProblemError(
      422,
      'no-such-person',
      'One of the people is not in the directory any more. Nothing was sent.',
      {
        fields: [{ path: `people.${missing}`, message: 'is not in the directory' }],
      },
    )
  const invited = new Map<string, Invited>()
  for (const { id, required } of chosen.people)
    if (id !== organizerId) invited.set(id, { personId: id, address: null, name: '', required })
  for (const guest of chosen.guests) {
    const colleague = colleagues.find((one) => one.address === guest.address)?.id
    if (colleague === organizerId || (colleague && invited.has(colleague))) continue
    invited.set(colleague ?? guest.address, {
      personId: colleague ?? null,
      address: colleague ? null : guest.address,
      name: colleague ? '' : guest.name,
      required: guest.required,
    })
  }
  return [...invited.values()]
}

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

export const meetingsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

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
    const actorId = ownerId === asker.id ? null : asker.id
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
              addMessages(sql, entryId, 'REQUEST', now, actorId),
              addNotices(sql, entryId, 'invited', now, actorId),
              tell(sql, [
                ...timeChanged(people),
                ...meetingChanged(entryId, people),
                ...reservationsChanged([...places.map((place) => place.id), ...held]),
              ]),
            ])
            if (actorId)
              await noteChange(sql, { ownerId, actorId, kind: 'sent', title: body.title, entries: [] }, now)
            const start = timeOrProblem({ ...body, starts: first.starts })
            return {
              entryId,
              start: new Date(start.start).toISOString(),
              end: new Date(start.end).toISOString(),
              invited: invited.length,
              moved: start.fit === 'gap',
            }
          }),
        { onePlan: true },
      )
    } catch (error) {
      const refused = isRefusedBy(error, NO_DOUBLE)
        ? new PlaceRefused(
            'place-taken',
            'A place was taken a moment ago.',
            first.placeIds[0] ?? '',
            null,
            first,
          )
        : error
      if (!(refused instanceof PlaceRefused)) throw error
      const people = await peopleByIds(pool, [asker.id, ...body.people.map((person) => person.id)])
      const home = people.find((person) => person.id === asker.id)?.siteId
      // As on the screen: guests come to the organizer's site.
      const seatsAt = (siteId: string) =>
        people.filter((person) => person.siteId === siteId).length +
        (siteId === home ? body.guests.length : 0)
      const { code, detail, placeId, holder, date } = refused
      const dated = body.series
        ? new PlaceRefused(
            code,
            `On ${shortDay(dayOf(wallFromText(date.recurrence) ?? 0))}: ${detail}`,
            placeId,
            holder,
            date,
          )
        : refused
      throw await withAlternatives(pool, dated, { askerId: asker.id, seatsAt }, now)
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
      const [meeting] = await readMeetings(sql, [entryId], clock(), body.recurrence ?? null)
      if (!meeting) throw notFound('meeting of yours')
      await standingIn(sql, asker.id, meeting.organizerId, clock()).catch(() => {
        throw notFound('meeting of yours')
      })
      const date = meeting.repeats ? (body.recurrence ?? null) : null
      const { organizerId: ownerId, title } = meeting
      const actorId = ownerId === asker.id ? null : asker.id
      const told = meeting.participants.filter((participant) => !participant.organizer).length
      const isDate = date === null || meeting.recurrence === date || meeting.cancelledDates.includes(date)
      if (!isDate) throw notFound('date of this series')
      const changed =
        date === null
          ? await markCancelled(sql, entryId, ownerId, clock())
          : await markDateCancelled(sql, entryId, date)
      if (!changed) return { told }
      const freed = await releaseOfEntry(sql, entryId, date)
      await addMessages(sql, entryId, 'CANCEL', clock(), actorId, date)
      await addNotices(sql, entryId, 'cancelled', clock(), actorId, date)
      await writeOccurrences(sql, entryId, clock())
      if (actorId) await noteChange(sql, { ownerId, actorId, kind: 'cancelled', title, entries: [] }, clock())
      const people = meeting.participants.flatMap((participant) => participant.personId ?? [])
      await tell(sql, [
        ...timeChanged(people),
        ...meetingChanged(entryId, people),
        ...reservationsChanged(freed),
      ])
      return { told }
    }),
  )
}
