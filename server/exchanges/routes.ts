import { answerExchange, askForRoom, lookForRoom, withdrawExchange } from '@marmot/contract/exchanges'
import { standingIn, timeOrProblem } from '../entries/index.ts'
import { transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { once, type Routes } from '../platform/router.ts'
import { answer, fail, Undone, withdraw } from './answering.ts'
import { ask, wantedIn } from './asking.ts'
import { type FoundRoom, roomOnWire, type Wanted } from './finding.ts'

/** Room that others make by going elsewhere, if they agree. */
export const exchangesRoutes = ({ mount, deps }: Routes, { settings }: Pick<House, 'settings'>): void => {
  const { pool, clock, threads } = deps
  const find = (wanted: Wanted) => threads.run<Wanted, FoundRoom | null>('findRoom', wanted)

  mount(lookForRoom, async ({ body, asker }) => {
    const now = clock()
    const { start, end } = timeOrProblem(body)
    const ownerId = body.of ?? asker.id
    await standingIn(pool, asker.id, ownerId, now)
    const { placeIds, headCount } = body
    const found =
      start > now ? await find({ placeIds, span: { start, end }, seats: headCount ?? 0, ownerId, now }) : null
    return { room: found && (await roomOnWire(pool, found, asker.id, now)) }
  })

  mount(askForRoom, async ({ body, asker, context }) => {
    const wanted = wantedIn(body, asker.id, clock())
    const found = await find(wanted)
    return transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, () => ask(sql, body, wanted, found, asker.id)),
    )
  })

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
