import type { Forecast } from '@marmot/core/weather'
import { z } from 'zod'
import { event } from './live.ts'
import { id, instant, route } from './route.ts'

/** Sites that can be asked about at once. */
export const MOST_SITES = 50

const hours = z.array(z.number().nullable())

/** What is expected at a site, hour by hour from `from` on; null where an hour is not known. */
export const siteForecast = z.object({
  siteId: id,
  issued: instant,
  from: instant,
  temperature: hours,
  rain: hours,
  chance: hours,
  wind: hours,
})

export type SiteForecast = z.infer<typeof siteForecast>

export const readWeather = route({
  method: 'GET',
  path: '/api/weather',
  summary:
    'What is expected out of doors at sites, as the weather service said last: °C, mm an hour, the chance of it in percent, km/h. A site of which nothing is known is left out.',
  who: 'person',
  query: () =>
    z.object({
      /** Ids of sites, with commas. */
      sites: z
        .string()
        .max(MOST_SITES * 37)
        .transform((text) => text.split(','))
        .pipe(z.array(id).min(1).max(MOST_SITES)),
    }),
  answer: () => z.object({ forecasts: z.array(siteForecast) }),
})

/** The same as core reads it. */
export const forecastFrom = ({ siteId: _, issued, from, ...hours }: SiteForecast): Forecast => ({
  ...hours,
  issued: Date.parse(issued),
  from: Date.parse(from),
})

/** A newer forecast came; for everybody. */
export const weatherEvent = event('weather', {})
