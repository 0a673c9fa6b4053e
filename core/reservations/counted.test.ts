import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { countedSpans, countUnits, freeOfMany, isCounted } from './index.ts'

const unit = (name: string, siteId = 'dunedin', kind = 'equipment') => ({ name, siteId, kind })

describe('counted equipment', () => {
  it('is one thing where a site has several units of it', () => {
    const all = [
      unit('Thermal drone 2'),
      unit('Field van'),
      unit('Thermal drone 10'),
      unit('Thermal drone 1'),
      unit('Thermal drone 1', 'innsbruck'),
      unit('Loft 1', 'innsbruck', 'desk'),
      unit('Loft 2', 'innsbruck', 'desk'),
    ]
    const seen = countUnits(all).map((one) =>
      isCounted(one) ? [one.name, one.units.map((each) => each.name)] : one.name,
    )
    expect(seen).toEqual([
      ['Thermal drone', ['Thermal drone 1', 'Thermal drone 2', 'Thermal drone 10']],
      'Field van',
      'Thermal drone 1',
      'Loft 1',
      'Loft 2',
    ])
  })

  it('is taken where none is free, and half open where some are', () => {
    expect(countedSpans([[{ start: 0, end: 4 }], [{ start: 2, end: 6 }]])).toEqual([
      { start: 0, end: 2, state: 'tentative', title: '1 of 2 free' },
      { start: 2, end: 4, state: 'busy', title: 'none free' },
      { start: 4, end: 6, state: 'tentative', title: '1 of 2 free' },
    ])
  })

  it('has as many free at each moment as counting them one by one says', () => {
    const span = fc
      .tuple(fc.integer({ min: 0, max: 30 }), fc.integer({ min: 1, max: 9 }))
      .map(([start, length]) => ({ start, end: start + length }))
    fc.assert(
      fc.property(fc.array(fc.array(span, { maxLength: 5 }), { minLength: 1, maxLength: 5 }), (units) => {
        const found = freeOfMany(units)
        for (let at = 0; at < 42; at++) {
          const taken = units.filter((spans) => spans.some((one) => one.start <= at && at < one.end)).length
          const here = found.find((one) => one.start <= at && at < one.end)
          expect(here?.free ?? units.length).toBe(units.length - taken)
        }
      }),
    )
  })
})
