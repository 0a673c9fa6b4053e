import type { Span } from '@marmot/core/availability'
import {
  expectedInWords,
  horizonInWords,
  horizonOf,
  isFresh,
  issuedInWords,
  isWet,
  isWindy,
  stillExpected,
} from '@marmot/core/weather'
import { CloudRain, CloudSun, type LucideIcon, Wind } from 'lucide-react'
import { useMe, useNow } from '../platform/session.tsx'
import { useForecasts } from './weather.ts'

/** What is expected of the weather at something out of doors, with how old that is; or why nothing is known of it. */
export const WeatherLine = ({ siteId, span }: { siteId: string; span: Span }) => {
  const { session, zone } = useMe()
  const now = useNow()
  const forecasts = useForecasts(span.end <= now ? [] : [siteId])
  const site = session.sites.find((one) => one.id === siteId)?.name ?? ''
  if (span.end <= now) return <p className="text-sm">Out of doors in {site}.</p>
  if (!forecasts) return <p className="text-sm">Out of doors in {site}. Looking up the weather…</p>
  const known = forecasts.get(siteId)
  const forecast = known && isFresh(known, now) ? known : null
  const expected = forecast && stillExpected(forecast, span, now)
  const Sign: LucideIcon =
    expected && isWet(expected) ? CloudRain : expected && isWindy(expected) ? Wind : CloudSun
  return (
    <p className="flex items-start gap-1.5 text-sm">
      <Sign size={16} aria-hidden className="mt-0.5 shrink-0" />
      <span>
        Out of doors in {site}:{' '}
        {expected && forecast ? (
          <>
            <b className="font-semibold">{expectedInWords(expected)}</b>
            <span className="text-soft">, {issuedInWords(forecast, zone, now)}</span>
          </>
        ) : (
          `not known yet: ${horizonInWords(forecast && horizonOf(forecast), zone)}.`
        )}
      </span>
    </p>
  )
}

/** How old what is said of the weather at a site is. */
export const ForecastAge = ({ siteId }: { siteId: string }) => {
  const { session, zone } = useMe()
  const now = useNow()
  const forecast = useForecasts([siteId])?.get(siteId)
  const site = session.sites.find((one) => one.id === siteId)?.name ?? ''
  return (
    <span className="mr-auto text-sm text-soft">
      {forecast
        ? `Weather in ${site}, ${issuedInWords(forecast, zone, now)}`
        : `The weather in ${site} is not known`}
    </span>
  )
}
