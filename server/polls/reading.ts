import { type OrganizedPoll, pollWish } from '@marmot/contract/organized-polls'
import type { PollLine } from '@marmot/contract/poll-lines'
import type { AskedPoll } from '@marmot/contract/polls'
import { during, type LaneTime } from '@marmot/core/availability'
import { type Mark, stretchIn, suggestedMark } from '@marmot/core/polls'
import { instantText, zoneTable } from '@marmot/core/time'
import type { z } from 'zod'
import { datesApart, mayStandIn } from '../entries/index.ts'
import { holdsStanding, readLanes } from '../openings/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'
import { standingAt } from '../reservations/index.ts'
import {
  findPoll,
  type KeptMark,
  type KeptPoll,
  type KeptTime,
  type KeptVoter,
  lettersOf,
  marksOf,
  namesOfPlaces,
  pollsOf,
  stands,
  timesOf,
  votersOf,
} from './store.ts'

/** What is sent once a time is chosen. */
export type Wish = z.output<typeof pollWish>

export const wishOf = (poll: Pick<KeptPoll, 'wish'>): Wish => pollWish.parse(poll.wish)

/** Who asks, as those who are asked read it. */
export const askerOf = ({ owner, actor }: Pick<KeptPoll, 'owner' | 'actor'>): string =>
  actor ? `${actor} for ${owner}` : owner

/** How it stands with a poll: nobody can mark any more once its time to answer is over. */
export const stateOf = (poll: Pick<KeptPoll, 'state' | 'closes'>, now: number): AskedPoll['state'] =>
  poll.state === 'open' && poll.closes <= now ? 'over' : poll.state

/** A poll that somebody asks, or may act in for whoever does. Throws, as if there were none, where not. */
export const organizing = async (
  sql: Sql,
  poll: KeptPoll | null,
  askerId: string,
  now: number,
): Promise<KeptPoll> => {
  if (!poll || !(await mayStandIn(sql, askerId, poll.ownerId, now))) throw notFound('poll of yours')
  return poll
}

const rangeOf = (times: readonly KeptTime[]): { from: number; to: number } => ({
  from: Math.min(...times.map((time) => time.start)),
  to: Math.max(...times.map((time) => time.end)),
})

/** People's time around the times of a poll, as far as the viewer may see it; what is held for the poll stands in nobody's way. */
const lanesAround = async (
  sql: Sql,
  { ownerId, times }: { readonly ownerId: string; readonly times: readonly KeptTime[] },
  viewerId: string,
  people: readonly string[],
  now: number,
): Promise<Map<string, LaneTime>> => {
  if (times.length === 0 || people.length === 0) return new Map()
  const held = times.flatMap((time) => time.holdId ?? [])
  const apart = await datesApart(
    sql,
    held.map((entryId) => ({ entryId, recurrence: null })),
    ownerId,
    now,
  )
  const lanes = await readLanes(sql, viewerId, people, { ...rangeOf(times), apart }, now)
  return new Map([...lanes].map(([id, lane]) => [id, lane.time]))
}

const suggestedBy = (
  lane: LaneTime | undefined,
  times: readonly KeptTime[],
): { timeId: string; mark: Mark }[] =>
  lane
    ? times.flatMap((time) => {
        const mark = suggestedMark(lane, time)
        return mark ? [{ timeId: time.id, mark }] : []
      })
    : []

const ofVoter = (marks: readonly KeptMark[], voterId: string) =>
  marks.filter((one) => one.voterId === voterId).map(({ timeId, mark }) => ({ timeId, mark }))

const SOMEBODY = 'somebody'

/** Who proposed a time, as far as that is to be seen. */
const proposerOf = (time: KeptTime, voters: readonly KeptVoter[], names: boolean): string | null => {
  if (time.proposedBy === null) return null
  return (names && voters.find((one) => one.id === time.proposedBy)?.name) || SOMEBODY
}

const timeOnWire = (time: KeptTime) => ({
  id: time.id,
  start: instantText(time.start),
  end: instantText(time.end),
})

/**
 * A poll as one who is asked sees it; `voter` is null for whoever comes by the link for all. Of others nothing is said but what its
 * organizer lets everybody see, and of nobody's time anything but the reader's own.
 */
export const askedView = async (
  sql: Sql,
  poll: KeptPoll,
  voter: KeptVoter | null,
  now: number,
): Promise<AskedPoll> => {
  const [times, voters, marks] = await together([
    timesOf(sql, poll.id),
    votersOf(sql, poll.id),
    marksOf(sql, poll.id),
  ])
  const wish = wishOf(poll)
  const results = poll.results === 'all'
  const names = results && poll.names
  const there = voters.filter((one) => !one.gone)
  const counting = marks.filter((one) => there.some((each) => each.id === one.voterId))
  const lanes = voter?.personId
    ? await lanesAround(sql, { ownerId: poll.ownerId, times }, voter.personId, [voter.personId], now)
    : null
  const own = voter ? there.find((one) => one.id === voter.id) : undefined
  const count = (timeId: string, mark: Mark) =>
    results ? counting.filter((one) => one.timeId === timeId && one.mark === mark).length : 0
  return {
    pollId: poll.id,
    title: wish.title,
    note: wish.note,
    organizer: askerOf(poll),
    zone: poll.zone,
    closes: instantText(poll.closes),
    state: stateOf(poll, now),
    oneMark: poll.oneMark,
    proposals: poll.proposals,
    names,
    results,
    times: times.map((time) => ({
      ...timeOnWire(time),
      proposedBy: proposerOf(time, voters, names),
      yes: count(time.id, 'yes'),
      ifNeedBe: count(time.id, 'if-need-be'),
      no: count(time.id, 'no'),
    })),
    others: names
      ? there
          .filter((one) => one.id !== voter?.id && one.markedAt !== null)
          .map((one) => ({ name: one.name, marks: ofVoter(counting, one.id), comment: one.comment }))
      : [],
    me: own
      ? {
          name: own.name,
          required: own.required,
          marks: ofVoter(counting, own.id),
          comment: own.comment,
          suggested: suggestedBy(lanes?.get(own.personId ?? ''), times),
          answered: own.markedAt !== null,
        }
      : null,
    chosen:
      poll.timeId && poll.state === 'decided'
        ? {
            timeId: poll.timeId,
            invited: own?.invited ?? false,
            entryId: own?.invited && own.personId ? poll.entryId : null,
          }
        : null,
    now: instantText(now),
  }
}

