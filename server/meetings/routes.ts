import { answerMeeting, cancelMeeting, readMeeting, sendMeeting } from '@marmot/contract/meetings'
import { noteOfText } from '@marmot/core/entries'
import {
  insertEntry,
  maySee,
  noteChange,
  standingIn,
  timeOrProblem,
  writeOccurrences,
} from '../entries/index.ts'
import { addMessages, answerInvitation } from '../invitations/index.ts'
import { addNotices } from '../notices/index.ts'
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

export const meetingsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(sendMeeting, async ({ body, asker, context }) => {
    const span = timeOrProblem(body)
    if (span.end <= clock())
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
              rule: null,
              added: [],
              excepted: [],
              place: '',
              shows: 'busy',
              private: false,
            },
            clock(),
          )
          await insertParticipants(sql, entryId, invited)
          await writeOccurrences(sql, entryId, clock())
          const places = await takePlaces(
            sql,
            { placeIds: body.places, entryId, askerId: ownerId, span, recurrence: body.starts },
            clock(),
          )
          await setPlaceWords(sql, entryId, places.map((place) => `${place.name}, ${place.site}`).join('; '))
          await addMessages(sql, entryId, 'REQUEST', clock(), actorId)
          await addNotices(sql, entryId, 'invited', clock(), actorId)
          if (actorId)
            await noteChange(sql, { ownerId, actorId, kind: 'sent', title: body.title, entries: [] }, clock())
          const people = [ownerId, ...invited.flatMap((one) => one.personId ?? [])]
          await tellTime(sql, people)
          await tellMeeting(sql, entryId, people)
          await tellReservations(
            sql,
            places.map((place) => place.id),
          )
          return {
            entryId,
            start: new Date(span.start).toISOString(),
            end: new Date(span.end).toISOString(),
            invited: invited.length,
            moved: span.fit === 'gap',
          }
        }),
      )
    } catch (error) {
      const refused = isRefusedBy(error, NO_DOUBLE)
        ? new PlaceRefused('place-taken', 'A place was taken a moment ago.', body.places[0] ?? '', null)
        : error
      if (!(refused instanceof PlaceRefused)) throw error
      const people = await peopleByIds(pool, [asker.id, ...body.people.map((person) => person.id)])
      const home = people.find((person) => person.id === asker.id)?.siteId
      // As on the screen: guests come to the organizer's site.
      const seatsAt = (siteId: string) =>
        people.filter((person) => person.siteId === siteId).length +
        (siteId === home ? body.guests.length : 0)
      const asked = { askerId: asker.id, span, seatsAt, notThese: body.places }
      throw await withAlternatives(pool, refused, asked, clock())
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
