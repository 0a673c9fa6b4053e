import type { Span } from '../availability/index.ts'
import {
  clockText,
  DAY,
  dayOf,
  HOUR,
  type Instant,
  minuteOf,
  shortDay,
  shortTime,
  toWall,
  type ZoneTable,
} from '../time/index.ts'

/**
 * What is expected somewhere, hour by hour from `from` on; null where an hour is not known. Temperature in °C, rain (or snow, as
 * water) in mm an hour, its chance in percent, wind in km/h.
 */
export interface Forecast {
  /** When whoever forecasts said so. */
  readonly issued: Instant
  readonly from: Instant
  readonly temperature: readonly (number | null)[]
  readonly rain: readonly (number | null)[]
  readonly chance: readonly (number | null)[]
  readonly wind: readonly (number | null)[]
}

/** One hour of a forecast. */
export interface ForecastHour {
  readonly at: Instant
  readonly temperature: number
  readonly rain: number
  readonly chance: number
  readonly wind: number
}

/** What is expected during a span. */
export interface Expected {
  /** Whether all of the span is known, or a part of it alone. */
  readonly whole: boolean
  readonly low: number
  readonly high: number
  /** Millimetres in all, of the hours of the span. */
  readonly rain: number
  /** Percent, of the hour in which it is likeliest. */
  readonly chance: number
  /** Km/h, of the windiest hour. */
  readonly wind: number
}

/** What one would rather not have. */
export const AVOIDABLE = ['rain', 'wind'] as const
export type Avoidable = (typeof AVOIDABLE)[number]

/** Forecasts reach no further than this; what says it does is not believed. */
export const FURTHEST = 16 * DAY
/** One older than this says nothing about what is to come. */
export const OLDEST = 2 * DAY
/** From so much in an hour on one gets wet. */
const WET_MM = 0.2
/** Less likely than this it is not counted on. */
const WET_CHANCE = 40
/** From such a wind on papers fly, and umbrellas turn. */
const WINDY_KMH = 40
/** At or below this it snows rather than rains. */
const SNOW_BELOW = 1

/** What anybody has measured on earth, with some room: beyond it a number is a mistake. */
const between = (low: number, high: number) => (value: number) => value >= low && value <= high
const BELIEVABLE = {
  temperature: between(-95, 60),
  rain: between(0, 350),
  chance: between(0, 100),
  wind: between(0, 450),
}

/** Whether an hour can be meant as it is said. */
const isBelievable = (hour: ForecastHour): boolean =>
  hour.at % HOUR === 0 &&
  BELIEVABLE.temperature(hour.temperature) &&
  BELIEVABLE.rain(hour.rain) &&
  BELIEVABLE.chance(hour.chance) &&
  BELIEVABLE.wind(hour.wind)

/**
 * A forecast of what a service said at an instant: hours that are absurd, over, or too far ahead are left out. Null where nothing
 * of it is left, or it is too old, or said to come from the future.
 */
export const forecastOf = (
  issued: Instant,
  hours: readonly ForecastHour[],
  now: Instant,
): Forecast | null => {
  if (issued > now + HOUR || issued < now - OLDEST) return null
  const first = Math.floor(now / HOUR) * HOUR
  const known = new Map(
    hours
      .filter((hour) => isBelievable(hour) && hour.at >= first && hour.at < issued + FURTHEST)
      .map((hour) => [hour.at, hour]),
  )
  if (known.size === 0) return null
  const [from, last] = [Math.min(...known.keys()), Math.max(...known.keys())]
  const column = (of: (hour: ForecastHour) => number) =>
    Array.from({ length: (last - from) / HOUR + 1 }, (_, i) => {
      const hour = known.get(from + i * HOUR)
      return hour ? of(hour) : null
    })
  return {
    issued,
    from,
    temperature: column((hour) => hour.temperature),
    rain: column((hour) => hour.rain),
    chance: column((hour) => hour.chance),
    wind: column((hour) => hour.wind),
  }
}

/** Until when a forecast reaches. */
export const horizonOf = (forecast: Forecast): Instant => forecast.from + forecast.rain.length * HOUR

/** Whether a forecast still says something at an instant. */
export const isFresh = (forecast: Forecast, now: Instant): boolean => now - forecast.issued <= OLDEST

