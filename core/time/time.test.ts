import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import {
  changesWithin,
  clocksInWords,
  clocksThere,
  DAY,
  dayFromCivil,
  dayInWords,
  fromWall,
  instantFromText,
  instantOf,
  instantText,
  isZone,
  lengthInWords,
  MINUTE,
  offsetAt,
  offsetInWords,
  parseClock,
  parseDay,
  parseLength,
  spanInWords,
  toWall,
  UnknownZone,
  wallFromText,
  wallText,
  zoneTable,
} from './index.ts'

const ZONES = [
  'Europe/Vienna',
  'Africa/Nairobi',
  'Asia/Kathmandu',
  'Pacific/Auckland',
  'America/Santiago',
  'America/St_Johns',
  'Australia/Lord_Howe',
  'Pacific/Chatham',
  'UTC',
]

/** The offset at an instant as the host's own Intl has it, in milliseconds: another source than the one under test. */
const judge = (zone: string) => {
  const format = new Intl.DateTimeFormat('en-GB', { timeZone: zone, timeZoneName: 'longOffset' })
  return (instant: number): number => {
    const [, sign, hours, minutes, seconds] =
      /GMT(?:([+-])(\d\d):(\d\d)(?::(\d\d))?)?$/.exec(format.format(instant)) ?? []
    const size = Number(hours ?? 0) * 3600 + Number(minutes ?? 0) * 60 + Number(seconds ?? 0)
    return (sign === '-' ? -1000 : 1000) * size
  }
}

describe('zone tables', () => {
  const [FROM, TO] = [Date.UTC(1970, 0, 1), Date.UTC(2060, 0, 1)]

  it('have every change of every zone from 1970 to 2060, and no other', () => {
    const wrong: string[] = []
    for (const zone of Intl.supportedValuesOf('timeZone')) {
      const offset = judge(zone)
      const table = zoneTable(zone)
      const changes = changesWithin(table, FROM, TO)
      const say = (at: number) => wrong.push(`${zone} ${new Date(at).toISOString()}`)
      let held = offset(FROM)
      for (const { at, before, after } of changes) {
        if (before !== held || offset(at - 1000) !== before || offset(at) !== after) say(at)
        if (offsetAt(table, at - 1000) !== before || offsetAt(table, at) !== after) say(at)
        held = after
      }
      if (offset(TO) !== held) say(TO)
      // Between two changes nothing else may happen: looked at where the longest of daylight savings would be seen.
      const edges = [FROM, ...changes.map((change) => change.at), TO]
      edges.slice(1).forEach((end, i) => {
        const start = edges[i] ?? FROM
        const expected = offset(start)
        for (let at = start; at < end; at += 45 * DAY) if (offset(at) !== expected) say(at)
      })
    }
    expect(wrong).toEqual([])
  }, 120_000)

  it('keep daylight saving for ever, and Ramadan in Casablanca', () => {
    const hours = (zone: string, text: string) => offsetAt(zoneTable(zone), Date.parse(text)) / 3_600_000
    expect(hours('Europe/Vienna', '2036-07-01T12:00Z')).toBe(2)
    expect(hours('Europe/Vienna', '2059-07-01T12:00Z')).toBe(2)
    expect(hours('America/St_Johns', '2040-07-01T12:00Z')).toBe(-2.5)
    expect(hours('Africa/Casablanca', '2030-01-20T12:00Z')).toBe(0)
    expect(hours('Africa/Casablanca', '2030-03-20T12:00Z')).toBe(1)
  })

  it('turn wall time to instants by RFC 5545: what is in a gap moves on, what comes twice is the first', () => {
    const wall = fc.integer({ min: Date.UTC(2020, 0, 1) / MINUTE, max: Date.UTC(2045, 0, 1) / MINUTE })
    // Beside any time, the hours around every change, where it is easy to be wrong.
    const change = fc.constantFrom(...ZONES).chain((zone) =>
      fc.tuple(
        fc.constant(zone),
        fc.oneof(
          wall,
          fc
            .tuple(fc.constantFrom(...changesOf(zone)), fc.integer({ min: -180, max: 180 }))
            .map(([at, by]) => at + by),
        ),
      ),
    )
    fc.assert(
      fc.property(change, ([zone, minutes]) => {
        const wall = minutes * MINUTE
        const offset = judge(zone)
        const fitting = [wall - offset(wall - DAY), wall - offset(wall + DAY)]
          .filter((instant) => instant + offset(instant) === wall)
          .sort((a, b) => a - b)
        expect(instantOf(zoneTable(zone), wall)).toBe(fitting[0] ?? wall - offset(wall - DAY))
      }),
      { numRuns: runs(500) },
    )
  })

  it('say whether a wall time fell into a gap or came twice', () => {
    const vienna = zoneTable('Europe/Vienna')
    const fit = (text: string) => fromWall(vienna, wallFromText(text) ?? 0).fit
    expect(fit('2027-03-28T02:30')).toBe('gap')
    expect(fit('2027-03-28T03:30')).toBe('exact')
    expect(fit('2026-10-25T02:30')).toBe('overlap')
    expect(wallText(toWall(vienna, instantFromText('Europe/Vienna', '2027-03-28T02:30')))).toBe(
      '2027-03-28T03:30',
    )
  })

  it('know no zone that does not exist, and no bare offset', () => {
    expect(isZone('Europe/Atlantis')).toBe(false)
    expect(isZone('+02:00')).toBe(false)
    expect(() => zoneTable('Europe/Atlantis')).toThrow(UnknownZone)
  })

  it('write offsets with their quarters', () => {
    const at = Date.UTC(2026, 11, 3)
    expect(
      ['Europe/Vienna', 'Asia/Kathmandu', 'America/St_Johns', 'UTC'].map((zone) =>
        offsetInWords(offsetAt(zoneTable(zone), at)),
      ),
    ).toEqual(['UTC+1', 'UTC+5:45', 'UTC−3:30', 'UTC'])
  })
})

