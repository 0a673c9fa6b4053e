import { randomUUID } from 'node:crypto'
import { type Mark, MOST_TIMES, MOST_VOTERS, marksTrouble } from '@marmot/core/polls'
import { DAY, HOUR, MINUTE, shortTime, zoneTable } from '@marmot/core/time'
import { findLink, keepLink } from '../links/index.ts'
import { addPollNotices } from '../notices/index.ts'
import { isRefusedBy, type Sql } from '../platform/database.ts'
import { pollChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import {
  addMark,
  countsOf,
  findPoll,
  findVoter,
  insertComer,
  insertTimes,
  type KeptPoll,
  type KeptVoter,
  lockPoll,
  marksOf,
  putMarks,
  TIME_ONCE,
  timesOf,
  votersOf,
} from './store.ts'
import { LINK_AFTER } from './telling.ts'

/** So many times of their own may one who is asked propose, none further ahead than a year. */
const MOST_PROPOSED = 3
const FARTHEST = 366 * DAY
/** Whoever marks again within that changes their mind, which is no news. */
const SAME_NEWS = HOUR

/** Where a link leads: to a poll, as one who is asked, or, by the link for all, as nobody yet. */
export interface ByLink {
  readonly pollId: string
  readonly voterId: string | null
  /** The link, by the hash of its token. */
  readonly link: string
}

/** Whose a link is. Throws where it is none of ours, has run out, or was replaced. */
export const byLink = async (sql: Sql, token: string, now: number): Promise<ByLink> => {
  const link = await findLink(sql, 'vote', token)
  const none = () =>
    new ProblemError(
      404,
      'no-such-link',
      'This link does not lead anywhere any more. It may have been cut off, or replaced by a newer one: look for the newest letter, or ask whoever sent it.',
    )
  if (!link || link.revoked || link.expiresAt <= now) throw none()
  const voter = await findVoter(sql, link.subjectId)
  if (voter) return { pollId: voter.pollId, voterId: voter.id, link: link.hash }
  const poll = await findPoll(sql, link.subjectId)
  if (poll?.door !== 'anyone') throw none()
  return { pollId: poll.id, voterId: null, link: link.hash }
}

/** A poll in which can be marked, so locked that nobody decides it meanwhile. Throws where nobody can. */
const openToMark = async (sql: Sql, pollId: string, now: number): Promise<KeptPoll> => {
  const poll = await lockPoll(sql, pollId, 'share')
  if (!poll) throw notFound('poll')
  if (poll.state !== 'open' || poll.closes <= now)
    throw new ProblemError(
      409,
      'poll-closed',
      poll.state === 'decided'
        ? 'A time was chosen meanwhile, so nothing more can be said. What you said before was counted.'
        : poll.state === 'withdrawn'
          ? 'It is not asked any more. There is nothing to do.'
          : 'The time to answer is over. Write to whoever asked, if it matters. What you said before was counted.',
    )
  return poll
}

const WRONG = {
  'not-asked':
    'One of these times is not asked about any more. Look at the times as they are now; what you marked of the others is kept on this page.',
  twice: 'One of the times is marked twice.',
  'one-only': 'Choose one time alone.',
}

type Marks = readonly { readonly timeId: string; readonly mark: Mark }[]

const allowed = async (sql: Sql, poll: KeptPoll, marks: Marks): Promise<void> => {
  const ids = new Set((await timesOf(sql, poll.id)).map((time) => time.id))
  const trouble = marksTrouble(marks, ids, poll.oneMark)
  if (trouble)
    throw new ProblemError(trouble === 'not-asked' ? 409 : 422, trouble, WRONG[trouble], {
      fields: [{ path: 'marks', message: 'do not fit' }],
    })
}

/** Tells whoever asks that somebody has marked or proposed something, where they wish to hear of each. */
const news = async (
  sql: Sql,
  poll: KeptPoll,
  voter: Pick<KeptVoter, 'personId' | 'name'>,
  kind: 'poll-marked' | 'poll-proposed',
  words: string,
  now: number,
): Promise<void> => {
  if (poll.notices !== 'each') return
  await addPollNotices(
    sql,
    poll.id,
    [{ personId: poll.ownerId, kind, words }],
    { actorId: voter.personId, name: voter.name },
    now,
  )
  await tell(sql, timeChanged([poll.ownerId]))
}

/** Says to all who look at a poll that it is otherwise. */
const tellMarked = async (sql: Sql, poll: KeptPoll): Promise<void> => {
  const voters = poll.results === 'all' ? await votersOf(sql, poll.id) : []
  await tell(
    sql,
    pollChanged(poll.id, [
      poll.ownerId,
      ...(poll.actorId ? [poll.actorId] : []),
      ...voters.map((one) => one.personId ?? one.id),
    ]),
  )
}

/** Takes what somebody who is asked says, in the place of what they said before. Throws where that cannot be said any more. */
export const mark = async (
  sql: Sql,
  { pollId, voterId }: { readonly pollId: string; readonly voterId: string },
  { marks, comment }: { readonly marks: Marks; readonly comment: string },
  now: number,
): Promise<void> => {
  const poll = await openToMark(sql, pollId, now)
  const voter = await findVoter(sql, voterId)
  if (voter?.pollId !== pollId) throw notFound('question to you')
  await allowed(sql, poll, marks)
  await putMarks(sql, voterId, marks, comment, now)
  if (voter.markedAt === null || now - voter.markedAt.getTime() > SAME_NEWS)
    await news(sql, poll, voter, 'poll-marked', '', now)
  await tellMarked(sql, poll)
  // It does not wait for them any more.
  if (voter.personId && voter.markedAt === null) await tell(sql, timeChanged([voter.personId]))
}

/**
 * Takes in whoever comes by the link for all, with what they say; from then on their own link is theirs. Their address may be
 * anybody's: nobody learns whether it is known here.
 */
export const join = async (
  sql: Sql,
  pollId: string,
  comer: {
    readonly name: string
    readonly address: string
    readonly own: string
    readonly marks: Marks
    readonly comment: string
  },
  now: number,
): Promise<void> => {
  const poll = await openToMark(sql, pollId, now)
  if (poll.door !== 'anyone') throw notFound('poll')
  await allowed(sql, poll, comer.marks)
  if ((await countsOf(sql, pollId, null)).voters >= MOST_VOTERS)
    throw new ProblemError(
      422,
      'too-many-asked',
      `${MOST_VOTERS} people have answered already, and no more fit in. Write to whoever sent you the link.`,
    )
  const voterId = await insertComer(sql, pollId, comer, now)
  const link = { purpose: 'vote' as const, subjectId: voterId, token: comer.own }
  await keepLink(sql, { ...link, expires: poll.closes + LINK_AFTER }, now)
  await putMarks(sql, voterId, comer.marks, comer.comment, now)
  await news(sql, poll, { personId: null, name: comer.name }, 'poll-marked', '', now)
  await tellMarked(sql, poll)
}

/** Adds a time that somebody who is asked proposes; they say yes to it by that. Gives its id. */
export const propose = async (
  sql: Sql,
  { pollId, voterId }: { readonly pollId: string; readonly voterId: string },
  start: number,
  now: number,
): Promise<string> => {
  const poll = await openToMark(sql, pollId, now)
  const voter = await findVoter(sql, voterId)
  if (voter?.pollId !== pollId) throw notFound('question to you')
  const refuse = (code: string, detail: string) =>
    new ProblemError(422, code, detail, { fields: [{ path: 'start', message: 'cannot be proposed' }] })
  if (!poll.proposals) throw refuse('no-proposals', 'Other times cannot be proposed here.')
  if (start <= now) throw refuse('in-the-past', 'That time is over. Propose one that is still to come.')
  if (start - now > FARTHEST) throw refuse('too-far-ahead', 'That is more than a year ahead.')
  const counts = await countsOf(sql, pollId, voterId)
  if (counts.proposed >= MOST_PROPOSED)
    throw refuse(
      'too-many-proposed',
      `You have proposed ${MOST_PROPOSED} times, which is as many as one can.`,
    )
  if (counts.times >= MOST_TIMES)
    throw refuse('too-many-times', 'There are as many times as fit in. Write it into your words instead.')
  const timeId = randomUUID()
  const end = start + poll.minutes * MINUTE
  await insertTimes(sql, pollId, [{ id: timeId, start, end, places: [], proposedBy: voterId }]).catch(
    (error: unknown) => {
      if (!isRefusedBy(error, TIME_ONCE)) throw error
      throw new ProblemError(409, 'same-time', 'That time is asked about already. Mark it instead.')
    },
  )
  // Where one time alone may be chosen, it is that one now.
  if (poll.oneMark) {
    const before = await marksOf(sql, pollId, voterId)
    await putMarks(
      sql,
      voterId,
      before.filter((one) => one.mark === 'no'),
      null,
      now,
    )
  }
  await addMark(sql, { voterId, timeId, mark: 'yes' }, now)
  await news(sql, poll, voter, 'poll-proposed', shortTime(start, zoneTable(poll.zone)), now)
  await tellMarked(sql, poll)
  // To all, also where they do not see what others marked: it is asked about now.
  await tell(
    sql,
    pollChanged(
      pollId,
      (await votersOf(sql, pollId)).map((one) => one.personId ?? one.id),
    ),
  )
  return timeId
}
