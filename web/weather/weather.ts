import { forecastFrom, readWeather, type SiteForecast, weatherEvent } from '@marmot/contract/weather'
import type { Span } from '@marmot/core/availability'
import { expectedInWords, type Forecast, stillExpected } from '@marmot/core/weather'
import { useQuery } from '@tanstack/react-query'
import { useCallback, useMemo } from 'react'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { useNow } from '../platform/session.tsx'

/** What came of sites beside something else, and when. */
interface Beside {
  readonly forecasts: SiteForecast[]
  readonly at: number
}

/**
 * What is expected at sites, by their ids; undefined while that is not known, empty where no forecast is. What came `beside`
 * something else is not asked for once more.
 */
export const useForecasts = (
  sites: readonly string[],
  beside?: Beside,
): ReadonlyMap<string, Forecast> | undefined => {
  const key = [...new Set(sites)].sort().join(',')
  const { data, isError } = useQuery({
    queryKey: ['weather', key],
    queryFn: ({ signal }) => call(readWeather, { query: { sites: key }, signal }),
    enabled: key !== '',
    staleTime: 300_000,
    ...(beside && { initialData: { forecasts: beside.forecasts }, initialDataUpdatedAt: beside.at }),
    meta: { heeds: [heed(weatherEvent)] },
  })
  return useMemo(
    () =>
      // What cannot be asked for is not known: nobody waits for it, and a search goes on without.
      key === '' || (isError && !data)
        ? NONE
        : data && new Map(data.forecasts.map((one) => [one.siteId, forecastFrom(one)] as const)),
    [data, isError, key],
  )
}

const NONE: ReadonlyMap<string, Forecast> = new Map()

/** What is expected of the weather at what of these is out of doors and still to come, in words; none where that is not known. */
export const useWeatherOf = (
  spans: readonly (Span & { readonly occurrence: { readonly outdoors: string | null } })[],
  /** What is expected there, as it came with them. */
  known: SiteForecast[] | undefined,
  at: number,
) => {
  const now = useNow()
  const sites = useMemo(
    () => spans.flatMap(({ end, occurrence: { outdoors } }) => (outdoors && end > now ? [outdoors] : [])),
    [spans, now],
  )
  const forecasts = useForecasts(sites, known && { forecasts: known, at })
  return useCallback(
    (siteId: string | null, span: Span): string => {
      const forecast = siteId === null ? undefined : forecasts?.get(siteId)
      const expected = forecast && stillExpected(forecast, span, now)
      return expected ? expectedInWords(expected) : ''
    },
    [forecasts, now],
  )
}
