import fc from 'fast-check'
import { Temporal } from 'temporal-polyfill/implementation'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { DAY, HOUR, MINUTE, type Wall, wallText, zoneTable } from '../time/index.ts'
import {
  BadRule,
  nextDates,
  occurrencesWithin,
  readRule,
  ruleInWords,
  seriesTrouble,
  writeRule,
} from './index.ts'

/**
 * The plainest expansion: every day is asked whether the rule can mean it, by counting on the calendar. Only for rules
 * by day, week, month and year whose days are named or filled in by the first date.
 */
const plainDates = (text: string, start: Wall, to: Wall): Wall[] => {
  const parts = Object.fromEntries(text.split(';').map((part) => part.split('=')))
  const interval = Number(parts.INTERVAL ?? 1)
  const list = (name: string): string[] => (parts[name] ? parts[name].split(',') : [])
  const codes = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA']
  const midnight = start - (start % DAY)
  const first = new Date(midnight)
  const filler = !list('BYDAY').length && !list('BYMONTHDAY').length
  const monday = (at: number) => at - ((new Date(at).getUTCDay() + 6) % 7) * DAY
  const period = (at: number): number => {
    const date = new Date(at)
    if (parts.FREQ === 'DAILY') return Math.round((at - midnight) / DAY)
    if (parts.FREQ === 'WEEKLY') return Math.round((monday(at) - monday(midnight)) / (7 * DAY))
    const years = date.getUTCFullYear() - first.getUTCFullYear()
    return parts.FREQ === 'YEARLY' ? years : years * 12 + date.getUTCMonth() - first.getUTCMonth()
  }
  const sameWeekdaysOfMonth = (at: number): number[] => {
    const days: number[] = []
    for (let day = at - 40 * DAY; day < at + 40 * DAY; day += DAY) {
      const [one, other] = [new Date(day), new Date(at)]
      if (one.getUTCMonth() === other.getUTCMonth() && one.getUTCDay() === other.getUTCDay()) days.push(day)
    }
    return days
  }
  const fits = (at: number): boolean => {
    const date = new Date(at)
    const months = list('BYMONTH').map(Number)
    if (months.length && !months.includes(date.getUTCMonth() + 1)) return false
    if (filler) {
      if (parts.FREQ === 'WEEKLY') return date.getUTCDay() === first.getUTCDay()
      if (parts.FREQ === 'MONTHLY') return date.getUTCDate() === first.getUTCDate()
      if (parts.FREQ === 'YEARLY')
        return (
          date.getUTCDate() === first.getUTCDate() &&
          (months.length > 0 || date.getUTCMonth() === first.getUTCMonth())
        )
    }
    const monthDays = list('BYMONTHDAY').map(Number)
    if (monthDays.length) {
      const last = new Date(Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + 1, 0)).getUTCDate()
      if (!monthDays.some((day) => day === date.getUTCDate() || last + 1 + day === date.getUTCDate()))
        return false
    }
    const days = list('BYDAY')
    return (
      days.length === 0 ||
      days.some((day) => {
        if (codes.indexOf(day.slice(-2)) !== date.getUTCDay()) return false
        const nth = Number(day.slice(0, -2))
        const all = sameWeekdaysOfMonth(at)
        return !nth || all[nth > 0 ? nth - 1 : all.length + nth] === at
      })
    )
  }
  const found: Wall[] = []
  for (let at = midnight; at < to; at += DAY) {
    if (period(at) % interval !== 0 || !fits(at)) continue
    found.push(at + (start - midnight))
    if (found.length === Number(parts.COUNT)) break
  }
  return found.filter((wall) => wall < to)
}

const some = <T>(arbitrary: fc.Arbitrary<T>, maxLength = 3) =>
  fc.uniqueArray(arbitrary, { minLength: 1, maxLength })
const weekday = fc.constantFrom('MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU')
const part = (name: string, values: fc.Arbitrary<readonly unknown[]>) =>
  fc.option(values, { nil: [] }).map((list) => (list.length ? `;${name}=${list.join()}` : ''))
const monthDay = fc.oneof(fc.integer({ min: 1, max: 31 }), fc.integer({ min: -31, max: -1 }))
const nthDay = fc
  .tuple(fc.constantFrom('', '1', '2', '4', '5', '-1', '-2'), weekday)
  .map((two) => two.join(''))
