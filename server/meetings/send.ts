import { randomUUID } from 'node:crypto'
import type { sendMeeting } from '@marmot/contract/meetings'
import type { z } from 'zod'
import { startAgenda } from '../agenda/index.ts'
import {
  type Conference,
  type DateToMake,
  firstDatesOfKept,
  insertEntries,
  insertParticipants,
  noteChange,
  overrideOf,
  replaceOverrides,
  runTime,
  setOwn,
  standingIn,
  timeOrProblem,
  writeFirstDates,
} from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { dropHold } from '../openings/index.ts'
import { keepContact, siteOrProblem } from '../people/index.ts'
import { noteOrProblem } from '../platform/clean.ts'
import { type Sql, together } from '../platform/database.ts'
import { meetingChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { findPlaces, takePlaces } from '../reservations/index.ts'
import { actorOf } from './acting.ts'
import { askStewards } from './requests.ts'
import { whomToInvite } from './whom.ts'

/** A meeting as it is sent. */
type Body = z.infer<(typeof sendMeeting)['body']>

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
    place = '',
  }: {
    askerId: string
    now: number
    momentMs: number
    conference?: Conference | null
    /** Where it is, in words, beside its reserved places. */
    place?: string
  },
) => {
  const ownerId = body.of ?? askerId
  const actorId = actorOf(askerId, ownerId)
  const [first] = dates
  if (!first) throw new Error('a meeting has a date')
  await standingIn(sql, askerId, ownerId, now)
  await siteOrProblem(sql, body.outdoors)
  const invited = await whomToInvite(sql, body, ownerId)
  const held = body.hold ? await dropHold(sql, body.hold, askerId) : []
  const wanted = { dates, askerId: ownerId, viewerId: askerId, zone: body.zone }
  const places = await findPlaces(sql, wanted, now)
  const entryId = randomUUID()
  const entry = {
    ...body,
    ...runTime(body),
    conference,
    place,
    id: entryId,
    note: noteOrProblem(body.note),
  }
  const overrides = dates
    .filter((date) => date.starts !== date.recurrence)
    .map((date) => overrideOf(date.recurrence, { starts: date.starts }))
  const people = [ownerId, ...invited.flatMap((one) => one.personId ?? [])]
  await together([
    insertEntries(sql, ownerId, [entry], now),
    insertParticipants(sql, entryId, invited),
    body.categoryId || body.reminders ? setOwn(sql, entryId, ownerId, body) : Promise.resolve(false),
    overrides.length ? replaceOverrides(sql, entryId, overrides) : Promise.resolve(),
    writeFirstDates(sql, firstDatesOfKept(entryId, entry, overrides, now)),
    body.contact ? keepContact(sql, askerId, body.contact) : Promise.resolve(),
    startAgenda(sql, { entryId, recurrence: first.recurrence }, body.agenda),
    takePlaces(sql, wanted, entryId, now),
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
  if (places.some((place) => place.rules.asksApproval)) await askStewards(sql, entryId, actorId, now)
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