const changesOf = (zone: string): number[] => {
  const table = zoneTable(zone)
  const found = [...table.changes].map((at, i) => (at + (table.offsets[i] ?? 0)) / MINUTE)
  return found
    .filter((at) => at > Date.UTC(2020, 0, 2) / MINUTE && at < Date.UTC(2045, 0, 1) / MINUTE)
    .concat(Date.UTC(2026, 0, 1) / MINUTE)
}

describe('words', () => {
  const vienna = zoneTable('Europe/Vienna')
  const now = instantFromText('Europe/Vienna', '2026-11-23T09:00')
  const at = (text: string) => instantFromText('Europe/Vienna', text)

  it('say a time with its day and how far off it is', () => {
    expect(spanInWords(at('2026-12-03T14:00'), at('2026-12-03T15:00'), vienna, now)).toBe(
      'Thursday 3 December, 14:00 to 15:00, in 10 days',
    )
    expect(spanInWords(at('2026-12-03T00:00'), at('2026-12-04T00:00'), vienna, now)).toBe(
      'Thursday 3 December, all day, in 10 days',
    )
    expect(spanInWords(at('2026-12-03T00:00'), at('2026-12-06T00:00'), vienna, now)).toBe(
      'Thursday 3 December to Saturday 5 December, in 10 days',
    )
    expect(spanInWords(at('2026-11-23T23:30'), at('2026-11-24T00:30'), vienna, now)).toBe(
      'Monday 23 November, 23:30 to Tue 24 Nov 00:30, today',
    )
  })

  it('name the year when it is another', () => {
    const day = dayFromCivil(2027, 2, 1) ?? 0
    expect(dayInWords(day, dayFromCivil(2026, 11, 23) ?? 0)).toBe('Monday 1 February 2027')
  })

  it('say the same instants in a zone of :45', () => {
    expect(clocksInWords(at('2026-12-03T14:00'), at('2026-12-03T15:00'), zoneTable('Asia/Kathmandu'))).toBe(
      '18:45 to 19:45',
    )
  })

  it('say the day where it is another there than at home', () => {
    const vienna = zoneTable('Europe/Vienna')
    const dunedin = zoneTable('Pacific/Auckland')
    const there = (from: string, to: string) => clocksThere(at(from), at(to), dunedin, vienna)
    expect(there('2026-12-03T08:00', '2026-12-03T09:00')).toBe('20:00 to 21:00')
    expect(there('2026-12-03T14:00', '2026-12-03T15:00')).toBe('Fri 4 Dec 02:00 to 03:00')
  })

  it.each([
    [30, '30 min'],
    [60, '1 h'],
    [75, '1 h 15'],
    [1440, '1 day'],
    [4320, '3 days'],
  ])('say %d minutes as %s', (minutes, words) => expect(lengthInWords(minutes)).toBe(words))
})

