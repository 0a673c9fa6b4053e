import { weatherEvent } from '@marmot/contract/weather'
import type { Domain } from '../platform/house.ts'
import { settleWeather } from './keeping.ts'
import { weatherRoutes } from './routes.ts'

export const domain: Domain = {
  routes: weatherRoutes,
  minutely: { weather: settleWeather },
  events: [{ event: weatherEvent }],
}
