import { closePlace, lookAtClosure, openPlace } from '@marmot/contract/closures'
import { transaction } from '../platform/database.ts'
import { placesChanged, tell } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { endClosure, placeOfSteward } from '../resources/index.ts'
import { close, lookAtHits } from './closing.ts'
import { placeTrouble } from './place-trouble.ts'

/** Places that are closed by whoever looks after them, and opened again. */
export const closingRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(lookAtClosure, async ({ params, body, asker }) => ({
    hits: await lookAtHits(pool, params.resourceId, asker.id, body, clock()),
  }))

  mount(closePlace, async ({ params, body, asker, context }) => {
    const now = clock()
    try {
      return await transaction(pool, (sql) =>
        once(sql, clock, { asker, context, body }, () => close(sql, params.resourceId, asker.id, body, now)),
      )
    } catch (error) {
      throw await placeTrouble(pool, error, asker.id, now)
    }
  })

  mount(openPlace, async ({ params, asker }) =>
    transaction(pool, async (sql) => {
      await placeOfSteward(sql, params.resourceId, asker.id, clock())
      if (!(await endClosure(sql, params.resourceId, params.closureId, clock()))) throw notFound('closure')
      await tell(sql, placesChanged([params.resourceId]))
      return {}
    }),
  )
}
