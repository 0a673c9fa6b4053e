import { textOfNote } from '@marmot/core/entries'
import { type PollTold, type PollTruth, tellingOf, toldAfter, writePollLetter } from '@marmot/core/polls'
import { oneLine } from '@marmot/core/text'
import { DAY, HOUR } from '@marmot/core/time'
import type pg from 'pg'
import { z } from 'zod'
import { isRefused } from '../letters/index.ts'
import { makeLinks, revokeLinks } from '../links/index.ts'
import { addPollNotices } from '../notices/index.ts'
import type { Clock } from '../platform/clock.ts'
import { type Sql, transaction } from '../platform/database.ts'
import type { House, Mailer } from '../platform/house.ts'
import { addJob, addJobs } from '../platform/jobs.ts'
import { pollChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import { askerOf, wishOf } from './reading.ts'
import {
  findLetter,
  findPoll,
  insertLetters,
  type KeptPoll,
  type KeptVoter,
  lettersOf,
  lockPoll,
  setLetterState,
  setTold,
  takeDaily,
  takeOver,
  timesOf,
  votersOf,
} from './store.ts'

export const TELL_TASK = 'tell-poll'
export const SEND_TASK = 'send-poll-letter'
/** How long a link of a poll works once nobody can mark any more, so that what became of it can be read. */
export const LINK_AFTER = 60 * DAY
/** Nobody is nudged twice within that; an hour less than a day, since nobody comes back at the same minute. */
const NUDGED_AGAIN = 23 * HOUR
/** So many polls are looked at in a minute. */
const MOST_A_MINUTE = 200

/** What is true for somebody who is or was asked. */
const truthOf = (poll: KeptPoll, voter: KeptVoter): PollTruth => {
  if (voter.gone || poll.state === 'withdrawn') return { kind: 'off' }
  if (poll.state === 'open') return { kind: 'asked', round: poll.round }
  return voter.invited ? { kind: 'invited' } : { kind: 'decided', timeId: poll.timeId ?? '' }
}

const same = (a: PollTold | null, b: PollTold | null): boolean => JSON.stringify(a) === JSON.stringify(b)

/** What is true of a poll is told once the moment in which it can be taken back is over. */
export const oweTelling = (sql: Sql, pollId: string, momentMs: number): Promise<void> =>
  addJob(sql, TELL_TASK, { pollId }, `owed:poll:${pollId}`, momentMs)

const addLetters = async (
  sql: Sql,
  letters: Parameters<typeof insertLetters>[1],
  now: number,
): Promise<void> => {
  const ids = await insertLetters(sql, letters, now)
  await addJobs(
    sql,
    SEND_TASK,
    ids.map((letterId) => ({ payload: { letterId }, key: `poll-letter:${letterId}` })),
  )
}

/**
 * Writes to each who is asked what they do not know yet, a letter at most, and says it on screen to those with an account, in the
 * caller's transaction. Where nothing is new, nothing is written.
 */
export const writeTellings = async (sql: Sql, pollId: string, now: number): Promise<void> => {
  const poll = await lockPoll(sql, pollId, 'update')
  if (!poll) return
  const news = (await votersOf(sql, pollId)).map((voter) => {
    const truth = truthOf(poll, voter)
    return { voter, kind: tellingOf(voter.told, truth), told: toldAfter(voter.told, truth) }
  })
  for (const { voter, told } of news) if (!same(voter.told, told)) await setTold(sql, voter.id, told)
  const told = news.flatMap(({ voter, kind }) => (kind ? [{ voter, kind }] : []))
  await addLetters(
    sql,
    told.map(({ voter, kind }) => ({ voterId: voter.id, kind })),
    now,
  )
  const people = told.flatMap(({ voter, kind }) =>
    voter.personId ? [{ personId: voter.personId, kind }] : [],
  )
  if (people.length > 0)
    await addPollNotices(
      sql,
      pollId,
      people.map(({ personId, kind }) => ({
        personId,
        kind: kind === 'decided' || kind === 'off' ? ('poll-ended' as const) : ('poll-asked' as const),
        words: kind,
      })),
      { actorId: poll.actorId ?? poll.ownerId, name: '' },
      now,
    )
  await tell(sql, [
    ...timeChanged(people.map((one) => one.personId)),
    ...pollChanged(pollId, [poll.ownerId, ...told.map(({ voter }) => voter.personId ?? voter.id)]),
  ])
}

/** Asks those once more who have marked nothing; gives who was, and who was asked too lately for that, by name. */
export const nudge = async (
  sql: Sql,
  poll: KeptPoll,
  voterId: string | null,
  now: number,
): Promise<{ nudged: string[]; lately: string[] }> => {
  const letters = await lettersOf(sql, poll.id)
  const waiting = (await votersOf(sql, poll.id)).filter(
    (one) =>
      !one.gone && one.markedAt === null && one.told !== null && (voterId === null || one.id === voterId),
  )
  const isLately = ({ id }: KeptVoter) => {
    const at = letters.get(id)?.nudgedAt
    return at !== null && at !== undefined && now - at.getTime() < NUDGED_AGAIN
  }
  const nudged = waiting.filter((one) => !isLately(one))
  await addLetters(
    sql,
    nudged.map((one) => ({ voterId: one.id, kind: 'nudge' as const })),
    now,
  )
  const people = nudged.flatMap((one) => one.personId ?? [])
  if (people.length > 0)
    await addPollNotices(
      sql,
      poll.id,
      people.map((personId) => ({ personId, kind: 'poll-asked' as const, words: 'nudge' })),
      { actorId: poll.actorId ?? poll.ownerId, name: '' },
      now,
    )
  await tell(sql, timeChanged(people))
  return {
    nudged: nudged.map((one) => one.name),
    lately: waiting.filter(isLately).map((one) => one.name),
  }
}

/** What the jobs that tell and send need. */
interface Post {
  readonly pool: pg.Pool
  readonly clock: Clock
  readonly transport: Mailer
  readonly url: string
  readonly from: string
}

/** A letter as it leaves, and how its poll stands; null where it was sent, or there is nothing to send any more. */
const compose = async (sql: Sql, { url, from }: Post, letterId: string, now: number) => {
  const kept = await findLetter(sql, letterId)
  const poll = kept && (await findPoll(sql, kept.pollId))
  const voter = kept && (await votersOf(sql, kept.pollId)).find((one) => one.id === kept.voterId)
  if (!kept || !poll || !voter) return null
  const wish = wishOf(poll)
  const times = await timesOf(sql, poll.id)
  const asks = kept.kind !== 'decided' && kept.kind !== 'off'
  // Kept before the letter leaves, so that it opens however soon it is pressed.
  const links =
    asks && !voter.personId ? await makeLinks(sql, 'vote', [voter.id], poll.closes + LINK_AFTER, now) : null
  const token = links?.get(voter.id)
  const letter = writePollLetter({
    kind: kept.kind,
    title: wish.title,
    note: textOfNote(wish.note),
    organizer: askerOf(poll),
    recipient: voter.name,
    required: voter.required,
    minutes: poll.minutes,
    times,
    chosen: times.find((time) => time.id === poll.timeId) ?? null,
    closes: poll.closes,
    zone: voter.zone ?? poll.zone,
    link: !asks ? null : token ? `${url}/q/${token}` : `${url}/poll/${poll.id}`,
    needsAccount: voter.personId !== null,
    now,
  })
  return {
    poll,
    mail: {
      messageId: `<${letterId}@${from.split('@').pop()}>`,
      from: { name: `${oneLine(askerOf(poll))} (Marmot)`, address: from },
      replyTo: poll.replyTo,
      to: { name: oneLine(voter.name), address: voter.address },
      ...letter,
    },
  }
}

const telling = z.object({ pollId: z.uuid() })
const sending = z.object({ letterId: z.uuid() })

/** The jobs of this domain. The queue gives each to one worker at a time, and tries again what has thrown. */
export const pollTasks = (post: Post) => ({
  [TELL_TASK]: async (payload: unknown) => {
    const { pollId } = telling.parse(payload)
    await transaction(post.pool, (sql) => writeTellings(sql, pollId, post.clock()))
  },
  [SEND_TASK]: async (payload: unknown) => {
    const { letterId } = sending.parse(payload)
    const { pool, clock, transport } = post
    const composed = await transaction(pool, (sql) => compose(sql, post, letterId, clock()))
    if (!composed) return
    const note = (state: 'waiting' | 'sent' | 'failed', error: string | null) =>
      transaction(pool, async (sql) => {
        await setLetterState(sql, letterId, state, error, clock())
        await tell(sql, pollChanged(composed.poll.id, [composed.poll.ownerId]))
      })
    try {
      await transport.sendMail(composed.mail)
    } catch (error) {
      await note(isRefused(error) ? 'failed' : 'waiting', error instanceof Error ? error.message : 'unknown')
      throw error
    }
    await note('sent', null)
  },
})

/** Tells those who ask that nobody can mark any more, once for each poll. Every minute. */
export const tellOver = ({ pool, clock }: Pick<House, 'clock'> & { readonly pool: pg.Pool }): Promise<void> =>
  transaction(pool, async (sql) => {
    const now = clock()
    for (const { id, ownerId, marked, asked } of await takeOver(sql, now, MOST_A_MINUTE)) {
      const words = `${marked} of ${asked} have answered`
      await addPollNotices(sql, id, [{ personId: ownerId, kind: 'poll-over', words }], NOBODY, now)
      await tell(sql, [...timeChanged([ownerId]), ...pollChanged(id, [ownerId])])
    }
  })

const NOBODY = { actorId: null, name: '' }

/** Tells those who wish to hear it once a day how many have marked. Every night. */
export const tellDaily = ({
  pool,
  clock,
}: Pick<House, 'clock'> & { readonly pool: pg.Pool }): Promise<void> =>
  transaction(pool, async (sql) => {
    const now = clock()
    for (const { id, ownerId, marked, asked } of await takeDaily(sql, now)) {
      const words = `${marked} of ${asked} have answered`
      await addPollNotices(sql, id, [{ personId: ownerId, kind: 'poll-daily', words }], NOBODY, now)
      await tell(sql, timeChanged([ownerId]))
    }
  })

/** Ends the links of somebody who is asked, and sends them a letter with a new one. Throws where they are not, or have an account. */
export const sendNewLink = async (sql: Sql, poll: KeptPoll, voterId: string, now: number): Promise<void> => {
  const voter = (await votersOf(sql, poll.id)).find((one) => one.id === voterId)
  if (!voter || voter.gone || voter.personId) throw notFound('guest of it')
  await revokeLinks(sql, 'vote', [voterId], now)
  await addLetters(sql, [{ voterId, kind: voter.markedAt === null ? 'ask' : 'again' }], now)
}
