import { describe, expect, it } from 'vitest'
import { datesWithin, type Override, type Series } from '../recurrence/index.ts'
import { dayText, wallFromText, wallText, zoneTable } from '../time/index.ts'
import { checkTime, isTimeProblem, planChange, readLine, type SeriesChange } from './index.ts'

const vienna = zoneTable('Europe/Vienna')
/** A Monday, 09:12 in Innsbruck. */
const NOW = Date.UTC(2026, 10, 23, 8, 12)
const wall = (text: string) => wallFromText(text) ?? 0

describe('one line of text', () => {
  const read = (text: string) => {
    const line = readLine(text, NOW, vienna)
    return line
      ? [
          line.title,
          `${dayText(line.day)} ${line.allDay ? 'all day' : `${Math.floor(line.minute / 60)}:${String(line.minute % 60).padStart(2, '0')}`} ${line.minutes}`,
          line.place,
          line.rule,
        ]
      : null
  }
  it.each([
    [
      'Core freezer defrost thu 10:45 45m at Firn',
      ['Core freezer defrost', '2026-11-26 10:45 45', 'Firn', null],
    ],
    ['Call the ropeway tomorrow 9:00', ['Call the ropeway', '2026-11-24 9:00 30', '', null]],
    ['Saw delivery 3 dec 2pm 1h30', ['Saw delivery', '2026-12-03 14:00 90', '', null]],
    ['Model reading 2027-02-01 9:30-11:00 in Col', ['Model reading', '2027-02-01 9:30 90', 'Col', null]],
    ['Talk next tue from 10 to 11:15', ['Talk', '2026-12-01 10:00 75', '', null]],
    [
      'Bulletin every weekday 8:00-8:30',
      ['Bulletin', '2026-11-24 8:00 30', '', 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR'],
    ],
    [
      'Gauge review every tue and thu 14:00 1 hour',
      ['Gauge review', '2026-11-24 14:00 60', '', 'FREQ=WEEKLY;BYDAY=TU,TH'],
    ],
    [
      'Station call every 2 weeks thu 8:00',
      ['Station call', '2026-11-26 8:00 30', '', 'FREQ=WEEKLY;INTERVAL=2'],
    ],
    ['Leave 3 dec 5 days', ['Leave', '2026-12-03 all day 7200', '', null]],
    ['Reports due fri all day', ['Reports due', '2026-11-27 all day 1440', '', null]],
    ['Reports due 4 dec', ['Reports due', '2026-12-04 all day 1440', '', null]],
    ['Night reading 23:30-0:30', ['Night reading', '2026-11-23 23:30 60', '', null]],
    ['Depth 10 m core at 15:00', ['Depth core', '2026-11-23 15:00 10', '', null]],
    ['thu 10:45', null],
    ['', null],
  ])('"%s"', (text, expected) => {
    expect(read(text)).toEqual(expected)
  })

  it('says what it took as usual', () => {
    expect(readLine('Dentist 8:00', NOW, vienna)?.assumed).toEqual([
      'tomorrow, as no day was given',
      'half an hour, as no length was given',
    ])
  })
})

describe('a change to a series', () => {
  const weekly: Series = {
    starts: wall('2026-11-03T10:00'),
    minutes: 60,
    rule: 'FREQ=WEEKLY;BYDAY=TU;COUNT=8',
    added: [],
    excepted: [wall('2026-11-17T10:00')],
  }
  const moved: Override = {
    recurrence: wall('2026-12-08T10:00'),
    cancelled: false,
    starts: wall('2026-12-09T15:00'),
    minutes: 30,
  }
  const renamed: Override = {
    recurrence: wall('2026-12-15T10:00'),
    cancelled: false,
    starts: wall('2026-12-15T10:00'),
    minutes: null,
  }
  const early: Override = {
    recurrence: wall('2026-11-10T10:00'),
    cancelled: true,
    starts: null,
    minutes: null,
  }
  const plan = (change: Partial<SeriesChange>) =>
    planChange(weekly, [moved, renamed, early], vienna, {
      scope: 'following',
      recurrence: wall('2026-12-01T10:00'),
      starts: wall('2026-12-01T14:30'),
      minutes: 60,
      allDay: false,
      repetition: null,
      ...change,
    })
  const dates = (series: Series) => datesWithin(series, vienna, 0, wall('2030-01-01T00:00')).map(wallText)

  it('from one date on leaves the earlier dates, and carries the count, exceptions and own changes over', () => {
    const { head, tail, kept, dropped } = plan({})
    expect(dates(head?.series ?? weekly)).toEqual([
      '2026-11-03T10:00',
      '2026-11-10T10:00',
      '2026-11-24T10:00',
    ])
    expect(head?.overrides).toEqual([early])
    expect(dates(tail.series)).toEqual([
      '2026-12-01T14:30',
      '2026-12-08T14:30',
      '2026-12-15T14:30',
      '2026-12-22T14:30',
    ])
    // The one that was moved by itself stays where it was put; the renamed one moves along.
    expect(tail.overrides).toEqual([
      { ...moved, recurrence: wall('2026-12-08T14:30') },
      { ...renamed, recurrence: wall('2026-12-15T14:30'), starts: null },
    ])
    expect([kept, dropped]).toEqual([[moved, renamed], []])
  })

  it('from a date that had been changed by itself makes the others like it, and keeps no change of its own', () => {
    const { tail, kept, dropped } = plan({
      recurrence: moved.recurrence,
      starts: wall('2026-12-08T16:00'),
      minutes: 45,
    })
    expect(tail.series.minutes).toBe(45)
    expect(tail.overrides.map((one) => wallText(one.recurrence))).toEqual(['2026-12-15T16:00'])
    expect([kept, dropped]).toEqual([[renamed], []])
  })

  it('of all moves every date, its weekday and its exceptions', () => {
    const { head, tail } = plan({ scope: 'all', starts: wall('2026-12-02T09:00') })
    expect(head).toBeNull()
    expect(tail.series.rule).toBe('FREQ=WEEKLY;COUNT=8;BYDAY=WE')
    expect(dates(tail.series)[0]).toBe('2026-11-04T09:00')
    expect(dates(tail.series)).not.toContain('2026-11-18T09:00')
    expect(dates(tail.series)).toHaveLength(7)
  })

  it('from its first date on is a change of all', () => {
    expect(plan({ recurrence: weekly.starts, starts: wall('2026-11-03T11:00') }).head).toBeNull()
  })

  it('says which own changes fall away when the new rule does not give their dates', () => {
    const { kept, dropped } = plan({
      starts: wall('2026-12-01T10:00'),
      repetition: { rule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU', added: [], excepted: [] },
    })
    expect([kept, dropped]).toEqual([[renamed], [moved]])
  })

  it.each([
    ['FREQ=MONTHLY;BYDAY=1TU', '2026-12-03T10:00', 'FREQ=MONTHLY;BYDAY=1TH'],
    ['FREQ=MONTHLY;BYMONTHDAY=1', '2026-12-03T10:00', 'FREQ=MONTHLY;BYMONTHDAY=3'],
    ['FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=1', '2027-01-05T10:00', 'FREQ=YEARLY;BYMONTH=1;BYMONTHDAY=5'],
    ['FREQ=DAILY', '2026-12-03T10:00', 'FREQ=DAILY'],
  ])('moved to another day, %s becomes what fits', (rule, starts, expected) => {
    const series = { ...weekly, starts: wall('2026-12-01T10:00'), rule, excepted: [] }
    const { tail } = planChange(series, [], vienna, {
      scope: 'all',
      recurrence: wall('2026-12-01T10:00'),
      starts: wall(starts),
      minutes: 60,
      allDay: false,
      repetition: null,
    })
    expect(tail.series.rule).toBe(expected)
    expect(dates(tail.series)[0]).toBe(starts)
  })
})

describe('a time', () => {
  it('of a whole day is a day on the calendar also when clocks change, and nothing else', () => {
    const day = checkTime('2027-03-28T00:00', 1440, 'Europe/Vienna', true)
    expect(isTimeProblem(day) ? day : (day.end - day.start) / 3_600_000).toBe(23)
    expect(checkTime('2027-03-28T10:00', 1440, 'Europe/Vienna', true)).toMatchObject({ code: 'bad-time' })
    expect(checkTime('2027-03-28T00:00', 90, 'Europe/Vienna', true)).toMatchObject({ code: 'bad-time' })
  })
})
