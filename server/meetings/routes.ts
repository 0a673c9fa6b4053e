import { answerMeeting, cancelMeeting, readMeeting, sendMeeting } from '@marmot/contract/meetings'
import type { Span } from '@marmot/core/availability'
import { noteOfText } from '@marmot/core/entries'
import { seriesRule, seriesWalls } from '@marmot/core/openings'
import { DAY, dayOf, shortDay, wallFromText, wallText } from '@marmot/core/time'
import type { z } from 'zod'
import {
  horizonOf,
  insertEntry,
  maySee,
  noteChange,
  replaceOverrides,
  standingIn,
  timeOrProblem,
  writeOccurrences,
} from '../entries/index.ts'
import { addMessages, answerInvitation } from '../invitations/index.ts'
import { addNotices } from '../notices/index.ts'
import { dropHold } from '../openings/index.ts'
import { peopleByIds } from '../people/index.ts'
import { cleanNote } from '../platform/clean.ts'
import { isRefusedBy, type Sql, transaction } from '../platform/database.ts'
import { tellMeeting, tellReservations, tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import {
  NO_DOUBLE,
  PlaceRefused,
  releaseOfEntry,
  takePlaces,
  withAlternatives,
} from '../reservations/index.ts'
import {
  type Invited,
  insertParticipants,
  markCancelled,
  meetingFor,
  noteSeen,
  peopleByAddress,
  readMeetings,
  setPlaceWords,
  takesPart,
} from './store.ts'

interface Chosen {
  readonly people: readonly { id: string; required: boolean }[]
  readonly guests: readonly { address: string; name: string; required: boolean }[]
}

/** Everybody to invite, each once; the organizer is there already. Throws when somebody does not exist. */
const whomToInvite = async (sql: Sql, chosen: Chosen, organizerId: string): Promise<Invited[]> => {
  const known = await peopleByIds(
    sql,
    chosen.people.map((person) => person.id),
  )
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
  const colleagues = await peopleByAddress(
    sql,
    chosen.guests.map((guest) => guest.address),
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

/** A date that changes nothing of its series. */
const SAME = {
  cancelled: false,
  minutes: null,
  title: null,
  note: null,
  shows: null,
  private: null,
}

type Body = z.infer<(typeof sendMeeting)['body']>

/** One date to make: its place in the series, when it is, and the places it takes. */
interface DateToMake {
  readonly recurrence: string
  readonly starts: string
  readonly places: readonly string[]
  readonly span: Span
  readonly changed: boolean
}

/** The dates of a meeting, one or a series with its repairs. Throws when a change is for no date of it. */
const datesOf = (body: Body, now: number): DateToMake[] => {
  const dateAt = (recurrence: string): DateToMake => {
    const change = body.series?.changes.find((each) => each.recurrence === recurrence)
    const starts = change?.starts ?? recurrence
    const span = timeOrProblem({ ...body, starts })
    return { recurrence, starts, span, places: change?.places ?? body.places, changed: change !== undefined }
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

const placeWords = (places: readonly { name: string; site: string }[]): string =>
  places.map((place) => `${place.name}, ${place.site}`).join('; ')

export const meetingsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(sendMeeting, async ({ body, asker, context }) => {
    timeOrProblem(body)
    const dates = datesOf(body, clock())
    const [first] = dates
    if (!first) throw new Error('a meeting has a date')
    // Which date's places are being taken, for saying what else is free when one is refused.
    let at = first
    if (dates.some((date) => date.span.end <= clock()))
      throw new ProblemError(422, 'in-the-past', 'That time is over. Choose one that is still to come.', {
        fields: [{ path: 'starts', message: 'is in the past' }],
      })
    const ownerId = body.of ?? asker.id
    const actorId = ownerId === asker.id ? null : asker.id
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, { asker, context, body }, async () => {
          await standingIn(sql, asker.id, ownerId, clock())
          const invited = await whomToInvite(sql, body, ownerId)
          const entryId = await insertEntry(
            sql,
            ownerId,
            {
              ...body,
              note: cleanNote(noteOfText(body.note)),
              allDay: false,
              rule: body.series ? seriesRule(body.series.rule, dayOf(wallFromText(body.starts) ?? 0)) : null,
              added: [],
              excepted: [],
              place: '',
              shows: 'busy',
              private: false,
            },
            clock(),
          )
          await insertParticipants(sql, entryId, invited)
          const held = body.hold ? await dropHold(sql, body.hold, asker.id) : []
          const taken = new Map<string, { id: string; name: string; site: string }>()
          const wordsOf = (date: DateToMake) => placeWords(date.places.flatMap((id) => taken.get(id) ?? []))
          for (const date of dates) {
            at = date
            const { places: placeIds, span, recurrence } = date
            for (const place of await takePlaces(
              sql,
              { placeIds, entryId, askerId: ownerId, span, recurrence },
              clock(),
            ))
              taken.set(place.id, place)
          }
          await setPlaceWords(sql, entryId, wordsOf({ ...first, places: body.places }))
          await replaceOverrides(
            sql,
            entryId,
            dates
              .filter((date) => date.changed)
              .map((date) => ({
                ...SAME,
                recurrence: date.recurrence,
                starts: date.starts === date.recurrence ? null : date.starts,
                place: date.places.join() === body.places.join() ? null : wordsOf(date),
              })),
          )
          await writeOccurrences(sql, entryId, clock())
          await addMessages(sql, entryId, 'REQUEST', clock(), actorId)
          await addNotices(sql, entryId, 'invited', clock(), actorId)
          if (actorId)
            await noteChange(sql, { ownerId, actorId, kind: 'sent', title: body.title, entries: [] }, clock())
          const people = [ownerId, ...invited.flatMap((one) => one.personId ?? [])]
          await tellTime(sql, people)
          await tellMeeting(sql, entryId, people)
          await tellReservations(sql, [...taken.keys(), ...held])
          const start = timeOrProblem({ ...body, starts: first.starts })
          return {
            entryId,
            start: new Date(start.start).toISOString(),
            end: new Date(start.end).toISOString(),
            invited: invited.length,
            moved: start.fit === 'gap',
          }
        }),
      )
    } catch (error) {
      const refused = isRefusedBy(error, NO_DOUBLE)
        ? new PlaceRefused('place-taken', 'A place was taken a moment ago.', at.places[0] ?? '', null)
        : error
      if (!(refused instanceof PlaceRefused)) throw error
      const people = await peopleByIds(pool, [asker.id, ...body.people.map((person) => person.id)])
      const home = people.find((person) => person.id === asker.id)?.siteId
      // As on the screen: guests come to the organizer's site.
      const seatsAt = (siteId: string) =>
        people.filter((person) => person.siteId === siteId).length +
        (siteId === home ? body.guests.length : 0)
      const asked = { askerId: asker.id, span: at.span, seatsAt, notThese: at.places }
      const dated = body.series
        ? new PlaceRefused(
            refused.code,
            `On ${shortDay(dayOf(wallFromText(at.starts) ?? 0))}: ${refused.detail}`,
            refused.placeId,
            refused.holder,
          )
        : refused
      throw await withAlternatives(pool, dated, asked, clock())
    }
  })

  mount(readMeeting, async ({ params, query, asker }) => {
    if (!(await takesPart(pool, params.entryId, asker.id))) throw notFound('meeting')
    const seen = await noteSeen(pool, params.entryId, asker.id, clock())
    const [meeting] = await readMeetings(pool, [params.entryId], clock(), query.recurrence)
    if (!meeting) throw notFound('meeting')
    if (seen) await tellMeeting(pool, params.entryId, [meeting.organizerId])
    return meetingFor(meeting, asker.id)
  })

  mount(answerMeeting, async ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      const personId = body.of ?? asker.id
      await standingIn(sql, asker.id, personId, clock())
      const who = { entryId: params.entryId, personId, actorId: asker.id }
      // A stand-in answers what they may see, like everything else they do.
      if (personId !== asker.id && !(await maySee(sql, params.entryId, personId, asker.id, clock())))
        throw notFound('invitation')
      await answerInvitation(sql, who, body, clock())
      return { answer: body.answer }
    }),
  )

  mount(cancelMeeting, async ({ params, asker }) =>
    transaction(pool, async (sql) => {
      const [meeting] = await readMeetings(sql, [params.entryId], clock())
      if (!meeting) throw notFound('meeting of yours')
      await standingIn(sql, asker.id, meeting.organizerId, clock()).catch(() => {
        throw notFound('meeting of yours')
      })
      const actorId = meeting.organizerId === asker.id ? null : asker.id
      const told = meeting.participants.filter((participant) => !participant.organizer)
      if (!(await markCancelled(sql, params.entryId, meeting.organizerId, clock())))
        return { told: told.length }
      const freed = await releaseOfEntry(sql, params.entryId)
      await addMessages(sql, params.entryId, 'CANCEL', clock(), actorId)
      await addNotices(sql, params.entryId, 'cancelled', clock(), actorId)
      await writeOccurrences(sql, params.entryId, clock())
      const people = meeting.participants.flatMap((participant) => participant.personId ?? [])
      await tellTime(sql, people)
      await tellMeeting(sql, params.entryId, people)
      await tellReservations(sql, freed)
      return { told: told.length }
    }),
  )
}
