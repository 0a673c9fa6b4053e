import type { askForRoom } from '@marmot/contract/exchanges'
import { HOUR } from '@marmot/core/time'
import type { z } from 'zod'
import { standingIn, timeOrProblem } from '../entries/index.ts'
import { isRefusedBy, type Sql } from '../platform/database.ts'
import { tell, timeChanged } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'
import { type FoundRoom, roomOnWire, type Wanted } from './finding.ts'
import { insertExchange, ONCE, openOf } from './store.ts'

/** How long those who are asked have to answer; never longer than until it would begin. */
const WAITS = 48 * HOUR
/** So many at once are an errand; more are a nuisance to those who are asked. */
const MOST_OPEN = 20

type Body = z.output<(typeof askForRoom)['body']>

/** What is asked for, as it is looked for. Throws where it is nothing that others can be asked to make room for. */
export const wantedIn = ({ wish, placeIds }: Body, askerId: string, now: number): Wanted => {
  if (wish.series)
    throw new ProblemError(422, 'one-date', 'Others are asked to make room for one date at a time.', {
      fields: [{ path: 'wish.series', message: 'repeats' }],
    })
  const { start, end } = timeOrProblem(wish)
  if (start <= now)
    throw new ProblemError(422, 'in-the-past', 'That time is over. Choose one that is still to come.', {
      fields: [{ path: 'wish.starts', message: 'is in the past' }],
    })
  const ownerId = wish.of ?? askerId
  return { placeIds, span: { start, end }, seats: wish.headCount ?? 0, ownerId, now }
}

/**
 * Asks those who would have to move, in the caller's transaction; `found` is the way that there is now. Throws where that is not the
 * one that was looked at.
 */
export const ask = async (
  sql: Sql,
  { wish, moves }: Body,
  { span, placeIds, ownerId, now }: Wanted,
  found: FoundRoom | null,
  askerId: string,
) => {
  await standingIn(sql, askerId, ownerId, now)
  const asLooked =
    found?.moves.length === moves.length &&
    found.moves.every((one, i) => one.reservationId === moves[i]?.reservationId && one.to === moves[i]?.to)
  if (!found || !asLooked)
    throw new ProblemError(
      409,
      'room-changed',
      'Somebody has come or gone there meanwhile. Look again who would have to move. Nobody was asked.',
    )
  if (found.moves.every((one) => found.standing.get(one.reservationId)?.ownerId === askerId))
    throw new ProblemError(
      422,
      'own-only',
      'Only reservations of your own are in the way. Move them yourself; there is nobody to ask.',
    )
  const open = await openOf(sql, askerId)
  if (open >= MOST_OPEN)
    throw new ProblemError(
      422,
      'too-many-asked',
      `You have ${MOST_OPEN} questions for room that wait for an answer. Wait for some, or withdraw them. Nobody was asked.`,
    )
  const lapses = Math.min(now + WAITS, span.start)
  const moved = found.moves.flatMap(({ reservationId, to }) => {
    const one = found.standing.get(reservationId)
    return one
      ? [
          {
            reservationId,
            personId: one.ownerId,
            fromId: one.resourceId,
            toId: to,
            start: one.start,
            end: one.end,
          },
        ]
      : []
  })
  const places = [
    found.placeId,
    ...wish.places.filter((id) => !placeIds.includes(id) && id !== found.placeId),
  ]
  const exchangeId = await insertExchange(
    sql,
    { askerId, placeId: found.placeId, span, wish: { ...wish, places }, lapses, moves: moved },
    now,
  ).catch((error: unknown) => {
    if (!isRefusedBy(error, ONCE)) throw error
    throw new ProblemError(
      409,
      'asked-already',
      'You have asked for room there then already. Nobody was asked again.',
    )
  })
  await tell(sql, timeChanged([askerId, ...moved.map((one) => one.personId)]))
  const { moves: seen } = await roomOnWire(sql, found, askerId, now)
  return {
    exchangeId,
    asked: [...new Set(seen.filter((one) => !one.mine).map((one) => one.by))],
    lapses: new Date(lapses).toISOString(),
  }
}
