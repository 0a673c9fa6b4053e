import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { stretchOf, workingDays } from '../availability/index.ts'
import { DAY, MINUTE, zoneTable } from '../time/index.ts'
import { USUAL_RULES } from './brief.ts'
import { judge } from './index.ts'
import { asked, at, brief, busy, office, VIENNA } from './samples.ts'
import { costOf, fairnessOf, type Parts, stretchCost, stretchedBy, stretchIn } from './score.ts'

const ZONES = [
  'Europe/Vienna',
  'Asia/Kathmandu',
  'America/St_Johns',
  'Pacific/Auckland',
  'Australia/Adelaide',
]

describe('stretch', () => {
  it('is what the plainest way says: how far out of the nearest working day, both ends counted', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...ZONES),
        fc.integer({ min: 0, max: 400 * 96 }),
        fc.integer({ min: 1, max: 12 }),
        (zone, quarter, length) => {
          const start = at('2026-12-01T00:00') + quarter * 15 * MINUTE
          const end = start + length * 15 * MINUTE
          const days = workingDays(office, zoneTable(zone), start - 5 * DAY, end + 5 * DAY)
          expect(stretchIn({ days }, start, end)).toBe(stretchOf(days.spans, { start, end }))
        },
      ),
    )
  })

  it('costs little when it is little, and a night more than its hours apart', () => {
    expect(stretchCost(0)).toBe(0)
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 600 }), fc.integer({ min: 1, max: 600 }), (a, b) => {
        expect(stretchCost(a + b)).toBeGreaterThan(stretchCost(a) + stretchCost(b))
      }),
    )
  })

  it('of past meetings is summed, and nothing for somebody who says no hours', () => {
    const meetings = [
      { start: at('2026-11-02T07:00'), end: at('2026-11-02T08:00') },
      { start: at('2026-11-03T09:00'), end: at('2026-11-03T10:00') },
      { start: at('2026-11-04T16:30'), end: at('2026-11-04T17:30') },
    ]
    expect(stretchedBy({ zone: VIENNA, hours: office }, meetings)).toBe(90)
    expect(stretchedBy({ zone: VIENNA, hours: [] }, meetings)).toBe(0)
    expect(stretchedBy({ zone: VIENNA, hours: office }, [])).toBe(0)
  })
})

describe('fairness', () => {
  it('is how far whoever bears most would stand above the average, past meetings counted', () => {
    expect(fairnessOf(['ilse', 'tashi'], [{ id: 'tashi', minutes: 60 }], {})).toEqual({
      fairness: 30,
      spared: [],
    })
    expect(fairnessOf(['ilse', 'tashi'], [{ id: 'ilse', minutes: 60 }], { tashi: 60 })).toEqual({
      fairness: 0,
      spared: ['tashi'],
    })
  })

  it('says nobody is spared who bore little, or when nobody bears anything now', () => {
    expect(fairnessOf(['ilse', 'tashi'], [{ id: 'ilse', minutes: 15 }], { tashi: 59 }).spared).toEqual([])
    expect(fairnessOf(['ilse', 'tashi'], [], { tashi: 600 }).spared).toEqual([])
  })

  it('is the same whoever is named first', () => {
    const minutes = fc.integer({ min: 0, max: 300 })
    fc.assert(
      fc.property(fc.array(fc.tuple(minutes, minutes), { minLength: 1, maxLength: 6 }), (people) => {
        const ids = people.map((_, i) => `p${i}`)
        const past = Object.fromEntries(people.map(([bore], i) => [`p${i}`, bore]))
        const now = people.flatMap(([, bears], i) => (bears ? [{ id: `p${i}`, minutes: bears }] : []))
        const there = fairnessOf(ids, now, past)
        const back = fairnessOf([...ids].reverse(), [...now].reverse(), past)
        expect(back.fairness).toBe(there.fairness)
        expect([...back.spared].sort()).toEqual([...there.spared].sort())
      }),
    )
  })
})

describe('the parts of a time', () => {
  const partsAt = (
    start: string,
    spans: ReturnType<typeof busy>[],
    more: Partial<typeof USUAL_RULES> = {},
  ) => {
    const given = brief([asked('ilse', VIENNA, { spans })], {
      rules: { ...USUAL_RULES, stretch: 240, ...more },
    })
    return judge(given, { start: at(start), end: at(start) + 60 * MINUTE }).parts
  }
  const before = busy('2026-12-03T09:00', '2026-12-03T10:00')
  const after = busy('2026-12-03T11:20', '2026-12-03T12:00')

  it('count the air that is lacking to a quarter of an hour, on both sides', () => {
    expect(partsAt('2026-12-03T10:00', [before, after]).squeezed).toEqual([{ id: 'ilse', minutes: 15 }])
    expect(partsAt('2026-12-03T10:10', [before, after]).squeezed).toEqual([{ id: 'ilse', minutes: 10 }])
    expect(partsAt('2026-12-03T14:00', [before, after]).squeezed).toEqual([])
  })

  it('count pieces of free time that are too short to use, up to the end of the working day', () => {
    expect(partsAt('2026-12-03T10:00', [before, after]).scraps).toBe(20)
    expect(partsAt('2026-12-03T15:45', []).scraps).toBe(15)
    expect(partsAt('2026-12-03T15:00', []).scraps).toBe(0)
  })

  it('tell tentative time only where it may be used', () => {
    const maybe = busy('2026-12-03T10:30', '2026-12-03T11:00', 'tentative')
    expect(partsAt('2026-12-03T10:00', [maybe], { tentative: true }).tentative).toEqual([
      { id: 'ilse', minutes: 30 },
    ])
    expect(partsAt('2026-12-03T10:00', [maybe]).tentative).toEqual([])
  })

  it('count the days from the beginning of the window on the organizer’s calendar', () => {
    expect(partsAt('2026-12-03T08:00', []).days).toBe(0)
    expect(partsAt('2026-12-04T16:00', []).days).toBe(1)
  })

  it('cost more with each part that grows', () => {
    const none: Parts = {
      missing: [],
      tentative: [],
      stretch: [],
      lunch: [],
      squeezed: [],
      scraps: 0,
      days: 0,
      fairness: 0,
      spared: [],
      weather: null,
      places: null,
    }
    const share = [{ id: 'ilse', minutes: 15 }]
    expect(costOf(none)).toBe(0)
    for (const more of [
      { missing: ['tashi'] },
      { tentative: share },
      { stretch: share },
      { lunch: share },
      { squeezed: share },
      { scraps: 10 },
      { days: 1 },
      { fairness: 5 },
    ])
      expect(costOf({ ...none, ...more }), JSON.stringify(more)).toBeGreaterThan(0)
  })
})
