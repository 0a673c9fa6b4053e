import { answerExchange, askForRoom, lookForRoom, withdrawExchange } from '@marmot/contract/exchanges'
import { standingIn, timeOrProblem } from '../entries/index.ts'
import { transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { once, type Routes } from '../platform/router.ts'
import { answer, fail, Undone, withdraw } from './answering.ts'
import { ask } from './asking.ts'
import { findRoom, roomOnWire } from './finding.ts'

/** Room that others make by going elsewhere, if they agree. */
export const exchangesRoutes = ({ mount, deps }: Routes, { settings }: Pick<House, 'settings'>): void => {
  const { pool, clock } = deps

  mount(lookForRoom, async ({ body, asker }) => {
    const now = clock()
    const { start, end } = timeOrProblem(body)
    const ownerId = body.of ?? asker.id
    await standingIn(pool, asker.id, ownerId, now)
    const wanted = { placeId: body.placeId, span: { start, end }, seats: body.headCount ?? 0, ownerId }
    const found = start > now ? await findRoom(pool, wanted, now) : null
    return { room: found && (await roomOnWire(pool, found, asker.id, now)) }
  })

  mount(askForRoom, ({ body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, () => ask(sql, body, asker.id, clock())),
    ),
  )

  mount(answerExchange, async ({ params, body, asker, context }) => {
    const now = clock()
    const repeated = { asker, context, body }
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, repeated, async () => ({
          done: await answer(sql, params.exchangeId, body, {
            askerId: asker.id,
            now,
            momentMs: settings.takeBackMs,
          }),
          failed: null,
        })),
      )
    } catch (error) {
      if (!(error instanceof Undone)) throw error
      return transaction(pool, (sql) =>
        once(sql, clock, repeated, async () => {
          await fail(sql, error, asker.id, now)
          return { done: false, failed: error.words }
        }),
      )
    }
  })

  mount(withdrawExchange, async ({ params, asker }) => {
    await transaction(pool, (sql) => withdraw(sql, params.exchangeId, asker.id))
    return {}
  })
}
