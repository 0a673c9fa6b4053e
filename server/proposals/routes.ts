import type { Proposal } from '@marmot/contract/proposals'
import {
  listProposals,
  proposeForPlace,
  proposeTime,
  refuseProposal,
  takeProposal,
  withdrawProposal,
} from '@marmot/contract/proposals'
import { MINUTE, toWall, wallText, zoneTable } from '@marmot/core/time'
import {
  actingOn,
  lockEntry,
  mayActOn,
  readMeetings,
  takesPart,
  type WholeMeeting,
} from '../entries/index.ts'
import { declineCounter, oweLetters } from '../letters/index.ts'
import { actorOf, change, mayAnswerFor, placeTrouble } from '../meetings/index.ts'
import { addPlaceNotices } from '../notices/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { meetingChanged, reservationsChanged, tell, tellMeeting } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { decideRequests } from '../reservations/index.ts'
import { propose, proposeInstead } from './propose.ts'
import { entryOfProposal, type KeptProposal, openProposals, setProposalState } from './store.ts'

/** A proposal as it travels. */
export const proposalOnWire = (one: KeptProposal): Proposal => ({
  ...one,
  recurrence: one.repeats ? one.recurrence : null,
  start: new Date(one.start).toISOString(),
  end: new Date(one.end).toISOString(),
  at: one.at.toISOString(),
})

export const proposalsRoutes = ({ mount, deps }: Routes, { settings }: Pick<House, 'settings'>): void => {
  const { pool, clock } = deps
  const { takeBackMs: momentMs } = settings

  mount(proposeTime, ({ params, body, asker, context }) => {
    const { of, recurrence, start, ...given } = body
    const personId = of ?? asker.id
    const { entryId } = params
    return transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        await mayAnswerFor(
          sql,
          { askerId: asker.id, personId, entryId, recurrence: recurrence ?? null },
          clock(),
        )
        const who = { entryId, personId, actorId: asker.id, recurrence }
        return { proposalId: await propose(sql, who, { ...given, start: Date.parse(start) }, clock()) }
      }),
    )
  })

  mount(proposeForPlace, ({ params, body, asker, context }) => {
    const { recurrence = null, start, ...given } = body
    return transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const asked = { ...params, stewardId: asker.id }
        const proposed = { ...given, start: Date.parse(start), recurrence }
        return { proposalId: await proposeInstead(sql, asked, proposed, clock()) }
      }),
    )
  })

  mount(listProposals, async ({ params, asker }) => {
    const now = clock()
    const [meeting] = await readMeetings(pool, [params.entryId], now)
    if (!meeting) throw notFound('meeting')
    const all = await mayActOn(pool, meeting, asker.id, now)
    if (!all && !(await takesPart(pool, params.entryId, asker.id))) throw notFound('meeting')
    const open = await openProposals(pool, [params.entryId], now)
    return {
      proposals: open.filter((one) => all || one.personId === asker.id).map(proposalOnWire),
    }
  })

  /** The meeting, locked, and the open proposal for it, if the asker may change it. */
  const inHand = async (
    sql: Sql,
    proposalId: string,
    askerId: string,
    now: number,
  ): Promise<{ meeting: WholeMeeting; organizerId: string; proposal: KeptProposal }> => {
    const entryId = await entryOfProposal(sql, proposalId)
    if (!entryId) throw notFound('proposal')
    await lockEntry(sql, entryId)
    const [first] = await readMeetings(sql, [entryId], now)
    if (!first) throw notFound('proposal')
    await actingOn(sql, first, askerId, now)
    const proposal = (await openProposals(sql, [entryId], now)).find((one) => one.id === proposalId)
    const [meeting] = proposal ? await readMeetings(sql, [entryId], now, proposal) : []
    if (!proposal || !meeting || meeting.cancelled || meeting.organizerId === null)
      throw new ProblemError(
        409,
        'proposal-closed',
        'This proposal is not open any more: it was withdrawn or answered, or the meeting has changed since.',
      )
    return { meeting, organizerId: meeting.organizerId, proposal }
  }

  mount(takeProposal, async ({ params, body, asker, context }) => {
    const now = clock()
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, { asker, context, body }, async () => {
          const { meeting, organizerId, proposal } = await inHand(sql, params.proposalId, asker.id, now)
          const { entryId, zone } = meeting
          const recurrence = meeting.repeats ? proposal.recurrence : undefined
          const { tellings: _, ...changed } = await change(sql, {
            entryId,
            askerId: asker.id,
            given: {
              version: body.version,
              scope: 'this',
              recurrence,
              starts: wallText(toWall(zoneTable(zone), proposal.start)),
              minutes: Math.round((proposal.end - proposal.start) / MINUTE),
            },
            now,
            momentMs,
            // Whoever proposed a time has said that they can come then.
            ...(proposal.participantId ? { accepting: proposal.participantId } : {}),
          })
          await setProposalState(sql, proposal.id, 'taken')
          const { place, personId: stewardId } = proposal
          if (place && stewardId) {
            const asked = { entryId, resourceId: place.id, stewardId }
            // Their steward has said that they can have it then.
            await decideRequests(sql, asked, true, now, recurrence ?? null)
            await addPlaceNotices(
              sql,
              entryId,
              [{ personId: stewardId, kind: 'time-taken', words: place.name }],
              asker.id,
              now,
            )
            await oweLetters(sql, entryId, { actorId: actorOf(asker.id, organizerId), momentMs, now })
            await tell(sql, [...meetingChanged(entryId, [stewardId]), ...reservationsChanged([place.id])])
          }
          return changed
        }),
      )
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, now)
    }
  })

  mount(refuseProposal, ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      const now = clock()
      const { meeting, organizerId, proposal } = await inHand(sql, params.proposalId, asker.id, now)
      const participant = meeting.participants.find((one) => one.id === proposal.participantId)
      await setProposalState(sql, proposal.id, 'refused')
      if (participant)
        await declineCounter(
          sql,
          meeting.entryId,
          {
            participant,
            recurrence: meeting.repeats ? proposal.recurrence : null,
            proposed: proposal,
            words: body.message,
          },
          actorOf(asker.id, organizerId),
          now,
        )
      if (proposal.place && proposal.personId) {
        const { name } = proposal.place
        const words = body.message ? `${name}: ${body.message}` : name
        await addPlaceNotices(
          sql,
          meeting.entryId,
          [{ personId: proposal.personId, kind: 'time-kept', words }],
          asker.id,
          now,
        )
      }
      await tellMeeting(sql, meeting.entryId, [
        organizerId,
        ...(proposal.personId ? [proposal.personId] : []),
      ])
      return {}
    }),
  )

  mount(withdrawProposal, ({ params, asker }) =>
    transaction(pool, async (sql) => {
      const now = clock()
      const entryId = await entryOfProposal(sql, params.proposalId)
      if (!entryId) throw notFound('proposal')
      await lockEntry(sql, entryId)
      const [mine] = (await openProposals(sql, [entryId], now)).filter((one) => one.id === params.proposalId)
      if (mine?.personId !== asker.id) throw notFound('proposal')
      await setProposalState(sql, mine.id, 'withdrawn')
      const [meeting] = await readMeetings(sql, [entryId], now)
      await tellMeeting(sql, entryId, [asker.id, ...(meeting?.organizerId ? [meeting.organizerId] : [])])
      return {}
    }),
  )
}
