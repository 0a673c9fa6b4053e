import { randomUUID } from 'node:crypto'
import { sendMeeting } from '@marmot/contract/meetings'
import { NO_LEVEL } from '@marmot/core/sharing'
import { spanInWords, zoneTable } from '@marmot/core/time'
import type pg from 'pg'
import { datesToMake, lockEntry } from '../entries/index.ts'
import { putElsewhere, send } from '../meetings/index.ts'
import { addPlaceNotices } from '../notices/index.ts'
import { isRefusedBy, type Sql, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { lockResources, NO_DOUBLE, releaseReservations, standingOf } from '../reservations/index.ts'
import { readResources } from '../resources/index.ts'
import { levelsFor } from '../sharing/index.ts'
import {
  type ExchangeState,
  type KeptExchange,
  lapsedExchanges,
  lockExchange,
  noteAgreed,
  setExchangeState,
} from './store.ts'

const concerned = ({ askerId, moves }: KeptExchange): string[] => [
  askerId,
  ...moves.map((one) => one.personId),
]

const whatOf = ({ place, start, end, zone }: KeptExchange, now: number): string =>
  `${place}, ${spanInWords(start, end, zoneTable(zone), now)}`

/** Somebody whom whoever asked may know by name; null where they share nothing, and are somebody. */
const knownTo = async (sql: Sql, askerId: string, personId: string, now: number): Promise<string | null> => {
  const levels = await levelsFor(sql, askerId, [personId], now)
  return personId === askerId || (levels.get(personId) ?? NO_LEVEL).sees !== 'nothing' ? personId : null
}

/** Ends what was asked without room, and tells whoever asked by whom and why. */
const endInVain = async (
  sql: Sql,
  asked: KeptExchange,
  { state, actorId, words }: { state: ExchangeState; actorId: string; words: string },
  now: number,
): Promise<void> => {
  await setExchangeState(sql, asked.id, state)
  const message = `${whatOf(asked, now)}${words ? `: ${words}` : ''}`
  await addPlaceNotices(
    sql,
    null,
    [{ personId: asked.askerId, kind: 'no-room', words: message }],
    await knownTo(sql, asked.askerId, actorId, now),
    now,
  )
  await tell(sql, timeChanged(concerned(asked)))
}

/** Something that all had agreed to could not be done any more. */
export class Undone extends Error {
  constructor(
    readonly words: string,
    readonly asked: KeptExchange,
  ) {
    super(words)
  }
}

/**
 * Does what all have agreed to, in one transaction: each goes to their other place, and what was wished is reserved. Who has gone
 * elsewhere meanwhile stays there. Throws `Undone` where it cannot be done any more.
 */
const make = async (
  sql: Sql,
  asked: KeptExchange,
  actorId: string,
  now: number,
  momentMs: number,
): Promise<void> => {
  const wish = sendMeeting.body.parse(asked.wish)
  try {
    const before = await standingOf(
      sql,
      asked.moves.map((one) => one.reservationId),
    )
    const entryIds = [...new Set(before.map((one) => one.entryId))].sort()
    for (const entryId of entryIds) await lockEntry(sql, entryId)
    const ids = [asked.placeId, ...wish.places, ...asked.moves.flatMap((one) => [one.fromId, one.toId])]
    await lockResources(sql, ids, entryIds)
    const standing = await standingOf(
      sql,
      asked.moves.map((one) => one.reservationId),
    )
    const still = asked.moves.flatMap((move) => {
      const one = standing.find((each) => each.id === move.reservationId)
      return one && one.start === move.start && one.end === move.end ? [{ move, one }] : []
    })
    // All leave before anybody comes: they may change places with one another.
    await releaseReservations(
      sql,
      still.map(({ one }) => one.id),
    )
    const places = await readResources(
      sql,
      asked.askerId,
      now,
      asked.moves.flatMap((one) => [one.fromId, one.toId]),
    )
    const moved: string[] = []
    for (const { move, one } of still) {
      const place = places.find((each) => each.id === move.fromId)
      const to = places.find((each) => each.id === move.toId)
      if (!place || !to) continue
      const reason = `${asked.by} needs ${asked.place}`
      moved.push(...(await putElsewhere(sql, one, { place, to, reason, actorId: asked.askerId, now })))
    }
    const { entryId } = await send(sql, { ...wish, hold: null }, datesToMake(wish, now), {
      askerId: asked.askerId,
      now,
      momentMs,
      // Nothing outside is waited for in a transaction: the link to join by follows by itself.
      conference: wish.conference ? { room: randomUUID(), link: '', telephone: '', code: '' } : null,
    })
    await setExchangeState(sql, asked.id, 'done')
    await addPlaceNotices(
      sql,
      entryId,
      [{ personId: asked.askerId, kind: 'room-made', words: whatOf(asked, now) }],
      await knownTo(sql, asked.askerId, actorId, now),
      now,
    )
    await tell(sql, [...timeChanged(concerned(asked)), ...reservationsChanged([...ids, ...moved])])
  } catch (error) {
    if (isRefusedBy(error, NO_DOUBLE)) throw new Undone('One of the places was taken meanwhile.', asked)
    if (error instanceof ProblemError) throw new Undone(error.message, asked)
    throw error
  }
}

/**
 * Takes in what somebody who is asked says. Gives whether it is done now. Throws where they are not asked (any more), and `Undone`
 * where the last has agreed and it cannot be done.
 */
export const answer = async (
  sql: Sql,
  id: string,
  { agree, words }: { agree: boolean; words: string },
  { askerId, now, momentMs }: { askerId: string; now: number; momentMs: number },
): Promise<boolean> => {
  const asked = await lockExchange(sql, id)
  const mine = asked?.moves.filter((one) => one.personId === askerId) ?? []
  if (!asked || mine.length === 0) throw notFound('question to you')
  if (asked.state !== 'asked' || asked.lapses <= now)
    throw new ProblemError(
      409,
      'nothing-asked',
      'That is not asked for any more: it was decided, withdrawn, or it lapsed. Nothing was changed.',
    )
  if (!agree) {
    await endInVain(sql, asked, { state: 'refused', actorId: askerId, words }, now)
    return false
  }
  await noteAgreed(sql, id, askerId, now)
  const waiting = asked.moves.some((one) => !one.agreed && one.personId !== askerId)
  if (waiting) await tell(sql, timeChanged(concerned(asked)))
  else await make(sql, asked, askerId, now, momentMs)
  return !waiting
}

/** Keeps that it could not be done, once the transaction that tried is over. */
export const fail = async (
  sql: Sql,
  { asked, words }: Undone,
  actorId: string,
  now: number,
): Promise<void> => {
  const still = await lockExchange(sql, asked.id)
  if (still?.state === 'asked') await endInVain(sql, still, { state: 'failed', actorId, words }, now)
}

/** Asks no more, or puts aside what was asked in vain. Throws where it is not whoever asked, or is done. */
export const withdraw = async (sql: Sql, id: string, askerId: string): Promise<void> => {
  const asked = await lockExchange(sql, id)
  if (asked?.askerId !== askerId || asked.state === 'done' || asked.state === 'withdrawn')
    throw notFound('question of yours')
  await setExchangeState(sql, id, 'withdrawn')
  await tell(sql, timeChanged(concerned(asked)))
}

/** So many are let lapse at a time; what is left is there a minute later. */
const MOST_A_MINUTE = 200

/** Lets go what nobody answered in time, and tells those who asked. Every minute. */
export const lapseExchanges = async ({
  pool,
  clock,
}: Pick<House, 'clock'> & { readonly pool: pg.Pool }): Promise<void> => {
  const now = clock()
  for (const id of await lapsedExchanges(pool, now, MOST_A_MINUTE))
    await transaction(pool, async (sql) => {
      const asked = await lockExchange(sql, id)
      if (asked?.state !== 'asked') return
      const silent = asked.moves.find((one) => !one.agreed)?.personId ?? asked.askerId
      await endInVain(sql, asked, { state: 'lapsed', actorId: silent, words: 'no answer in time' }, now)
    })
}