describe('what people type', () => {
  it.each([
    ['10:45', 645],
    ['1045', 645],
    ['9', 540],
    ['9.30', 570],
    ['2pm', 840],
    ['12am', 0],
    ['24:00', null],
    ['10:75', null],
    ['noon', null],
  ])('reads the clock %s', (text, minutes) => expect(parseClock(text)).toBe(minutes))

  it.each([
    ['45', 45],
    ['45m', 45],
    ['1h', 60],
    ['1h30', 90],
    ['1:30', 90],
    ['1.5h', 90],
    ['2d', 2880],
    ['0', null],
    ['soon', null],
    ['', null],
  ])('reads the length %s', (text, minutes) => expect(parseLength(text)).toBe(minutes))

  // 2026-11-23 is a Monday.
  it.each([
    ['today', '2026-11-23'],
    ['3 dec', '2026-12-03'],
    ['dec 3', '2026-12-03'],
    ['3.12.', '2026-12-03'],
    ['22 nov', '2027-11-22'],
    ['thu', '2026-11-26'],
    ['mon', '2026-11-30'],
    ['next tue', '2026-12-01'],
    ['next mon', '2026-11-30'],
    ['2027-02-01', '2027-02-01'],
    ['+10', '2026-12-03'],
    ['31 feb', null],
    ['whenever', null],
  ])('reads the date %s', (text, expected) => {
    const today = dayFromCivil(2026, 11, 23) ?? 0
    const day = parseDay(text, today)
    expect(day === null ? null : new Date(day * DAY).toISOString().slice(0, 10)).toBe(expected)
  })

  it('round-trips wall times and refuses impossible ones', () => {
    expect(wallText(wallFromText('2028-02-29T23:59') ?? 0)).toBe('2028-02-29T23:59')
    expect(wallFromText('2027-02-29T10:00')).toBeNull()
    expect(wallFromText('2027-02-28T24:00')).toBeNull()
  })
})

describe('times as text', () => {
  const seconds = fc.integer({ min: -4_000_000_000, max: 12_000_000_000 })

  it('are written as the platform writes them, also out of order and with fractions', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(seconds, fc.constantFrom(0, 0, 0, 250)), { maxLength: 20 }), (times) => {
        const instants = times.map(([second, fraction]) => second * 1000 + fraction)
        expect(instants.map(instantText)).toEqual(instants.map((each) => new Date(each).toISOString()))
      }),
    )
  })

  it('are read again to the second, and nothing else is taken for one', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 7_000_000_000 }), (second) => {
        const text = new Date(second * 1000).toISOString()
        expect(wallFromText(text.slice(0, 19))).toBe(second * 1000)
        expect(wallFromText(text.slice(0, 16).replace('T', ' '))).toBe(Math.floor(second / 60) * MINUTE)
      }),
    )
    fc.assert(
      fc.property(fc.nat(15), fc.constantFrom('', 'x', '/', ':', '-', '.', ' 0', '９'), (at, sign) => {
        const good = '2027-03-28T02:27'
        const text = `${good.slice(0, at)}${sign}${good.slice(at + 1)}`
        const meant = /^\d{4}-\d\d-\d\d[T ]\d\d:\d\d/.test(text)
        expect(wallFromText(text) === null).toBe(!meant)
      }),
    )
  })
})
