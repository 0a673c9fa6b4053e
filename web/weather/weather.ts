import { forecastFrom, readWeather, weatherEvent } from '@marmot/contract/weather'
import type { Forecast } from '@marmot/core/weather'
import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'

/** What is expected at sites, by their ids; undefined while that is not known, empty where no forecast is. */
export const useForecasts = (sites: readonly string[]): ReadonlyMap<string, Forecast> | undefined => {
  const key = [...new Set(sites)].sort().join(',')
  const { data } = useQuery({
    queryKey: ['weather', key],
    queryFn: ({ signal }) => call(readWeather, { query: { sites: key }, signal }),
    enabled: key !== '',
    staleTime: 300_000,
    meta: { heeds: [heed(weatherEvent)] },
  })
  return useMemo(
    () =>
      key === ''
        ? NONE
        : data && new Map(data.forecasts.map((one) => [one.siteId, forecastFrom(one)] as const)),
    [data, key],
  )
}

const NONE: ReadonlyMap<string, Forecast> = new Map()
