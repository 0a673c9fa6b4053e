import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  DAY,
  dayOf,
  MINUTE,
  minuteOf,
  toWall,
  wallFromText,
  wallOf,
  wallText,
  weekdayOf,
  zoneTable,
} from '../time/index.ts'
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

/** Examples of RFC 5545 section 3.8.5.3, all beginning at 09:00 in America/New_York. */
describe('the examples of RFC 5545', () => {
  it.each([
    ['DAILY;COUNT=10', '1997-09-02', 10, '1997-09-11'],
    ['DAILY;UNTIL=19971224T000000Z', '1997-09-02', 113, '1997-12-23'],
    ['DAILY;INTERVAL=10;COUNT=5', '1997-09-02', 5, '1997-10-12'],
    ['WEEKLY;COUNT=10', '1997-09-02', 10, '1997-11-04'],
    ['WEEKLY;UNTIL=19971224T000000Z', '1997-09-02', 17, '1997-12-23'],
    ['WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH', '1997-09-02', 10, '1997-10-02'],
    ['WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH', '1997-09-02', 8, '1997-10-16'],
    ['MONTHLY;COUNT=10;BYDAY=1FR', '1997-09-05', 10, '1998-06-05'],
    ['MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU', '1997-09-07', 10, '1998-05-31'],
    ['MONTHLY;COUNT=6;BYDAY=-2MO', '1997-09-22', 6, '1998-02-16'],
    ['MONTHLY;COUNT=10;BYMONTHDAY=2,15', '1997-09-02', 10, '1998-01-15'],
    ['MONTHLY;COUNT=10;BYMONTHDAY=1,-1', '1997-09-30', 10, '1998-02-01'],
    ['MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15', '1997-09-10', 10, '1999-03-13'],
    ['YEARLY;COUNT=10;BYMONTH=6,7', '1997-06-10', 10, '2001-07-10'],
    ['YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3', '1997-03-10', 10, '2003-03-10'],
    ['YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200', '1997-01-01', 10, '2006-01-01'],
    ['MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2;COUNT=7', '1997-09-29', 7, '1998-03-30'],
    ['MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3', '1997-09-04', 3, '1997-11-06'],
    ['MONTHLY;BYMONTHDAY=15,30;COUNT=5', '2007-01-15', 5, '2007-03-30'],
    ['WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO', '1997-08-05', 4, '1997-08-24'],
    ['WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU', '1997-08-05', 4, '1997-08-31'],
  ])('FREQ=%s from %s gives %d dates up to %s', (rule, first, count, last) => {
    const found = days(all(series(`${first}T09:00`, `FREQ=${rule}`)))
    expect(found).toHaveLength(count)
    expect(found[0]).toBe(first)
    expect(found.at(-1)).toBe(last)
  })

  it('finds Friday the 13ths, leaving out the start as its EXDATE asks', () => {
    const given = series('1997-09-02T09:00', 'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13', {
      excepted: [wall('1997-09-02T09:00')],
    })
    expect(days(all(given, '2000-12-31T00:00'))).toEqual([
      '1998-02-13',
      '1998-03-13',
      '1998-11-13',
      '1999-08-13',
      '2000-10-13',
    ])
  })
})

describe('series', () => {
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

  it('agree with the plainest expansion of weekly rules', () => {
    const names = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU']
    const given = fc.record({
      first: fc.integer({ min: 20_500, max: 21_500 }),
      minute: fc.integer({ min: 0, max: 1439 }),
      interval: fc.integer({ min: 1, max: 4 }),
      weekdays: fc.uniqueArray(fc.integer({ min: 1, max: 7 }), { minLength: 1, maxLength: 7 }),
    })
    fc.assert(
      fc.property(given, ({ first, minute, interval, weekdays }) => {
        const starts = wallOf(first, minute)
        const rule = `FREQ=WEEKLY;INTERVAL=${interval};BYDAY=${weekdays.map((each) => names[each - 1]).join()}`
        const found = datesWithin(
          { starts, minutes: 30, rule, added: [], excepted: [] },
          newYork,
          starts,
          starts + 80 * DAY,
        )
        const monday = first - (weekdayOf(first) - 1)
        const plain = Array.from({ length: 80 }, (_, i) => first + i).filter(
          (day) =>
            day === first ||
            (weekdays.includes(weekdayOf(day)) && Math.floor((day - monday) / 7) % interval === 0),
        )
        expect(found.map(dayOf)).toEqual(plain)
        expect(found.every((each) => minuteOf(each) === minute)).toBe(true)
      }),
      { numRuns: 100 },
    )
  })
})
