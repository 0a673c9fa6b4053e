import { holidaysEvent } from '@marmot/contract/availability'
import type { Domain } from '../platform/house.ts'
import { settleHolidays } from './keeping.ts'
import { holidaysRoutes } from './routes.ts'

export const domain: Domain = {
  routes: holidaysRoutes,
  minutely: { holidays: settleHolidays },
  events: [{ event: holidaysEvent }],
}
