import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { DAY, HOUR, zoneTable } from '../time/index.ts'
import {
  AVOIDABLE,
  expectedIn,
  expectedInWords,
  type ForecastHour,
  forecastOf,
  horizonInWords,
  horizonOf,
  isFresh,
  issuedInWords,
  stillExpected,
  weatherCost,
} from './index.ts'

const NOW = Date.parse('2026-11-23T08:00:00Z')
const vienna = zoneTable('Europe/Vienna')
const hour = (i: number, more: Partial<ForecastHour> = {}): ForecastHour => ({
  at: NOW + i * HOUR,
  temperature: 4,
  rain: 0,
  chance: 5,
  wind: 12,
  ...more,
})
const hours = (count: number, of: (i: number) => Partial<ForecastHour> = () => ({})) =>
  Array.from({ length: count }, (_, i) => hour(i, of(i)))
const forecast = (count: number, of?: (i: number) => Partial<ForecastHour>) => {
  const made = forecastOf(NOW - 2 * HOUR, hours(count, of), NOW)
  if (!made) throw new Error('no forecast')
  return made
}
const span = (from: number, to: number) => ({ start: NOW + from * HOUR, end: NOW + to * HOUR })
const words = (of: (i: number) => Partial<ForecastHour>) => {
  const expected = expectedIn(forecast(12, of), span(1, 3))
  return expected && expectedInWords(expected)
}

describe('what a service says', () => {
  it('is taken hour by hour; what is absurd, over, or too far ahead is left out', () => {
    const made = forecastOf(
      NOW - HOUR,
      [
        hour(-3),
        hour(0),
        hour(1, { temperature: 900 }),
        hour(2, { chance: -1 }),
        hour(3, { rain: Number.NaN }),
        hour(4, { wind: 20 }),
        hour(4.5),
        hour(24 * 30),
      ],
      NOW,
    )
    expect(made).toMatchObject({ from: NOW, wind: [12, null, null, null, 20] })
    expect(made && horizonOf(made)).toBe(NOW + 5 * HOUR)
  })

  it('is nothing where it is old, from the future, or empty', () => {
    expect(forecastOf(NOW - 3 * DAY, hours(10), NOW)).toBeNull()
    expect(forecastOf(NOW + 2 * HOUR, hours(10), NOW)).toBeNull()
    expect(forecastOf(NOW, [], NOW)).toBeNull()
    expect(isFresh(forecast(5), NOW)).toBe(true)
    expect(isFresh(forecast(5), NOW + 2 * DAY)).toBe(false)
  })
})

describe('what is expected during a time', () => {
  it('counts every hour that the time touches, and says where it is not known to its end', () => {
    const made = forecast(12, (i) => ({ temperature: i, rain: i === 2 ? 3 : 0, chance: 80, wind: i * 10 }))
    expect(expectedIn(made, { start: NOW + 1.5 * HOUR, end: NOW + 2.25 * HOUR })).toEqual({
      whole: true,
      low: 1,
      high: 2,
      rain: 3,
      chance: 80,
      wind: 20,
    })
    expect(expectedIn(made, span(10, 14))).toMatchObject({ whole: false, low: 10, high: 11 })
    expect(expectedIn(made, span(12, 14))).toBeNull()
    expect(expectedIn(made, span(-5, -3))).toBeNull()
  })

  it('is of what is still to come, while it runs', () => {
    const made = forecast(12)
    expect(stillExpected(made, span(-3, 2), NOW)).toMatchObject({ whole: true })
    expect(stillExpected(made, span(-3, 0), NOW)).toBeNull()
    expect(stillExpected(made, span(1, 2), NOW + 3 * DAY)).toBeNull()
  })

  it('is said in a few words, and only what is felt', () => {
    expect(words(() => ({}))).toBe('dry, 4 °C')
    expect(words((i) => ({ temperature: i - 3 }))).toBe('dry, −2 to −1 °C')
    expect(words(() => ({ rain: 2, chance: 90, wind: 55 }))).toBe('rain, 4 mm, 4 °C, windy, 55 km/h')
    expect(words(() => ({ rain: 0.3, chance: 90 }))).toBe('rain, under 1 mm, 4 °C')
    expect(words(() => ({ rain: 2, chance: 90, temperature: -1 }))).toBe('snow, −1 °C')
    // What is unlikely is not counted on.
    expect(words(() => ({ rain: 2, chance: 20 }))).toBe('dry, 4 °C')
  })

  it('comes with when it was said, and how far it reaches', () => {
    const made = forecast(48)
    expect(issuedInWords(made, vienna, NOW)).toBe('as forecast at 07:00')
    expect(issuedInWords(made, vienna, NOW + DAY)).toBe('as forecast on Mon 23 Nov at 07:00')
    expect(horizonInWords(horizonOf(made), vienna)).toBe('no forecast after Wed 25 Nov 09:00')
    expect(horizonInWords(null, vienna)).toBe('no forecast')
  })

  it('costs nothing that is not to be avoided, and never less for more rain', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ rain: fc.integer({ min: 0, max: 30 }), wind: fc.integer({ min: 0, max: 120 }) }),
          {
            minLength: 4,
            maxLength: 4,
          },
        ),
        (parts) => {
          const made = (more: number) =>
            forecast(4, (i) => ({
              chance: 100,
              rain: (parts[i]?.rain ?? 0) + more,
              wind: parts[i]?.wind ?? 0,
            }))
          const expected = expectedIn(made(0), span(0, 4))
          expect(weatherCost(expected, [])).toBe(0)
          expect(weatherCost(expectedIn(made(1), span(0, 4)), ['rain'])).toBeGreaterThanOrEqual(
            weatherCost(expected, ['rain']),
          )
          expect(weatherCost(expected, AVOIDABLE)).toBe(
            weatherCost(expected, ['rain']) + weatherCost(expected, ['wind']),
          )
        },
      ),
      { numRuns: runs(100) },
    )
    const dry = expectedIn(forecast(4), span(0, 1))
    const wet = expectedIn(
      forecast(4, () => ({ rain: 1, chance: 100 })),
      span(0, 1),
    )
    expect(weatherCost(dry, ['rain'])).toBe(0)
    // Not knowing is worse than dry, and better than wet.
    expect(weatherCost(null, ['rain'])).toBeLessThan(weatherCost(wet, ['rain']))
    expect(weatherCost(null, ['rain'])).toBeGreaterThan(0)
  })
})