/** Which places of each time can be had: they are held for it, or nobody has them then. */
const placesFree = async (
  sql: Sql,
  times: readonly KeptTime[],
  held: ReadonlySet<string>,
  now: number,
): Promise<(time: KeptTime, placeId: string) => boolean> => {
  const ids = [...new Set(times.flatMap((time) => time.places))]
  if (ids.length === 0) return () => true
  const { from, to } = rangeOf(times)
  const standing = await standingAt(sql, ids, { start: from, end: to }, now)
  return (time, placeId) =>
    (time.holdId !== null && held.has(time.holdId)) ||
    !standing.some(
      (one) =>
        one.resourceId === placeId &&
        one.start < time.end &&
        time.start < one.end &&
        one.entryId !== time.holdId,
    )
}

/** A poll as whoever asks sees it: who marked what, and what the time of the others says. */
export const organizedView = async (
  sql: Sql,
  poll: KeptPoll,
  viewerId: string,
  now: number,
): Promise<OrganizedPoll> => {
  const [times, voters, marks, letters] = await together([
    timesOf(sql, poll.id),
    votersOf(sql, poll.id),
    marksOf(sql, poll.id),
    lettersOf(sql, poll.id),
  ])
  const there = voters.filter((one) => !one.gone)
  const people = there.flatMap((one) => one.personId ?? [])
  const lanes = await lanesAround(
    sql,
    { ownerId: poll.ownerId, times },
    viewerId,
    [...people, poll.ownerId],
    now,
  )
  const held = await holdsStanding(
    sql,
    times.flatMap((time) => time.holdId ?? []),
    now,
  )
  const isFree = await placesFree(sql, times, held, now)
  const names = await namesOfPlaces(
    sql,
    times.flatMap((time) => time.places),
  )
  const own = lanes.get(poll.ownerId)
  const clashOf = (time: KeptTime): string => {
    if (!own?.known || poll.state !== 'open') return ''
    const how = during(own, zoneTable(own.zone), time)
    return how.state === 'free' || how.state === 'stretch' ? '' : how.state
  }
  const wish = wishOf(poll)
  return {
    pollId: poll.id,
    title: wish.title,
    note: wish.note,
    organizer: askerOf(poll),
    minutes: poll.minutes,
    zone: poll.zone,
    state: stateOf(poll, now),
    door: poll.door,
    closes: instantText(poll.closes),
    needed: poll.needed,
    results: poll.results,
    names: poll.names,
    oneMark: poll.oneMark,
    proposals: poll.proposals,
    notices: poll.notices,
    holds: poll.holds,
    times: times.map((time) => ({
      ...timeOnWire(time),
      proposedBy: proposerOf(time, voters, true),
      places: time.places.map((id) => ({ id, name: names.get(id) ?? '', free: isFree(time, id) })),
      held: time.holdId !== null && held.has(time.holdId),
      stretch: people.reduce((sum, id) => {
        const lane = lanes.get(id)
        return sum + (lane ? stretchIn(lane, time) : 0)
      }, 0),
      clash: clashOf(time),
    })),
    voters: there.map((one) => {
      const letter = letters.get(one.id)
      return {
        id: one.id,
        personId: one.personId,
        name: one.name,
        address: one.address,
        zone: one.zone,
        required: one.required,
        proved: one.proved,
        marks: ofVoter(marks, one.id),
        suggested: suggestedBy(lanes.get(one.personId ?? ''), times),
        comment: one.comment,
        markedAt: one.markedAt?.toISOString() ?? null,
        seenAt: one.seenAt?.toISOString() ?? null,
        nudgedAt: letter?.nudgedAt?.toISOString() ?? null,
        mail: letter?.state ?? 'none',
      }
    }),
    chosen:
      poll.state === 'decided' && poll.timeId
        ? {
            timeId: poll.timeId,
            entryId: poll.entryId,
            stands: poll.entryId !== null && (await stands(sql, poll.entryId)),
          }
        : null,
    version: poll.version,
  }
}

/** The polls that wait for somebody, and those that they ask and that are not decided: what ends first, first. */
export const pollsFor = async (sql: Sql, personId: string, now: number): Promise<PollLine[]> =>
  (await pollsOf(sql, personId, now)).map(({ closes, first, last, ...one }) => ({
    ...one,
    closes: instantText(closes),
    first: instantText(first),
    last: instantText(last),
  }))

/** A poll by its id. Throws where there is none. */
export const pollOrProblem = async (sql: Sql, id: string): Promise<KeptPoll> => {
  const poll = await findPoll(sql, id)
  if (!poll) throw notFound('poll')
  return poll
}
