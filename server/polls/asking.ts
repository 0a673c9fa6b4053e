import { randomUUID } from 'node:crypto'
import { type askPoll, type changePoll, pollWish } from '@marmot/contract/organized-polls'
import { FEWEST_TIMES, MOST_TIMES, MOST_VOTERS } from '@marmot/core/polls'
import { DAY, MINUTE, shortTime, zoneTable } from '@marmot/core/time'
import type { z } from 'zod'
import { standingIn } from '../entries/index.ts'
import { keepLink, revokeLinks } from '../links/index.ts'
import { actorOf, whomToInvite } from '../meetings/index.ts'
import { noteOrProblem } from '../platform/clean.ts'
import type { Sql } from '../platform/database.ts'
import { pollChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'
import { holdTimes, letGo } from './holding.ts'
import { organizing, wishOf } from './reading.ts'
import {
  dropTimes,
  dropVoters,
  findPoll,
  insertPoll,
  insertTimes,
  insertVoters,
  type KeptPoll,
  type KeptTime,
  lockPoll,
  openPollsOf,
  timesOf,
  updatePoll,
  votersOf,
} from './store.ts'
import { LINK_AFTER, oweTelling } from './telling.ts'

/** A poll is open for so long at most: what is held for it keeps others out. */
const LONGEST = 30 * DAY
/** So many polls of one person at once are an errand; more would hold everything. */
const MOST_OPEN = 20

const refused = (code: string, path: string, message: string, detail: string) =>
  new ProblemError(422, code, detail, { fields: [{ path, message }] })

/** Throws where nobody could mark until then. */
export const closesOrProblem = (closes: number, last: number, now: number): void => {
  if (closes <= now)
    throw refused(
      'closes-in-the-past',
      'closes',
      'is in the past',
      'Nobody could answer any more by then. Choose a later day.',
    )
  if (closes > last)
    throw refused(
      'closes-too-late',
      'closes',
      'is after the last time',
      'The last of the times begins before the answers are due. Choose an earlier day.',
    )
  if (closes - now > LONGEST)
    throw refused(
      'closes-too-late',
      'closes',
      'is too far ahead',
      'People can be asked for thirty days at most. Choose an earlier day.',
    )
}

/** Times to ask about as they will be kept. Throws where one is over, or is there already. */
const timesToKeep = (
  given: readonly { readonly start: string; readonly places: readonly string[] }[],
  minutes: number,
  before: readonly KeptTime[],
  zone: string,
  now: number,
  path: string,
): KeptTime[] => {
  const starts = new Set(before.map((time) => time.start))
  const times = given.map(({ start, places }, i) => {
    const at = Date.parse(start)
    const words = shortTime(at, zoneTable(zone))
    if (at <= now)
      throw refused('in-the-past', `${path}.${i}`, 'is in the past', `${words} is over. Nobody was asked.`)
    if (starts.has(at))
      throw refused(
        'same-time',
        `${path}.${i}`,
        'is there twice',
        `${words} is there twice. Nobody was asked.`,
      )
    starts.add(at)
    return {
      id: randomUUID(),
      start: at,
      end: at + minutes * MINUTE,
      places: [...new Set(places)],
      holdId: null,
      proposedBy: null,
    }
  })
  if (starts.size > MOST_TIMES)
    throw refused(
      'too-many-times',
      path,
      'are too many',
      `A poll asks about ${MOST_TIMES} times at most; that would be ${starts.size}. Nothing was changed.`,
    )
  return times
}

const enoughVoters = (n: number): void => {
  if (n === 0)
    throw refused(
      'nobody-asked',
      'people',
      'are missing',
      'There is nobody to ask. Add people or guests first.',
    )
  if (n > MOST_VOTERS)
    throw refused(
      'too-many-asked',
      'people',
      'are too many',
      `A poll asks ${MOST_VOTERS} people at most; that would be ${n}.`,
    )
}

type AskBody = z.output<(typeof askPoll)['body']>

/** Asks people which of some times suit them, in the caller's transaction; the times are held, where that is wished. */
export const ask = async (
  sql: Sql,
  body: AskBody,
  { askerId, now, momentMs }: { askerId: string; now: number; momentMs: number },
) => {
  const ownerId = body.of ?? askerId
  await standingIn(sql, askerId, ownerId, now)
  if ((await openPollsOf(sql, ownerId)) >= MOST_OPEN)
    throw new ProblemError(
      422,
      'too-many-polls',
      `There are ${MOST_OPEN} polls of yours that are not decided. Decide some, or withdraw them. Nobody was asked.`,
    )
  const { times: given, door, closes, ...rest } = body
  const times = timesToKeep(given, body.minutes, [], body.zone, now, 'times')
  closesOrProblem(Date.parse(closes), Math.max(...times.map((time) => time.start)), now)
  const asked = await whomToInvite(sql, body, ownerId)
  // Whoever has the link for all comes by it: nobody has to be asked by letter.
  if (door === null) enoughVoters(asked.length)
  const wish = pollWish.parse({ ...rest, note: noteOrProblem(body.note) })
  const pollId = await insertPoll(
    sql,
    {
      ...rest,
      closes: Date.parse(closes),
      ownerId,
      actorId: actorOf(askerId, ownerId),
      wish,
      door: door === null ? 'own' : 'anyone',
    },
    now,
  )
  await insertTimes(sql, pollId, times)
  await insertVoters(sql, pollId, asked, now)
  if (door !== null) await keepDoor(sql, pollId, door, Date.parse(closes), now)
  const poll = await findPoll(sql, pollId)
  if (!poll) throw new Error('the poll is not there')
  const touched = poll.holds ? await holdTimes(sql, poll, times, now) : []
  await oweTelling(sql, pollId, momentMs)
  await tell(sql, [
    ...timeChanged([ownerId]),
    ...reservationsChanged(touched),
    ...pollChanged(pollId, [ownerId, askerId]),
  ])
  return { pollId, asked: asked.length, untoldMs: momentMs }
}

/** Makes a secret the link for all of a poll, and ends those from before. */
export const keepDoor = async (
  sql: Sql,
  pollId: string,
  token: string,
  closes: number,
  now: number,
): Promise<void> => {
  await revokeLinks(sql, 'vote', [pollId], now)
  await keepLink(sql, { purpose: 'vote', subjectId: pollId, token, expires: closes + LINK_AFTER }, now)
}

/** A poll of somebody's that is to be changed, locked. Throws where it is none, or is decided. */
export const openToChange = async (
  sql: Sql,
  pollId: string,
  askerId: string,
  now: number,
): Promise<KeptPoll> => {
  const poll = await organizing(sql, await lockPoll(sql, pollId, 'update'), askerId, now)
  if (poll.state !== 'open')
    throw new ProblemError(
      409,
      'poll-closed',
      poll.state === 'decided'
        ? 'A time was chosen already. Nothing was changed.'
        : 'It is not asked any more. Nothing was changed; you can ask again.',
    )
  return poll
}

/** Changes how a poll is asked, its times and who is asked, in the caller's transaction. */
export const changeAsked = async (
  sql: Sql,
  pollId: string,
  body: z.output<(typeof changePoll)['body']>,
  { askerId, now, momentMs }: { askerId: string; now: number; momentMs: number },
): Promise<void> => {
  const poll = await openToChange(sql, pollId, askerId, now)
  if (body.version !== poll.version)
    throw new ProblemError(
      409,
      'stale',
      'Somebody has changed it meanwhile. Look at it as it is now; nothing of yours was changed.',
    )
  const before = await timesOf(sql, pollId)
  const dropped = before.filter((time) => body.drop.includes(time.id))
  const staying = before.filter((time) => !body.drop.includes(time.id))
  const added = timesToKeep(body.add, poll.minutes, staying, poll.zone, now, 'add')
  const times = [...staying, ...added]
  if (times.length < FEWEST_TIMES)
    throw refused(
      'too-few-times',
      'drop',
      'leave too few',
      'A poll asks about at least two times. Choose one of them instead. Nothing was changed.',
    )
  const wish = wishOf(poll)
  const { people = wish.people, guests = wish.guests } = body
  const settings = {
    ...poll,
    ...body,
    closes: body.closes === undefined ? poll.closes : Date.parse(body.closes),
  }
  if (settings.closes !== poll.closes)
    closesOrProblem(settings.closes, Math.max(...times.map((time) => time.start)), now)
  if (body.people || body.guests) {
    const asked = await whomToInvite(sql, { people, guests }, poll.ownerId)
    if (poll.door === 'own') enoughVoters(asked.length)
    const voters = await votersOf(sql, pollId)
    const gone = voters.filter(
      (one) =>
        one.proved &&
        !asked.some((each) => (one.personId ? each.personId === one.personId : each.address === one.address)),
    )
    const ids = gone.map((one) => one.id)
    await dropVoters(sql, ids, now)
    await revokeLinks(sql, 'vote', ids, now)
    await insertVoters(sql, pollId, asked, now)
  }
  const touched = await letGo(sql, poll, dropped)
  await dropTimes(
    sql,
    dropped.map((time) => time.id),
    now,
  )
  await insertTimes(sql, pollId, added)
  await updatePoll(sql, pollId, { ...settings, wish: { ...wish, people, guests } }, added.length > 0)
  const changed = { ...poll, ...settings }
  // Where the end is another, what is held lapses at another time; where nothing is to be held any more, it is let go.
  if (changed.holds) touched.push(...(await holdTimes(sql, changed, times, now)))
  else touched.push(...(await letGo(sql, poll, times)))
  await oweTelling(sql, pollId, momentMs)
  await tellPoll(sql, poll, touched)
}

/** Says to all concerned that a poll, what is held for it, and its places changed. */
export const tellPoll = async (sql: Sql, poll: KeptPoll, places: readonly string[]): Promise<void> => {
  const voters = await votersOf(sql, poll.id)
  await tell(sql, [
    ...timeChanged([poll.ownerId]),
    ...reservationsChanged([...new Set(places)]),
    ...pollChanged(poll.id, [
      poll.ownerId,
      ...(poll.actorId ? [poll.actorId] : []),
      ...voters.map((one) => one.personId ?? one.id),
    ]),
  ])
}
