import { randomUUID } from 'node:crypto'
import { undoChange } from '@marmot/contract/entries'
import {
  answerMeeting,
  cancelMeeting,
  changeMeeting,
  delegateMeeting,
  listInvitations,
  lookAtChange,
  MOST_COMING,
  nudgeMeeting,
  readDates,
  readMeeting,
  sendMeeting,
} from '@marmot/contract/meetings'
import { decideRequest } from '@marmot/contract/requests'
import { DAY, instantText } from '@marmot/core/time'
import { conferenceFor } from '../conferences/index.ts'
import {
  actingOn,
  comingOnLane,
  datesToMake,
  invitationsOf,
  noteSeen,
  peopleIn,
  readMeetings,
  takesPart,
  timeOrProblem,
  undo,
  withOthers,
} from '../entries/index.ts'
import { nudge, oweTellings, toldIn } from '../letters/index.ts'
import { keepQuiet } from '../people/index.ts'
import { together, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { tellMeeting, tellReservations, tellTime } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { putPlacesBack, stillReserving } from '../reservations/index.ts'
import { undoTodos } from '../todos/index.ts'
import { actorOf, mayAnswerFor } from './acting.ts'
import { answerInvitation } from './answers.ts'
import { cancel } from './cancel.ts'
import { change } from './change.ts'
import { delegate } from './delegate.ts'
import { inVain, placeTrouble } from './place-trouble.ts'
import { decide } from './requests.ts'
import { send } from './send.ts'
import { meetingsFor } from './store.ts'

const LOOKED_AT = { room: '', link: 'https://looked.at', telephone: '', code: '' }

/** What is over stays in the list of invitations for so long. */
const LATELY = 28 * DAY
const MOST_INVITATIONS = 2000

/** What somebody was invited to, and what a series has to come for whoever takes part in it. */
export const datesRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps
  mount(listInvitations, async ({ asker }) => {
    const now = clock()
    const found = await invitationsOf(pool, asker.id, now - LATELY, now, MOST_INVITATIONS + 1)
    return {
      invitations: found.slice(0, MOST_INVITATIONS).map((one) => ({
        ...one,
        start: instantText(one.start),
        end: instantText(one.end),
      })),
      more: found.length > MOST_INVITATIONS,
    }
  })
  mount(readDates, async ({ params, asker }) => {
    const { entryId } = params
    if (!(await takesPart(pool, entryId, asker.id))) throw notFound('meeting')
    const dates = await comingOnLane(pool, asker.id, entryId, clock(), MOST_COMING + 1)
    return {
      dates: dates.slice(0, MOST_COMING).map((date) => ({
        ...date,
        start: new Date(date.start).toISOString(),
        end: new Date(date.end).toISOString(),
      })),
      more: dates.length > MOST_COMING,
    }
  })
}

