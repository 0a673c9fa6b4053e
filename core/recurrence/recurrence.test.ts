import { describe, expect, it } from 'vitest'
import { MINUTE, toWall, wallFromText, wallText, zoneTable } from '../time/index.ts'
import { BadRule, datesWithin, occurrencesWithin, type Series } from './index.ts'

const newYork = zoneTable('America/New_York')
const wall = (text: string) => wallFromText(text) ?? 0

const series = (starts: string, rule: string | null, more: Partial<Series> = {}): Series => ({
  starts: wall(starts),
  minutes: 60,
  rule,
  added: [],
  excepted: [],
  ...more,
})

const days = (found: number[]) => found.map((each) => wallText(each).slice(0, 10))
const all = (given: Series, until = '2010-01-01T00:00') =>
  datesWithin(given, newYork, wall('1990-01-01T00:00'), wall(until))

describe('series', () => {
  it('of whole days last a day on the calendar, also when it has 23 or 25 hours', () => {
    const vienna = zoneTable('Europe/Vienna')
    const given = { ...series('2027-03-27T00:00', 'FREQ=DAILY;COUNT=2'), minutes: 1440, allDay: true }
    const found = occurrencesWithin(given, [], vienna, 0, Number.MAX_SAFE_INTEGER)
    expect(found.map((each) => wallText(toWall(vienna, each.end)))).toEqual([
      '2027-03-28T00:00',
      '2027-03-29T00:00',
    ])
    expect(found.map((each) => (each.end - each.start) / (60 * MINUTE))).toEqual([24, 23])
  })

  it('keep the clock on the wall through daylight-saving changes', () => {
    const vienna = zoneTable('Europe/Vienna')
    const given = series('2026-10-22T08:00', 'FREQ=WEEKLY;COUNT=2')
    const found = occurrencesWithin(given, [], vienna, 0, Number.MAX_SAFE_INTEGER)
    expect(found.map((each) => new Date(each.start).toISOString())).toEqual([
      '2026-10-22T06:00:00.000Z',
      '2026-10-29T07:00:00.000Z',
    ])
    expect(found.every((each) => each.end - each.start === 60 * MINUTE)).toBe(true)
  })

  it('apply overrides: a moved date, a cancelled one, one moved in from far away', () => {
    const vienna = zoneTable('Europe/Vienna')
    const given = series('2026-11-02T10:00', 'FREQ=WEEKLY;COUNT=30')
    const overrides = [
      {
        recurrence: wall('2026-11-09T10:00'),
        cancelled: false,
        starts: wall('2026-11-10T15:00'),
        minutes: 30,
      },
      { recurrence: wall('2026-11-16T10:00'), cancelled: true, starts: null, minutes: null },
      {
        recurrence: wall('2027-03-01T10:00'),
        cancelled: false,
        starts: wall('2026-11-20T09:00'),
        minutes: null,
      },
    ]
    const found = occurrencesWithin(given, overrides, vienna, Date.UTC(2026, 10, 8), Date.UTC(2026, 10, 22))
    expect(
      found.map((each) => [wallText(toWall(vienna, each.start)), (each.end - each.start) / MINUTE]),
    ).toEqual([
      ['2026-11-10T15:00', 30],
      ['2026-11-20T09:00', 60],
    ])
  })

  it('read UNTIL in UTC as the series’ own wall time', () => {
    const auckland = zoneTable('Pacific/Auckland')
    // The third date begins at 20:00 UTC of the 3rd, before UNTIL, though its wall time is past it.
    const given = series('2026-12-02T09:00', 'FREQ=DAILY;UNTIL=20261203T210000Z')
    expect(days(datesWithin(given, auckland, 0, Number.MAX_SAFE_INTEGER))).toEqual([
      '2026-12-02',
      '2026-12-03',
      '2026-12-04',
    ])
  })

  it('refuse a rule that cannot be read', () => {
    expect(() => all(series('2026-01-01T09:00', 'EVERY DAY'))).toThrow(BadRule)
    expect(() => all(series('2026-01-01T09:00', 'FREQ=SOMETIMES'))).toThrow(BadRule)
  })
})
