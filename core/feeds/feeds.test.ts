import fc from 'fast-check'
import ICAL from 'ical.js'
import { describe, expect, it } from 'vitest'
import { occurrencesWithin } from '../recurrence/index.ts'
import { runs } from '../testing/properties.ts'
import { DAY, instantOf, MINUTE, wallFromText, wallText, zoneTable } from '../time/index.ts'
import {
  BadCalendar,
  type CalendarEntry,
  type CalendarOverride,
  calendarSpans,
  readCalendar,
  sameEntry,
  writeCalendar,
  writeFreeBusy,
} from './index.ts'

const HOME = 'Europe/Vienna'
const wall = (text: string) => wallFromText(text) ?? 0
const file = (...lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Test//EN', ...lines, 'END:VCALENDAR', ''].join('\r\n')
const event = (...lines: string[]) => ['BEGIN:VEVENT', 'UID:one@lodestar.example', ...lines, 'END:VEVENT']
const one = (...lines: string[]) => readCalendar(file(...lines), HOME)
const reasons = (...lines: string[]) => one(...lines).refused.map((each) => each.reason)

const words = fc
  .string({ unit: 'grapheme', maxLength: 40 })
  .map((text) => text.replace(/[\p{Cc}\p{Zl}\p{Zp}\uFEFF]/gu, '').trim())
const place = fc.constantFrom('', 'Serac, Innsbruck', 'Firn; floor 2', 'Col\\Moraine')
const shows = fc.constantFrom('busy', 'tentative', 'held', 'away', 'listed') as fc.Arbitrary<
  CalendarEntry['shows']
>
const rule = fc.constantFrom(
  null,
  'FREQ=DAILY',
  'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH',
  'FREQ=MONTHLY;COUNT=9;BYDAY=-1FR',
  'FREQ=MONTHLY;BYMONTHDAY=15',
  'FREQ=YEARLY;BYMONTH=3;BYDAY=TH',
  'FREQ=WEEKLY;UNTIL=20270601T101500;BYDAY=MO',
)
const contact = fc.record({
  name: fc.constantFrom('Noor Haddad', 'Sven "the drill" Ekdahl', 'Ødger Lund, field'),
  address: fc.constantFrom('noor.haddad@lodestar.example', 'sven.ekdahl@lodestar.example'),
  organizer: fc.constant(false),
  required: fc.boolean(),
  answer: fc.constantFrom('accepted', 'declined', 'needs-action'),
})

const entry: fc.Arbitrary<CalendarEntry> = fc
  .record({
    uid: fc.uuid().map((id) => `${id}@lodestar.example`),
    zone: fc.constantFrom('Europe/Vienna', 'Asia/Kathmandu', 'America/St_Johns', 'Pacific/Auckland'),
    day: fc.integer({ min: 20_700, max: 20_900 }),
    quarter: fc.integer({ min: 0, max: 95 }),
    minutes: fc.integer({ min: 1, max: 4000 }),
    rule,
    extra: fc.uniqueArray(fc.integer({ min: 1, max: 90 }), { maxLength: 3 }),
    out: fc.uniqueArray(fc.integer({ min: 91, max: 180 }), { maxLength: 3 }),
    changed: fc.option(
      fc.record({
        after: fc.integer({ min: 200, max: 300 }),
        by: fc.integer({ min: 1, max: 900 }),
        title: words.filter(Boolean),
        hide: fc.boolean(),
      }),
    ),
    title: words,
    place,
    note: fc.constantFrom(
      '',
      '<p>Bring <b>beacons</b></p>',
      '<p>One<br />two</p><ul><li>three; four, five</li></ul>',
    ),
    shows,
    private: fc.boolean(),
    category: fc.constantFrom(null, 'Field', 'Money, old'),
    reminders: fc.uniqueArray(fc.constantFrom(0, 5, 10, 60, 1440), { maxLength: 3 }),
    contacts: fc.array(contact, { maxLength: 2 }),
    sequence: fc.nat(3),
    stamp: fc.constant(Date.UTC(2026, 10, 23)),
  })
  .map(({ day, quarter, extra, out, changed, ...rest }) => {
    const starts = day * DAY + quarter * 15 * MINUTE
    const repeats = rest.rule !== null
    const override: CalendarOverride[] =
      changed && repeats
        ? [
            {
              recurrence: starts + changed.after * DAY,
              cancelled: false,
              starts: starts + changed.after * DAY + changed.by * MINUTE,
              minutes: null,
              title: changed.title === rest.title ? null : changed.title,
              place: null,
              note: null,
              shows: null,
              private: changed.hide && !rest.private ? true : null,
            },
          ]
        : []
    return {
      ...rest,
      starts,
      allDay: false,
      added: repeats ? extra.map((days) => starts + days * DAY + 7 * MINUTE).sort((a, b) => a - b) : [],
      excepted: repeats ? out.map((days) => starts + days * DAY).sort((a, b) => a - b) : [],
      overrides: override,
      reminders: [...rest.reminders].sort((a, b) => a - b),
    }
  })

describe('an exported calendar', () => {
  it('means the same when it is imported again: rules, exceptions, overrides, alarms, attendees', () => {
    fc.assert(
      fc.property(fc.uniqueArray(entry, { maxLength: 4, selector: (each) => each.uid }), (entries) => {
        const back = readCalendar(writeCalendar(entries, 'Ilse', Date.UTC(2026, 10, 23)), HOME)
        expect(back.refused).toEqual([])
        expect(back.entries).toHaveLength(entries.length)
        for (const before of entries) {
          const after = back.entries.find((each) => each.uid === before.uid)
          expect(after).toEqual(before)
          expect(after && sameEntry(after, before)).toBe(true)
        }
      }),
      { numRuns: runs(150) },
    )
  })

  it('keeps whole days as dates, and a cancelled date as an exception', () => {
    const whole: CalendarEntry = {
      uid: 'days@lodestar.example',
      zone: HOME,
      starts: wall('2027-03-27T00:00'),
      minutes: 2880,
      allDay: true,
      rule: 'FREQ=YEARLY;UNTIL=20300401T000000',
      added: [],
      excepted: [],
      overrides: [
        {
          recurrence: wall('2028-03-27T00:00'),
          cancelled: true,
          starts: null,
          minutes: null,
          title: null,
          place: null,
          note: null,
          shows: null,
          private: null,
        },
      ],
      title: 'Ridge days',
      place: '',
      note: '',
      shows: 'away',
      private: false,
      category: null,
      reminders: [],
      contacts: [],
      sequence: 0,
      stamp: null,
    }
    const text = writeCalendar([whole], 'Ilse', 0)
    expect(text).toContain('DTSTART;VALUE=DATE:20270327')
    expect(text).toContain('DTEND;VALUE=DATE:20270329')
    expect(text).not.toContain('VTIMEZONE')
    const [back] = readCalendar(text, HOME).entries
    expect(back).toMatchObject({
      allDay: true,
      minutes: 2880,
      excepted: [wall('2028-03-27T00:00')],
      shows: 'away',
    })
    const dates = back ? occurrencesWithin(back, [], zoneTable(HOME), 0, Date.UTC(2040, 0, 1)) : []
    expect(dates.map((date) => date.recurrence)).toEqual(
      ['2027', '2029', '2030'].map((year) => wall(`${year}-03-27T00:00`)),
    )
  })

  it('can be read by another parser, zones and all', () => {
    fc.assert(
      fc.property(entry, (given) => {
        const component = new ICAL.Component(ICAL.parse(writeCalendar([given], 'Ilse', 0)))
        const [vevent] = component.getAllSubcomponents('vevent')
        const zone = component.getFirstSubcomponent('vtimezone')
        if (!vevent || !zone) throw new Error('something is missing')
        const start = vevent.getFirstPropertyValue('dtstart')
        if (!(start instanceof ICAL.Time)) throw new Error('no start')
        const offset = new ICAL.Timezone(zone).utcOffset(start) * 1000
        const instant = instantOf(zoneTable(given.zone), given.starts)
        const back = given.starts - offset
        // A time that daylight saving skips or repeats may be read either way.
        expect(Math.abs(back - instant)).toBeLessThanOrEqual(60 * MINUTE)
        expect((back - instant) % (30 * MINUTE)).toBe(0)
      }),
      { numRuns: runs(60) },
    )
  })
})

const HOUSE = [
  'BEGIN:VTIMEZONE',
  'TZID:Lodestar house time',
  'BEGIN:STANDARD',
  'DTSTART:19701025T030000',
  'RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU',
  'TZOFFSETFROM:+0200',
  'TZOFFSETTO:+0100',
  'END:STANDARD',
  'BEGIN:DAYLIGHT',
  'DTSTART:19700329T020000',
  'RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU',
  'TZOFFSETFROM:+0100',
  'TZOFFSETTO:+0200',
  'END:DAYLIGHT',
  'END:VTIMEZONE',
]
const FIXED = [
  'BEGIN:VTIMEZONE',
  'TZID:Europe/Vienna',
  'BEGIN:STANDARD',
  'DTSTART:19700101T000000',
  'TZOFFSETFROM:+0717',
  'TZOFFSETTO:+0717',
  'END:STANDARD',
  'END:VTIMEZONE',
]

describe('a calendar from elsewhere', () => {
  it('lands on the right instants by the zone that comes with it, whatever that is called', () => {
    const read = one(
      ...HOUSE,
      ...event(
        'DTSTART;TZID=Lodestar house time:20270327T090000',
        'DURATION:PT1H',
        'RRULE:FREQ=DAILY;COUNT=2',
        'SUMMARY:Run',
      ),
    )
    const [got] = read.entries
    const dates = got ? occurrencesWithin(got, [], zoneTable(got.zone), 0, Date.UTC(2040, 0, 1)) : []
    expect(dates.map((date) => new Date(date.start).toISOString())).toEqual([
      '2027-03-27T08:00:00.000Z',
      '2027-03-28T07:00:00.000Z',
    ])
  })

  it('is believed when it says of a zone of ours that it is something else', () => {
    const once = one(...FIXED, ...event('DTSTART;TZID=Europe/Vienna:20270327T090000', 'DURATION:PT1H'))
    const [got] = once.entries
    expect(got && new Date(instantOf(zoneTable(got.zone), got.starts)).toISOString()).toBe(
      '2027-03-27T01:43:00.000Z',
    )
    expect(
      reasons(
        ...FIXED,
        ...event('DTSTART;TZID=Europe/Vienna:20270327T090000', 'DURATION:PT1H', 'RRULE:FREQ=DAILY'),
      ),
    ).toEqual(['It repeats in a time zone that only this file knows.'])
  })

  it.each([
    ['DTSTART:20270327T080000Z', '2027-03-27T08:00:00.000Z'],
    ['DTSTART:20270327T090000', '2027-03-27T08:00:00.000Z'],
    ['DTSTART;TZID=Asia/Kathmandu:20270327T090000', '2027-03-27T03:15:00.000Z'],
    ['DTSTART;TZID=/lodestar.example/20100101/Asia/Kathmandu:20270327T090000', '2027-03-27T03:15:00.000Z'],
    ['DTSTART;VALUE=DATE:20270327', '2027-03-26T23:00:00.000Z'],
  ])('%s begins at %s', (line, instant) => {
    const [got] = one(...event(line, 'SUMMARY:X')).entries
    expect(got && new Date(instantOf(zoneTable(got.zone), got.starts)).toISOString()).toBe(instant)
  })

  it('brings alarms, people, categories and changed dates along', () => {
    const read = one(
      ...event(
        'DTSTART;TZID=Europe/Vienna:20261201T090000',
        'DTEND;TZID=Europe/Vienna:20261201T100000',
        'RRULE:FREQ=WEEKLY;UNTIL=20261222T080000Z',
        'EXDATE:20261208T080000Z',
        'SUMMARY:Core plan',
        'CATEGORIES:Field,Other',
        'CLASS:CONFIDENTIAL',
        'TRANSP:TRANSPARENT',
        'ORGANIZER;CN=Noor Haddad:mailto:Noor.Haddad@lodestar.example',
        'ATTENDEE;CN=Sven;PARTSTAT=ACCEPTED;ROLE=OPT-PARTICIPANT:mailto:sven@lodestar.example',
        'BEGIN:VALARM',
        'ACTION:DISPLAY',
        'TRIGGER;RELATED=END:-PT70M',
        'END:VALARM',
        'BEGIN:VALARM',
        'ACTION:DISPLAY',
        'TRIGGER;VALUE=DATE-TIME:20261201T070000Z',
        'END:VALARM',
      ),
      ...event(
        'RECURRENCE-ID;TZID=Europe/Vienna:20261215T090000',
        'DTSTART;TZID=Europe/Vienna:20261216T110000',
        'DURATION:PT30M',
        'SUMMARY:Core plan, late',
        'CLASS:CONFIDENTIAL',
        'TRANSP:TRANSPARENT',
      ),
      ...event('RECURRENCE-ID:20261222T080000Z', 'DTSTART:20261222T080000Z', 'STATUS:CANCELLED'),
    )
    expect(read.refused).toEqual([])
    expect(read.entries).toMatchObject([
      {
        zone: 'Europe/Vienna',
        rule: 'FREQ=WEEKLY;UNTIL=20261222T090000',
        excepted: [wall('2026-12-08T09:00')],
        category: 'Field',
        private: true,
        shows: 'listed',
        reminders: [10, 60],
        contacts: [
          { name: 'Noor Haddad', address: 'noor.haddad@lodestar.example', organizer: true },
          { name: 'Sven', required: false, answer: 'accepted', organizer: false },
        ],
        overrides: [
          {
            recurrence: wall('2026-12-15T09:00'),
            starts: wall('2026-12-16T11:00'),
            minutes: 30,
            title: 'Core plan, late',
            shows: null,
          },
          { recurrence: wall('2026-12-22T09:00'), cancelled: true },
        ],
      },
    ])
  })

  it('says of each thing that it does not take where it is and why, and takes the rest', () => {
    const good = event('DTSTART:20261201T090000Z', 'SUMMARY:Good').map((line) =>
      line.replace('one@', 'good@'),
    )
    const read = one(...good, ...event('SUMMARY:No time'))
    expect(read.entries.map((each) => each.title)).toEqual(['Good'])
    expect(read.refused).toEqual([
      {
        line: 9,
        title: 'No time',
        reason: 'It has no start that can be read.',
        unknown: { from: Number.NEGATIVE_INFINITY, to: Number.POSITIVE_INFINITY },
      },
    ])
  })

  it.each([
    [['DTSTART:20261201T090000Z', 'DTEND:20261201T080000Z'], /ends before it starts/],
    [['DTSTART:20261201T090000Z', 'DURATION:P40D'], /longer than 31 days/],
    [['DTSTART:20261201T090000Z', 'RRULE:FREQ=SECONDLY'], /more than once a day/],
    [['DTSTART:20261201T090000Z', 'RRULE:FREQ=DAILY;COUNT=1000000'], /1000000/],
    [['DTSTART:20261201T090000Z', 'RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30'], /No date fits/],
    [['DTSTART:20261201T090000Z', 'RRULE:FREQ=WEEKLY;UNTIL=20200101T000000Z'], /before it begins/],
    [['DTSTART:20261201T090000Z', 'RRULE:EVERY DAY'], /no part/],
    [['DTSTART:20261201T090000Z', 'RRULE:FREQ=DAILY', 'RRULE:FREQ=WEEKLY'], /more than one rule/],
    [['DTSTART;TZID=Nowhere:20261201T090000'], /not known/],
    [['DTSTART:yesterday'], /./],
    [['DTSTART:20261201T090000Z', 'RECURRENCE-ID:20261201T090000Z'], /series it belongs to/],
  ])('%s is refused', (lines, words) => {
    expect(reasons(...event(...lines))).toEqual([expect.stringMatching(words)])
  })

  it('that breaks off keeps what was whole', () => {
    const text = file(...event('DTSTART:20261201T090000Z', 'SUMMARY:Whole')).replace(/END:VCALENDAR\s*$/, '')
    const read = readCalendar(`${text}BEGIN:VEVENT\r\nUID:two@x\r\nDTSTART:2026`, HOME)
    expect(read.entries).toHaveLength(1)
    expect(read.refused).toMatchObject([{ reason: 'The file ends in the middle of it.' }])
  })

  it.each(['', 'hello', '<!doctype html><p>', 'BEGIN:VCARD\r\nEND:VCARD'])(
    'that is none is said to be none: %j',
    (text) => {
      expect(() => readCalendar(text, HOME)).toThrow(BadCalendar)
    },
  )

  it('never ends in anything but entries and reasons, whatever the bytes', () => {
    const lines = fc.constantFrom(
      'BEGIN:VEVENT',
      'END:VEVENT',
      'BEGIN:VALARM',
      'UID:x',
      'DTSTART:20261201T090000Z',
      'DTSTART;TZID=:',
      'RRULE:FREQ=DAILY;COUNT=2',
      'EXDATE:;;;',
      'TRIGGER:-P',
      ' folded',
      ':::',
      'BEGIN:VTIMEZONE',
      'END:VTIMEZONE',
      'TZID:x',
      'DURATION:-PT5M',
    )
    fc.assert(
      fc.property(fc.array(lines, { maxLength: 14 }), (given) => {
        const read = readCalendar(file(...given), HOME)
        expect(read.entries.length + read.refused.length).toBeLessThanOrEqual(given.length)
      }),
      { numRuns: runs(300) },
    )
  })
})

describe('free/busy', () => {
  it('has times and kinds and nothing else, cut to its range, and reads back', () => {
    const [from, to] = [Date.UTC(2026, 11, 1), Date.UTC(2026, 11, 8)]
    const at = (hour: number) => from + hour * 60 * MINUTE
    const text = writeFreeBusy(
      [
        { start: at(-2), end: at(2), state: 'busy', title: 'Quoll' },
        { start: at(5), end: at(6), state: 'held' },
        { start: at(7), end: at(8), state: 'away' },
        { start: at(9), end: at(10), state: 'listed' },
      ],
      { name: 'Tashi Lhendup', address: 'tashi.lhendup@corrie.example' },
      from,
      to,
      from,
    )
    expect(text).not.toContain('Quoll')
    expect(readCalendar(text, HOME).busy).toEqual([
      { start: from, end: at(2), state: 'busy' },
      { start: at(5), end: at(6), state: 'tentative' },
      { start: at(7), end: at(8), state: 'away' },
    ])
    expect(wallText(from)).toBe('2026-12-01T00:00')
    // Beyond the range that it is for nothing is known: never free.
    const { spans } = calendarSpans(readCalendar(text, HOME), at(-24), to + DAY, 100)
    expect(spans.filter((span) => span.state === 'unknown').map(({ start, end }) => [start, end])).toEqual([
      [at(-24), from],
      [to, to + DAY],
    ])
  })
})
