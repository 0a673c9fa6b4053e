import { HOUR, MINUTE } from '@marmot/core/time'
import { forecastOf } from '@marmot/core/weather'
import { transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { tellWeather } from '../platform/live.ts'
import { askWeather } from './service.ts'
import { keepForecast, noteAsked, sitesToAsk } from './store.ts'

/** A site is asked about so often. */
const EVERY = 30 * MINUTE
/** So many are asked about in one round. */
const MOST_ASKED = 20

/** What was said, hour by hour, as far as it can be meant: the same as core would read of it. */
const hoursOf = (said: Awaited<ReturnType<typeof askWeather>>, now: number) => {
  const forecast = forecastOf(said.issued, said.hours, now)
  return (forecast?.rain ?? []).flatMap((rain, i) =>
    forecast && rain !== null
      ? {
          at: forecast.from + i * HOUR,
          rain,
          temperature: forecast.temperature[i] ?? 0,
          chance: forecast.chance[i] ?? 0,
          wind: forecast.wind[i] ?? 0,
        }
      : [],
  )
}

/** Asks the weather service about sites whose turn it is. One that cannot be asked about keeps no other from it. */
export const settleWeather = async ({ pool, clock, settings }: House): Promise<void> => {
  if (!settings.weather) return
  const now = clock()
  const troubles: unknown[] = []
  for (const site of await sitesToAsk(pool, now - EVERY, MOST_ASKED)) {
    // Noted first: a service that makes one wait is not asked about the same site over and over.
    await noteAsked(pool, site.id, now)
    try {
      const said = await askWeather(settings.weather, site)
      const hours = hoursOf(said, now)
      if (hours.length > 0)
        await transaction(pool, async (sql) => {
          if (await keepForecast(sql, site.id, said.issued, hours)) await tellWeather(sql)
        })
    } catch (error) {
      troubles.push(error)
    }
  }
  if (troubles.length > 0) throw troubles[0]
}
