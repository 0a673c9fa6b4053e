import { listReservations } from '@marmot/contract/resources'
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
    const reserved = await readReservations(
      deps.pool,
      asker.id,
      [{ start, end }],
      deps.clock(),
      ids ?? undefined,
    )
    return { reservations: reserved }
  })
}
