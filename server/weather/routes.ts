import { readWeather } from '@marmot/contract/weather'
import type { Routes } from '../platform/router.ts'
import { readForecasts } from './store.ts'

export const weatherRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(readWeather, async ({ query }) => {
    const forecasts = await readForecasts(pool, query.sites, clock())
    return {
      forecasts: [...forecasts].map(([siteId, { issued, from, ...hours }]) => ({
        siteId,
        issued: new Date(issued).toISOString(),
        from: new Date(from).toISOString(),
        temperature: [...hours.temperature],
        rain: [...hours.rain],
        chance: [...hours.chance],
        wind: [...hours.wind],
      })),
    }
  })
}
