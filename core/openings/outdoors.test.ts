import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { DAY, HOUR, toWall, wallText, zoneTable } from '../time/index.ts'
import { type Avoidable, expectedIn, type Forecast } from '../weather/index.ts'
import { searchOpenings } from './index.ts'
import { asked, at, brief, busy, VIENNA, words } from './samples.ts'

const FROM = at('2026-12-01T00:00')
/** What is expected hour by hour for so many days: rain and wind by the day, and by the hour within it. */
const forecast = (days: number, rain: (day: number, hour: number) => number, wind = (_: number) => 10) =>
  ({
    issued: FROM,
    from: FROM,
    temperature: Array.from({ length: days * 24 }, () => 4),
    rain: Array.from({ length: days * 24 }, (_, i) => rain(Math.floor(i / 24), i % 24)),
    chance: Array.from({ length: days * 24 }, () => 90),
    wind: Array.from({ length: days * 24 }, (_, i) => wind(Math.floor(i / 24))),
  }) satisfies Forecast
const three = (known: Forecast | null, avoid: readonly Avoidable[], more = {}) =>
  brief([asked('ilse'), asked('matteo')], {
    from: FROM,
    to: FROM + 3 * DAY,
    outdoors: { forecast: known, avoid },
    ...more,
  })
const day = (start: number) => wallText(toWall(zoneTable(VIENNA), start)).slice(0, 10)

describe('a time out of doors', () => {
  it('is on the dry one of three free days, and says what is expected', () => {
    const wet = forecast(3, (day) => (day === 1 ? 0 : 2))
    const [best, ...others] = searchOpenings(three(wet, ['rain'])).openings
    expect(day(best?.start ?? 0)).toBe('2026-12-02')
    expect(best?.parts.weather).toMatchObject({ cost: 0, expected: { rain: 0, high: 4, whole: true } })
    expect(others.map((one) => one.parts.weather?.expected?.rain)).toEqual([2, 2])
    // Who does not ask to avoid it is told all the same, and goes on the first.
    const [first] = searchOpenings(three(wet, [])).openings
    expect(first?.parts.weather).toMatchObject({ cost: 0, expected: { rain: 2 } })
    expect(day(first?.start ?? 0)).toBe('2026-12-01')
  })

  it('lies within a day where it is dry, though an earlier hour is free, too', () => {
    const wet = forecast(3, (_, hour) => (hour < 13 ? 2 : 0))
    const [best] = searchOpenings(three(wet, ['rain'])).openings
    expect(words(best?.start ?? 0)).toBe('2026-12-01T13:00')
  })

  it('is where there is no wind, if that is to be avoided', () => {
    const calm = forecast(
      3,
      () => 2,
      (day) => (day === 2 ? 10 : 60),
    )
    const [best] = searchOpenings(three(calm, ['wind'])).openings
    expect(day(best?.start ?? 0)).toBe('2026-12-03')
  })

  it('that no forecast reaches comes after the dry ones and before the wet, and says how far one reaches', () => {
    const short = forecast(1, () => 3)
    const found = searchOpenings(three(short, ['rain'])).openings
    expect(found.map((one) => [day(one.start), one.parts.weather?.expected === null])).toEqual([
      ['2026-12-02', true],
      ['2026-12-03', true],
      ['2026-12-01', false],
    ])
    expect(found[0]?.parts.weather?.until).toBe(FROM + DAY)
    expect(searchOpenings(three(null, ['rain'])).openings[0]?.parts.weather).toMatchObject({ until: null })
  })

  it('is never taken away by the weather, only ranked; under a roof nothing is said of it', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 72, maxLength: 72 }),
        fc.subarray<Avoidable>(['rain', 'wind']),
        fc.constantFrom(0, 60, null),
        (rain, avoid, stretch) => {
          const rules = { ...brief([]).rules, stretch }
          const people = [
            asked('ilse', VIENNA, { spans: [busy('2026-12-02T09:00', '2026-12-02T15:00')] }),
            asked('matteo'),
          ]
          const known = forecast(3, (day, hour) => rain[day * 24 + hour] ?? 0)
          const outside = searchOpenings({ ...three(known, avoid), people, rules })
          const inside = searchOpenings({ ...three(known, avoid), people, rules, outdoors: null })
          expect(outside.starts).toBe(inside.starts)
          expect(outside.bands.map(({ start, end }) => [start, end])).toEqual(
            inside.bands.map(({ start, end }) => [start, end]),
          )
          for (const { start, end, parts } of outside.openings)
            expect(parts.weather?.expected).toEqual(expectedIn(known, { start, end }))
          expect(inside.openings.every((one) => one.parts.weather === null)).toBe(true)
        },
      ),
      { numRuns: runs(60) },
    )
  })

  it('begins in the one dry hour of a wet day', () => {
    const wet = forecast(1, (_, hour) => (hour === 10 ? 0 : 1))
    const one = three(wet, ['rain'], { to: FROM + DAY })
    const [best] = searchOpenings(one).openings
    expect(best && (best.start - FROM) / HOUR).toBe(10)
  })
})
