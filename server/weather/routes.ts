import { readWeather } from '@marmot/contract/weather'
import type { Routes } from '../platform/router.ts'
import { readForecasts } from './store.ts'
import { forecastsOnWire } from './wire.ts'

export const weatherRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(readWeather, async ({ query }) => ({
    forecasts: forecastsOnWire(await readForecasts(pool, query.sites, clock())),
  }))
}