const ending = fc.option(
  fc.integer({ min: 1, max: 30 }).map((count) => `;COUNT=${count}`),
  { nil: '' },
)
const rule = fc
  .oneof(
    fc.tuple(
      fc.constant('FREQ=DAILY'),
      part('BYDAY', some(weekday)),
      part('BYMONTH', some(fc.integer({ min: 1, max: 12 }))),
    ),
    fc.tuple(fc.constant('FREQ=WEEKLY'), part('BYDAY', some(weekday)), fc.constant('')),
    fc.tuple(fc.constant('FREQ=MONTHLY'), part('BYDAY', some(nthDay)), part('BYMONTHDAY', some(monthDay))),
    fc.tuple(
      fc.constant('FREQ=YEARLY'),
      part('BYMONTH', some(fc.integer({ min: 1, max: 12 }))),
      part('BYMONTHDAY', some(monthDay)),
    ),
  )
  .chain((parts) =>
    fc
      .tuple(fc.integer({ min: 1, max: 5 }), ending)
      .map(([interval, end]) => `${parts.join('')};INTERVAL=${interval}${end}`),
  )

/** Odd offsets, both hemispheres, half-hour daylight saving, and a zone that once left out a whole day. */
const zone = fc.constantFrom(
  'Europe/Vienna',
  'Asia/Kathmandu',
  'America/St_Johns',
  'Pacific/Auckland',
  'Australia/Lord_Howe',
  'America/Santiago',
  'Pacific/Chatham',
)
const start = fc
  .tuple(fc.integer({ min: 20_100, max: 20_700 }), fc.integer({ min: 0, max: 95 }))
  .map(([day, quarter]) => day * DAY + quarter * 15 * MINUTE)

const plainInstant = (name: string, wall: Wall): number =>
  Temporal.PlainDateTime.from(wallText(wall)).toZonedDateTime(name, { disambiguation: 'compatible' })
    .epochMilliseconds

describe('a series', () => {
  it('has the dates that the plainest expansion finds, with exceptions, additions and overrides, in any zone', () => {
    fc.assert(
      fc.property(
        rule,
        start,
        zone,
        fc.array(fc.nat(20), { maxLength: 3 }),
        fc.array(fc.tuple(fc.nat(20), fc.boolean(), fc.integer({ min: -3000, max: 3000 })), { maxLength: 3 }),
        fc.array(fc.integer({ min: 1, max: 400 }), { maxLength: 2 }),
        (text, starts, name, out, changes, extra) => {
          const to = starts + 500 * DAY
          const byRule = plainDates(text, starts, to)
          const added = extra.map((days) => starts + days * DAY + 7 * HOUR)
          const excepted = out.flatMap((i) => byRule[i] ?? [])
          const overrides = new Map(
            changes.flatMap(([i, cancelled, by]) => {
              const recurrence = byRule[i]
              return recurrence === undefined || excepted.includes(recurrence)
                ? []
                : [
                    [
                      recurrence,
                      { recurrence, cancelled, starts: recurrence + by * MINUTE, minutes: 45 },
                    ] as const,
                  ]
            }),
          )
          const expected = [...new Set([starts, ...byRule, ...added])]
            .filter((wall) => !excepted.includes(wall) && !overrides.get(wall)?.cancelled)
            .map((wall) => {
              const change = overrides.get(wall)
              const begin = plainInstant(name, change?.starts ?? wall)
              return { recurrence: wall, start: begin, end: begin + (change ? 45 : 60) * MINUTE }
            })
            .filter((date) => date.end > starts - 2 * DAY && date.start < to - 4 * DAY)
            .sort((a, b) => a.start - b.start || a.recurrence - b.recurrence)
          const series = { starts, minutes: 60, rule: text, added, excepted }
          const found = occurrencesWithin(
            series,
            [...overrides.values()],
            zoneTable(name),
            starts - 2 * DAY,
            to - 4 * DAY,
          )
          expect([...found].sort((a, b) => a.start - b.start || a.recurrence - b.recurrence)).toEqual(
            expected,
          )
        },
      ),
      { numRuns: runs(400) },
    )
  })

  it('reads the same whether it is read from its start or from a later day', () => {
    const vienna = zoneTable('Europe/Vienna')
    fc.assert(
      fc.property(rule, start, fc.integer({ min: 0, max: 900 }), (text, starts, later) => {
        const series = { starts, minutes: 60, rule: text, added: [], excepted: [] }
        const from = starts + later * DAY
        const all = occurrencesWithin(series, [], vienna, starts - DAY, from + 400 * DAY)
        const part = occurrencesWithin(series, [], vienna, from, from + 400 * DAY)
        expect(part).toEqual(all.filter((date) => date.end > from))
      }),
      { numRuns: runs(200) },
    )
  })
})