export const meetingsRoutes = ({ mount, deps }: Routes, house: House): void => {
  const { pool, clock } = deps
  const { takeBackMs: momentMs } = house.settings

  mount(sendMeeting, async ({ body, asker, context }) => {
    timeOrProblem(body)
    const now = clock()
    const dates = datesToMake(body, now)
    const conference = body.conference ? await conferenceFor(house, randomUUID(), body.title) : null
    try {
      return await transaction(
        pool,
        (sql) =>
          once(sql, clock, { asker, context, body }, () =>
            send(sql, body, dates, { askerId: asker.id, now, momentMs, conference }).catch(
              inVain({ ...body, dates, organizerId: body.of ?? asker.id }),
            ),
          ),
        { onePlan: true },
      )
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, now)
    }
  })

  mount(readMeeting, async ({ params, query, asker }) => {
    const part = await takesPart(pool, params.entryId, asker.id)
    const seen = part && (await noteSeen(pool, { ...params, personId: asker.id }, clock()))
    const [meeting] = await meetingsFor(pool, [params.entryId], asker.id, clock(), query.recurrence ?? null)
    if (!meeting || !(part || meeting.mayChange)) throw notFound('meeting')
    // Who was asked to some dates alone does not learn of the others.
    const mine = [...meeting.participants, ...meeting.elsewhere].find((one) => one.personId === asker.id)
    if (!meeting.mayChange && !mine) throw notFound('meeting')
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
      const { recurrence, late, ...given } = body
      await mayAnswerFor(
        sql,
        { askerId: asker.id, personId, entryId: params.entryId, recurrence: recurrence ?? null },
        clock(),
      )
      const who = { entryId: params.entryId, personId, actorId: asker.id, recurrence }
      const seen = late ? { given: Date.parse(late.given), version: late.version } : null
      await answerInvitation(
        sql,
        who,
        { ...given, late: seen, ...(seen ? { version: seen.version } : {}) },
        clock(),
      )
      if (personId === asker.id) await keepQuiet(sql, personId, body.quiet)
      return { answer: body.answer }
    }),
  )

  mount(delegateMeeting, async ({ params, body, asker, context }) => {
    const { recurrence, message, to } = body
    const personId = body.of ?? asker.id
    const { entryId } = params
    return transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        await mayAnswerFor(
          sql,
          { askerId: asker.id, personId, entryId, recurrence: recurrence ?? null },
          clock(),
        )
        const who = { entryId, personId, actorId: asker.id, recurrence }
        const chosen =
          'person' in to
            ? { people: [{ id: to.person, required: true }], guests: [] }
            : { people: [], guests: [{ ...to, required: true }] }
        await delegate(sql, who, chosen, { message }, { now: clock(), momentMs })
        return { answer: 'delegated' as const }
      }),
    )
  })

  mount(cancelMeeting, ({ params, body, asker }) =>
    transaction(pool, (sql) =>
      cancel(
        sql,
        params.entryId,
        { ...body, recurrence: body.recurrence ?? null },
        { askerId: asker.id, now: clock(), momentMs },
      ),
    ),
  )

  mount(changeMeeting, async ({ params, body, asker, context }) => {
    const now = clock()
    const conference = body.conference
      ? { conference: await conferenceFor(house, randomUUID(), body.title ?? '') }
      : {}
    const attempt = { entryId: params.entryId, askerId: asker.id, given: body, now, momentMs, ...conference }
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, { asker, context, body }, async () => {
          const { tellings: _, ...changed } = await change(sql, attempt)
          return changed
        }),
      )
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, now)
    }
  })

  mount(lookAtChange, async ({ params, body, asker }) => {
    const now = clock()
    // Any link will do to see who would be told of one.
    const conference = body.conference ? { conference: LOOKED_AT } : {}
    const attempt = { entryId: params.entryId, askerId: asker.id, given: body, now, momentMs, ...conference }
    try {
      return await transaction(pool, (sql) => change(sql, attempt), { rehearsed: true })
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, now)
    }
  })

  mount(decideRequest, ({ params, body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, () =>
        decide(sql, { ...params, stewardId: asker.id }, body, clock()),
      ),
    ),
  )

  mount(nudgeMeeting, ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      const now = clock()
      const { entryId } = params
      const [meeting] = await readMeetings(sql, [entryId], now)
      if (!meeting) throw notFound('meeting of yours')
      await actingOn(sql, meeting, asker.id, now)
      if (meeting.organizerId === null) throw notFound('meeting of yours')
      return nudge(sql, entryId, {
        recurrence: body.recurrence ?? null,
        participantIds: body.participant ? [body.participant] : null,
        actorId: actorOf(asker.id, meeting.organizerId),
        now,
      })
    }),
  )

  mount(undoChange, async ({ params, asker }) =>
    transaction(pool, async (sql) => {
      const now = clock()
      const { ownerId, entries } = await undo(sql, params.changeId, asker.id, now)
      await undoTodos(sql, params.changeId, ownerId, now)
      const ids = entries.map((one) => one.entryId)
      const [concerned, placed] = await together([withOthers(sql, ids), stillReserving(sql, ids)])
      const people: string[] = [ownerId]
      let told = 0
      for (const { entryId, places } of entries) {
        if (!concerned.has(entryId) && !placed.has(entryId) && places.length === 0) continue
        const moved = await putPlacesBack(sql, entryId, places, now)
        await tellReservations(sql, moved)
        const asked = await peopleIn(sql, entryId)
        await tellMeeting(sql, entryId, asked)
        people.push(...asked)
        const owing = { actorId: actorOf(asker.id, ownerId), momentMs, now }
        told += toldIn(await oweTellings(sql, entryId, owing))
      }
      await tellTime(sql, people)
      return { undone: true, told }
    }),
  )
}
