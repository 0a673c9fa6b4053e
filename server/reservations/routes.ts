import { listReservations } from '@marmot/contract/resources'
import { readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { readReservations } from './store.ts'

export const reservationsRoutes = ({ mount, deps }: Routes): void => {
  mount(listReservations, async ({ query, asker }) => {
    const { from, to } = readRange(query)
    return { reservations: await readReservations(deps.pool, asker.id, from, to, deps.clock()) }
  })
}
