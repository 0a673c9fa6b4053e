import { randomUUID } from 'node:crypto'
import {
  askPoll,
  changePoll,
  decidePoll,
  nudgePoll,
  readPoll,
  renewPollLink,
  reopenPoll,
  withdrawPoll,
} from '@marmot/contract/organized-polls'
import {
  joinPoll,
  markByLink,
  markPoll,
  pollLinkEvents,
  proposeTime,
  proposeTimeByLink,
  readPollByLink,
} from '@marmot/contract/polls'
import { conferenceFor } from '../conferences/index.ts'
import { mayStandIn } from '../entries/index.ts'
import { comeTo, type DoorLimit } from '../links/index.ts'
import { placeTrouble } from '../meetings/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { pollChanged, tell } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { ask, changeAsked, keepDoor, openToChange } from './asking.ts'
import { decide, reopen, withdraw } from './deciding.ts'
import { byLink, join, mark, propose } from './marking.ts'
import { askedView, organizedView, organizing, pollOrProblem, wishOf } from './reading.ts'
import { findVoter, type KeptPoll, noteLooked, voterOf } from './store.ts'
import { nudge, sendNewLink } from './telling.ts'

/** Coming by a link to read is nothing; each of these writes something that others see. */
const MARKING: DoorLimit = { door: 'poll-marks', subject: 120, client: 600 }
const JOINING: DoorLimit = { door: 'poll-join', subject: 400, client: 40 }

/** Several people are asked which of some times suit them, and one is chosen. */
export const pollsRoutes = ({ mount, deps }: Routes, house: House): void => {
  const { pool, clock } = deps
  const momentMs = house.settings.takeBackMs
  const acting = (asker: { readonly id: string }) => ({ askerId: asker.id, now: clock(), momentMs })

  mount(askPoll, async ({ body, asker, context }) => {
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, { asker, context, body }, () => ask(sql, body, acting(asker))),
      )
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, clock())
    }
  })

  /** Notes that one who is asked looks for the first time, and says it to whoever asks. */
  const looked = async (poll: KeptPoll, voterId: string, seen: boolean) => {
    if (seen) return
    await noteLooked(pool, voterId, clock())
    await tell(pool, pollChanged(poll.id, [poll.ownerId]))
  }

  mount(readPoll, async ({ params, asker }) => {
    const now = clock()
    const poll = await pollOrProblem(pool, params.pollId)
    const organizes = await mayStandIn(pool, asker.id, poll.ownerId, now)
    const voterId = await voterOf(pool, poll.id, asker.id)
    const voter = voterId ? await findVoter(pool, voterId) : null
    if (!organizes && !voter) throw notFound('poll')
    if (voter) await looked(poll, voter.id, voter.seenAt !== null)
    return {
      organized: organizes ? await organizedView(pool, poll, asker.id, now) : null,
      asked: voter ? await askedView(pool, poll, voter, now) : null,
    }
  })

  /** A colleague who is asked, as such. Throws, as if there were no such poll, where they are not. */
  const asked = async (sql: Sql, pollId: string, personId: string) => {
    const voterId = await voterOf(sql, pollId, personId)
    if (!voterId) throw notFound('poll')
    return { pollId, voterId }
  }

  mount(markPoll, async ({ params, body, asker }) => {
    await transaction(pool, async (sql) =>
      mark(sql, await asked(sql, params.pollId, asker.id), body, clock()),
    )
    return {}
  })

  mount(proposeTime, async ({ params, body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => ({
        timeId: await propose(
          sql,
          await asked(sql, params.pollId, asker.id),
          Date.parse(body.start),
          clock(),
        ),
      })),
    ),
  )

  mount(readPollByLink, async ({ params }) => {
    const now = clock()
    const { pollId, voterId } = await byLink(pool, params.token, now)
    const poll = await pollOrProblem(pool, pollId)
    const voter = voterId ? await findVoter(pool, voterId) : null
    if (voter) await looked(poll, voter.id, voter.seenAt !== null)
    return askedView(pool, poll, voter, now)
  })

  /** Whoever marks by their own link. Throws where it is the link for all, or they come too often. */
  const ownLink = async (token: string, client: string) => {
    const { pollId, voterId } = await byLink(pool, token, clock())
    if (!voterId) throw notFound('question to you')
    await comeTo(pool, MARKING, { subject: voterId, client }, clock())
    return { pollId, voterId }
  }

  mount(markByLink, async ({ params, body, context }) => {
    const who = await ownLink(params.token, context.ip)
    await transaction(pool, (sql) => mark(sql, who, body, clock()))
    return {}
  })

  mount(proposeTimeByLink, async ({ params, body, context }) => {
    const who = await ownLink(params.token, context.ip)
    return transaction(pool, (sql) =>
      once(sql, clock, { asker: `link of ${who.voterId}`, context, body }, async () => ({
        timeId: await propose(sql, who, Date.parse(body.start), clock()),
      })),
    )
  })

  mount(joinPoll, async ({ params, body, context }) => {
    const { pollId, voterId } = await byLink(pool, params.token, clock())
    if (voterId) throw notFound('poll')
    // No person fills in what nobody sees; whoever does is thanked, and nothing is kept.
    if (body.website) return {}
    await comeTo(pool, JOINING, { subject: pollId, client: context.ip }, clock())
    return transaction(pool, (sql) =>
      once(sql, clock, { asker: `poll ${pollId}`, context, body }, async () => {
        await join(sql, pollId, body, clock())
        return {}
      }),
    )
  })

  mount(pollLinkEvents, async ({ params, context }) => {
    const { pollId, voterId, link } = await byLink(pool, params.token, clock())
    house.stream(context, { personId: voterId ?? pollId, session: link, guest: true })
    return {}
  })

  mount(changePoll, async ({ params, body, asker }) => {
    try {
      await transaction(pool, (sql) => changeAsked(sql, params.pollId, body, acting(asker)))
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, clock())
    }
    return {}
  })

  mount(nudgePoll, async ({ params, body, asker }) =>
    transaction(pool, async (sql) =>
      nudge(sql, await openToChange(sql, params.pollId, asker.id, clock()), body.voterId ?? null, clock()),
    ),
  )

  mount(decidePoll, async ({ params, body, asker, context }) => {
    const poll = await organizing(pool, await pollOrProblem(pool, params.pollId), asker.id, clock())
    const wish = wishOf(poll)
    const conference =
      wish.conference && poll.state === 'open' ? await conferenceFor(house, randomUUID(), wish.title) : null
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, { asker, context, body }, () =>
          decide(sql, params.pollId, body, { ...acting(asker), conference }),
        ),
      )
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, clock())
    }
  })

  mount(withdrawPoll, async ({ params, asker }) => {
    await transaction(pool, (sql) => withdraw(sql, params.pollId, acting(asker)))
    return {}
  })

  mount(reopenPoll, async ({ params, body, asker }) => {
    const closes = body.closes === undefined ? null : Date.parse(body.closes)
    try {
      await transaction(pool, (sql) => reopen(sql, params.pollId, closes, acting(asker)))
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, clock())
    }
    return {}
  })

  mount(renewPollLink, async ({ params, body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const now = clock()
        const poll = await openToChange(sql, params.pollId, asker.id, now)
        if ('voterId' in body) await sendNewLink(sql, poll, body.voterId, now)
        else if (poll.door === 'anyone') await keepDoor(sql, poll.id, body.door, poll.closes, now)
        else throw notFound('link for all')
        return {}
      }),
    ),
  )
}
