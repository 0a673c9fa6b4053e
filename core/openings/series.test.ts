import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { DAY, dayOf, instantOf, MINUTE, minuteOf, toWall, weekStart, zoneTable } from '../time/index.ts'
import { judge, type SearchBrief, searchSeries, seriesAt, seriesEnd } from './index.ts'
import { asked, at, brief, VIENNA } from './samples.ts'
import { isClash } from './series.ts'

const table = zoneTable(VIENNA)
const FROM = at('2027-02-15T00:00')
const rule = { every: 2, unit: 'week', count: 6 } as const
const given = (
  spans: readonly { start: number; end: number; state: 'busy' }[],
  more: Partial<SearchBrief> = {},
) =>
  brief([asked('ilse'), asked('catalina', 'America/Santiago', { spans })], {
    from: FROM,
    to: FROM + 14 * DAY,
    now: FROM,
    step: 30,
    rules: { ...brief([]).rules, stretch: 120 },
    ...more,
  })
/** Busy hours on some days of the run, which crosses the changes of clocks of both hemispheres. */
const someBusy = fc.array(
  fc.tuple(fc.integer({ min: 0, max: 90 }), fc.integer({ min: 12, max: 20 }), fc.integer({ min: 1, max: 5 })),
  { maxLength: 25 },
)
const spansOf = (parts: readonly (readonly [number, number, number])[]) =>
  parts.map(([day, hour, hours]) => {
    const start = FROM + day * DAY + hour * 60 * MINUTE
    return { start, end: start + hours * 60 * MINUTE, state: 'busy' as const }
  })

describe('a series with days off of two sites', () => {
  it('names each among its clashes, with another time that works', () => {
    const day = (text: string, zone: string) => {
      const start = instantOf(zoneTable(zone), Date.parse(text))
      return { start, end: start + DAY }
    }
    const off = (text: string, zone: string, title: string) => ({
      ...day(text, zone),
      state: 'away' as const,
      dayOff: true,
      title,
    })
    const wanted = brief(
      [
        asked('ilse', VIENNA, { spans: [off('2026-12-08', VIENNA, 'Immaculate Conception')] }),
        asked('wanjiru', 'Africa/Nairobi', { spans: [off('2027-03-09', 'Africa/Nairobi', 'Eid al-Fitr')] }),
      ],
      { from: at('2026-11-30T00:00'), to: at('2026-12-14T00:00'), now: at('2026-11-30T00:00') },
    )
    const slot = seriesAt(wanted, { every: 1, unit: 'week', count: 16 }, at('2026-12-01T10:00'))
    const clashes = slot.dates.filter(isClash)
    expect(clashes.map((date) => date.blockers.map((one) => [one.id, one.kind, one.title]))).toEqual([
      [['ilse', 'away', 'Immaculate Conception']],
      [['wanjiru', 'away', 'Eid al-Fitr']],
    ])
    expect(clashes.map((date) => date.repairs.map((each) => each.kind))).toEqual([['day'], ['day']])
  })
})

describe('a series over changes of clocks', () => {
  it('clashes on just those dates that are no opening by themselves', () => {
    fc.assert(
      fc.property(someBusy, (parts) => {
        const wanted = given(spansOf(parts))
        for (const slot of searchSeries(wanted, rule).slice(0, 3)) {
          expect(slot.dates).toHaveLength(rule.count)
          for (const date of slot.dates) {
            const time = { start: date.start, end: date.start + wanted.minutes * MINUTE }
            expect(isClash(date)).toBe(!judge(wanted, time).fits)
          }
          expect(slot.clashes).toBe(slot.dates.filter(isClash).length)
        }
      }),
      { numRuns: runs(60) },
    )
  })

  it('offers only repairs that are openings: that day, or that week at another day', () => {
    fc.assert(
      fc.property(someBusy, (parts) => {
        const wanted = given(spansOf(parts))
        const slot = seriesAt(wanted, rule, at('2027-02-16T14:00'))
        for (const date of slot.dates)
          for (const repair of date.repairs) {
            const time = { start: repair.start, end: repair.start + wanted.minutes * MINUTE }
            expect(judge(wanted, time).fits).toBe(true)
            const [was, is] = [dayOf(date.recurrence), dayOf(toWall(table, repair.start))]
            expect(is === was).toBe(repair.kind === 'time')
            expect(weekStart(is)).toBe(weekStart(was))
          }
      }),
      { numRuns: runs(60) },
    )
  })

  it('is offered with the fewest clashes first, each hour of a weekday once', () => {
    fc.assert(
      fc.property(someBusy, (parts) => {
        const slots = searchSeries(given(spansOf(parts)), rule)
        const clashes = slots.map((slot) => slot.clashes)
        expect(clashes).toEqual([...clashes].sort((a, b) => a - b))
        expect(new Set(slots.map((slot) => slot.first)).size).toBe(slots.length)
        for (const slot of slots) expect(slot.first).toBeLessThan(FROM + 14 * DAY)
      }),
      { numRuns: runs(40) },
    )
  })

  it('keeps the clock on the wall of its organizer', () => {
    const slot = seriesAt(given([]), { ...rule, count: 12 }, at('2027-02-16T14:00'))
    expect(new Set(slot.dates.map((date) => minuteOf(toWall(table, date.start))))).toEqual(new Set([14 * 60]))
    const offsets = new Set(slot.dates.map((date) => toWall(table, date.start) - date.start))
    expect(offsets.size).toBe(2)
  })

  it('needs a window up to its last date and the week around it', () => {
    expect(seriesEnd({ from: 0 }, rule)).toBeGreaterThanOrEqual(6 * 14 * DAY)
    const monthly = { every: 1, unit: 'month', count: 12 } as const
    const slot = seriesAt(given([]), monthly, at('2027-02-23T14:00'))
    expect(slot.dates.at(-1)?.start ?? 0).toBeLessThan(seriesEnd({ from: FROM }, monthly))
  })
})
