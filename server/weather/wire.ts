import type { siteForecast } from '@marmot/contract/weather'
import type { Forecast } from '@marmot/core/weather'
import type { z } from 'zod'

/** What is expected at sites, as the contract has it. */
export const forecastsOnWire = (forecasts: ReadonlyMap<string, Forecast>): z.input<typeof siteForecast>[] =>
  [...forecasts].map(([siteId, { issued, from, ...hours }]) => ({
    siteId,
    issued: new Date(issued).toISOString(),
    from: new Date(from).toISOString(),
    temperature: [...hours.temperature],
    rain: [...hours.rain],
    chance: [...hours.chance],
    wind: [...hours.wind],
  }))