/** What is expected during a span; null where nothing of it is known. */
export const expectedIn = (forecast: Forecast, { start, end }: Span): Expected | null => {
  const first = Math.floor((start - forecast.from) / HOUR)
  const last = Math.ceil((end - forecast.from) / HOUR)
  let [known, low, high, rain, chance, wind] = [
    0,
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
    0,
    0,
    0,
  ]
  for (let i = Math.max(0, first); i < last && i < forecast.rain.length; i++) {
    const temperature = forecast.temperature[i]
    if (temperature === null || temperature === undefined) continue
    known++
    low = Math.min(low, temperature)
    high = Math.max(high, temperature)
    rain += isWetHour(forecast, i) ? (forecast.rain[i] ?? 0) : 0
    chance = Math.max(chance, forecast.chance[i] ?? 0)
    wind = Math.max(wind, forecast.wind[i] ?? 0)
  }
  if (known === 0) return null
  return { whole: known === last - first, low, high, rain: Math.round(rain * 10) / 10, chance, wind }
}

/** What is expected of what is still to come of a span, by a forecast that is not too old; what is over of it is no gap. */
export const stillExpected = (forecast: Forecast, { start, end }: Span, now: Instant): Expected | null =>
  isFresh(forecast, now) && end > now ? expectedIn(forecast, { start: Math.max(start, now), end }) : null

const isWetHour = ({ rain, chance }: Forecast, i: number): boolean =>
  (rain[i] ?? 0) >= WET_MM && (chance[i] ?? 0) >= WET_CHANCE

/** Whether one gets wet. */
export const isWet = (expected: Expected): boolean => expected.rain >= WET_MM

export const isWindy = (expected: Expected): boolean => expected.wind >= WINDY_KMH

/** What is against a time out of doors, of what one would rather avoid. */
export const againstIt = (expected: Expected, avoid: readonly Avoidable[]): Avoidable[] =>
  avoid.filter((what) => (what === 'rain' ? isWet(expected) : isWindy(expected)))

const degrees = ({ low, high }: Expected): string => {
  const [from, to] = [Math.round(low), Math.round(high)]
  const sign = (n: number) => (n < 0 ? `−${-n}` : String(n))
  return from === to ? `${sign(from)} °C` : `${sign(from)} to ${sign(to)} °C`
}

/** The word for what falls, if anything does: "dry", "snow", "rain, 4 mm". */
const fallsInWords = (expected: Expected): string => {
  if (!isWet(expected)) return 'dry'
  const what = expected.high <= SNOW_BELOW ? 'snow' : expected.low <= SNOW_BELOW ? 'rain or snow' : 'rain'
  return what === 'snow' ? 'snow' : `${what}, ${expected.rain < 1 ? 'under 1' : Math.round(expected.rain)} mm`
}

/** What is expected, in a few words: "dry, 3 to 6 °C", "rain, 4 mm, 7 °C, wind 52 km/h". Wind is told where it is felt. */
export const expectedInWords = (expected: Expected): string =>
  [
    fallsInWords(expected),
    degrees(expected),
    ...(isWindy(expected) ? [`windy, ${Math.round(expected.wind)} km/h`] : []),
    ...(expected.whole ? [] : ['not known to its end']),
  ].join(', ')

/** When it was said: "as forecast at 06:00", with the day where that is not today. */
export const issuedInWords = (forecast: Forecast, zone: ZoneTable, now: Instant): string => {
  const wall = toWall(zone, forecast.issued)
  const day = dayOf(wall)
  const today = dayOf(toWall(zone, now))
  return `as forecast ${day === today ? '' : `on ${shortDay(day)} `}at ${clockText(minuteOf(wall))}`
}

/** That nothing is known beyond where a forecast ends: "no forecast after Mon 30 Nov 07:00". */
export const horizonInWords = (until: Instant | null, zone: ZoneTable): string =>
  until === null ? 'no forecast' : `no forecast after ${shortTime(until, zone)}`

/** How many minutes of trouble bad weather is, and not knowing: more than any day later, less than somebody who is missing twice. */
const BAD = 300
const BAD_HOUR = 30
const NOT_KNOWN = 120

/** What the weather of a time out of doors costs, where some of it is to be avoided; minutes of trouble, as the parts of an opening. */
export const weatherCost = (expected: Expected | null, avoid: readonly Avoidable[]): number => {
  if (avoid.length === 0) return 0
  if (!expected) return NOT_KNOWN
  const bad = againstIt(expected, avoid)
  return (
    bad.length * BAD +
    (bad.includes('rain') ? Math.min(BAD, expected.rain * BAD_HOUR) : 0) +
    (expected.whole ? 0 : NOT_KNOWN / 2)
  )
}
