import { listReservations } from '@marmot/contract/resources'
import { datesApart } from '../entries/index.ts'
import { readIds, readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { resourceIds } from '../resources/index.ts'
import { readReservations } from './store.ts'

export const reservationsRoutes = ({ mount, deps }: Routes): void => {
  mount(listReservations, async ({ query, asker }) => {
    const { from: start, to: end } = readRange(query)
    const { sites, kinds, places } = query
    const some = sites === undefined && places === undefined ? null : readIds(sites ?? '')
    const ids =
      some &&
      (await resourceIds(deps.pool, {
        sites: some,
        kinds: (kinds ?? '').split(','),
        places: readIds(places ?? ''),
      }))
    const now = deps.clock()
    const { apart: entryId, apartDate: recurrence = null } = query
    const apart = entryId ? await datesApart(deps.pool, [{ entryId, recurrence }], asker.id, now) : []
    const reserved = await readReservations(
      deps.pool,
      asker.id,
      [{ start, end }],
      now,
      ids ?? undefined,
      null,
      apart,
    )
    return { reservations: reserved }
  })
}
