import { countNow, listNow } from '@marmot/contract/now'
import { OWN_LEVEL } from '@marmot/core/sharing'
import { DAY } from '@marmot/core/time'
import { idsOrganized, idsToAnswer, ownOccurrences } from '../entries/index.ts'
import { exchangesFor } from '../exchanges/index.ts'
import { meetingsFor } from '../meetings/index.ts'
import { readNotices } from '../notices/index.ts'
import { together } from '../platform/database.ts'
import type { Routes } from '../platform/router.ts'
import { pollsFor } from '../polls/index.ts'
import { openOfStewards, openProposals, proposalOnWire } from '../proposals/index.ts'
import { requestsFor } from '../reservations/index.ts'
import { dueTodos } from '../todos/index.ts'

const MOST_NEXT = 6
const MOST_PROPOSALS = 20
const MOST_TODOS = 5

export const nowRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  /** The other times that somebody has to say yes or no to, of what they organize or look after. */
  const proposedTo = async (
    personId: string,
    organized: readonly string[],
    ofStewards: Awaited<ReturnType<typeof openOfStewards>>,
    now: number,
  ) => {
    const open = await openProposals(pool, organized, now)
    // What I reserve for myself is none of the meetings that I organize.
    const alone = ofStewards.filter((one) => one.personId !== personId && !organized.includes(one.entryId))
    return [...alone, ...open].slice(0, MOST_PROPOSALS)
  }

  mount(countNow, async ({ asker }) => {
    const now = clock()
    const organized = await idsOrganized(pool, asker.id, now)
    const ofStewards = await openOfStewards(pool, asker.id, now, MOST_PROPOSALS)
    const [toAnswer, proposed, requests, exchanges, polls] = await together([
      idsToAnswer(pool, asker.id, now),
      proposedTo(asker.id, organized, ofStewards, now),
      requestsFor(pool, asker.id, now),
      exchangesFor(pool, asker.id, now),
      pollsFor(pool, asker.id, now),
    ])
    const asked = exchanges.filter((one) => !one.mine).length + polls.filter((poll) => !poll.mine).length
    return { waiting: toAnswer.length + proposed.length + requests.length + asked }
  })

  mount(listNow, async ({ asker }) => {
    const now = clock()
    // All at once: together they take hardly longer than the slowest.
    const [toAnswer, organized, ofStewards, ahead, asked, exchanges, polls, todos, notices] = await together([
      idsToAnswer(pool, asker.id, now),
      idsOrganized(pool, asker.id, now),
      openOfStewards(pool, asker.id, now, MOST_PROPOSALS),
      ownOccurrences(pool, asker.id, now, now + 3 * DAY, { level: OWN_LEVEL, owns: true }, now),
      requestsFor(pool, asker.id, now),
      exchangesFor(pool, asker.id, now),
      pollsFor(pool, asker.id, now),
      dueTodos(pool, asker.id, now + 7 * DAY, MOST_TODOS),
      readNotices(pool, asker.id),
    ])
    const [meetings, proposed] = await together([
      meetingsFor(pool, [...toAnswer, ...organized], asker.id, now),
      proposedTo(asker.id, organized, ofStewards, now),
    ])
    // Each with its meeting as it is on that date: most are read already, being single or about the next date.
    const proposals = await Promise.all(
      proposed.map(async (one) => {
        const proposal = proposalOnWire(one)
        const read = meetings.find((each) => each.entryId === one.entryId)
        const there = read?.recurrence === proposal.recurrence
        const [meeting] =
          there && read ? [read] : await meetingsFor(pool, [one.entryId], asker.id, now, one.recurrence)
        return meeting ? [{ proposal, meeting }] : []
      }),
    )
    const inOrder = (ids: string[]) =>
      ids.flatMap((id) => meetings.find((meeting) => meeting.entryId === id) ?? [])
    return {
      toAnswer: inOrder(toAnswer),
      organized: inOrder(organized),
      proposals: proposals.flat(),
      next: ahead.filter((one) => one.state !== null && one.state !== 'listed').slice(0, MOST_NEXT),
      requests: asked.map((request) => ({
        ...request,
        proposed: ofStewards
          .filter((one) => one.entryId === request.entryId && one.place?.id === request.resourceId)
          .map(proposalOnWire)
          .map(({ id: proposalId, start, end, recurrence }) => ({ proposalId, start, end, recurrence })),
      })),
      exchanges,
      polls,
      todos,
      notices,
    }
  })
}