describe('a rule', () => {
  it('is the same after it is written and read again', () => {
    fc.assert(
      fc.property(rule, (text) => {
        expect(readRule(writeRule(readRule(text)))).toEqual(readRule(text))
      }),
    )
  })

  it.each([
    ['FREQ=WEEKLY;INTERVAL=2;BYDAY=TH;UNTIL=20270326', 'Every 2 weeks on Thursday, until Fri 26 Mar 2027'],
    ['FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', 'Every week on Monday to Friday'],
    ['FREQ=WEEKLY', 'Every week on Tuesday'],
    ['FREQ=DAILY;COUNT=10', 'Every day, 10 times'],
    ['FREQ=MONTHLY', 'Every month on the 1st'],
    ['FREQ=MONTHLY;BYDAY=2WE', 'Every month on the second Wednesday'],
    ['FREQ=MONTHLY;BYDAY=-1FR', 'Every month on the last Friday'],
    ['FREQ=MONTHLY;BYMONTHDAY=-1', 'Every month on the last day'],
    ['FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2', 'Every month on the second to last working day'],
    ['FREQ=YEARLY', 'Every year on 1 December'],
    ['FREQ=YEARLY;BYMONTH=3;BYDAY=TH', 'Every year on Thursday in March'],
    ['FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13', 'Every month on Friday when it is the 13th'],
    ['FREQ=YEARLY;BYWEEKNO=20', 'Every year on Tuesday of week 20'],
  ])('%s reads "%s"', (text, words) => {
    expect(ruleInWords(text, Date.UTC(2026, 11, 1, 9))).toBe(words)
  })

  it.each([
    ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', /No date fits/],
    ['FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30', /No date fits/],
    ['FREQ=MONTHLY;BYDAY=MO;BYSETPOS=9', /No date fits/],
    ['FREQ=SECONDLY', /more than once a day/],
    ['FREQ=HOURLY', /more than once a day/],
    ['FREQ=DAILY;BYHOUR=1,2,3;BYMINUTE=0,10,20', /more than once a day/],
    ['FREQ=DAILY;COUNT=1000000', /1000000 times/],
    ['FREQ=WEEKLY;UNTIL=20200101', /end before it begins/],
    ['FREQ=WEEKLY;INTERVAL=99999999999', /INTERVAL/],
    ['FREQ=DAILY;INTERVAL=0', /INTERVAL/],
    ['FREQ=MONTHLY;BYDAY=60MO', /BYDAY/],
    ['FREQ=DAILY;BYDAY=1MO', /only by month/],
    ['FREQ=WEEKLY;COUNT=3;UNTIL=20270101', /not by both/],
    ['FREQ=FORTNIGHTLY', /how often/],
    ['BYDAY=MO', /how often/],
    ['FREQ=WEEKLY;BYDAY', /no part/],
    ['FREQ=WEEKLY;COLOUR=RED', /COLOUR/],
    ['FREQ=WEEKLY;UNTIL=tomorrow', /UNTIL/],
  ])('%s is refused in words, at once', (text, words) => {
    const given = { starts: Date.UTC(2026, 11, 1, 9), minutes: 60, rule: text, added: [], excepted: [] }
    expect(seriesTrouble(given, zoneTable('Europe/Vienna'))).toMatch(words)
  })

  it('with more dates of its own, or left out, than anybody means is refused in words', () => {
    const days = Array.from({ length: 5001 }, (_, i) => Date.UTC(2026, 11, 1, 9) + i * 86_400_000)
    const given = { starts: Date.UTC(2026, 11, 1, 9), minutes: 60, rule: null, added: [], excepted: [] }
    expect(seriesTrouble({ ...given, added: days }, zoneTable('UTC'))).toMatch(/5001 dates of its own/)
    expect(seriesTrouble({ ...given, excepted: days }, zoneTable('UTC'))).toMatch(/leaves out 5001/)
    expect(seriesTrouble({ ...given, added: days.slice(1) }, zoneTable('UTC'))).toBeNull()
  })

  it('that comes once in four years is no trouble, and its next dates are found', () => {
    const given = {
      starts: Date.UTC(2028, 1, 29, 9),
      minutes: 60,
      rule: 'FREQ=YEARLY',
      added: [],
      excepted: [],
    }
    expect(seriesTrouble(given, zoneTable('UTC'))).toBeNull()
    expect(nextDates(given, zoneTable('UTC'), Date.UTC(2028, 2, 1), 2).map(wallText)).toEqual([
      '2032-02-29T09:00',
      '2036-02-29T09:00',
    ])
  })

  it('that gives far too many dates ends with a word', () => {
    const given = { starts: 0, minutes: 1, rule: 'FREQ=SECONDLY', added: [], excepted: [] }
    expect(() => nextDates(given, zoneTable('UTC'), 0, 6)).toThrow(BadRule)
  })
})
