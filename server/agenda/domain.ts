import { agendaEvent } from '@marmot/contract/agenda'
import type { Domain, House } from '../platform/house.ts'
import { agendaRoutes, roomsIn } from './routes.ts'
import { unsettled } from './store.ts'

const MOST_A_MINUTE = 50

/** Adds up what a server left that ended in the middle of it. */
const settleAll = async ({ pool, threads }: House): Promise<void> => {
  const occurrenceIds = await unsettled(pool, MOST_A_MINUTE)
  if (occurrenceIds.length) await threads.run('settleAgendas', { occurrenceIds })
}

export const domain: Domain = {
  routes: agendaRoutes,
  events: [{ event: agendaEvent }],
  hears: (house) => roomsIn(house).hears,
  minutely: { agendas: settleAll },
  stop: (house) => roomsIn(house).stop(),
}
