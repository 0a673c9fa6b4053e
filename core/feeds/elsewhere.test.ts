import ICAL from 'ical.js'
import { describe, expect, it } from 'vitest'
import { occurrencesWithin } from '../recurrence/index.ts'
import { DAY, HOUR, instantOf, MINUTE, offsetAt, toWall, wallFromText, zoneTable } from '../time/index.ts'
import {
  type CalendarEntry,
  calendarSpans,
  decodeText,
  entryOf,
  readCalendar,
  STAMP_OF_NOTHING,
  stamped,
  TooManyDates,
  textOf,
  writeCalendar,
  writeFreeBusy,
  zoneComponent,
} from './index.ts'

const HOME = 'Europe/Vienna'
const [FROM, TO] = [Date.UTC(2027, 2, 1), Date.UTC(2027, 4, 1)]
const event = (...lines: string[]) => ['BEGIN:VEVENT', ...lines, 'END:VEVENT']
const named = (...lines: string[]) => event('UID:one@lodestar.example', 'SUMMARY:Ridge', ...lines)
const file = (...lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', ...lines, 'END:VCALENDAR', ''].join('\r\n')
const read = (...lines: string[]) => readCalendar(file(...lines), HOME)
const iso = (instant: number) => new Date(instant).toISOString().slice(0, 16)

/** What a feed of these lines shows: start, end and state of each date in March and April 2027. */
const shown = (...lines: string[]) =>
  calendarSpans(read(...lines), FROM, TO, 5000)
    .spans.map((span) => `${iso(span.start)} ${iso(span.end)} ${span.state}`)
    .sort()
const unread = (...lines: string[]) =>
  calendarSpans(read(...lines), FROM, TO, 5000).unread.map((one) => one.reason)
const allOf = (state: string) => [`${iso(FROM)} ${iso(TO)} ${state}`]

describe('a feed', () => {
  it('shows an hourly rule, six weeks of leave, and what has no UID, though none can be an entry', () => {
    const hourly = ['DTSTART:20270327T080000Z', 'DURATION:PT10M', 'RRULE:FREQ=HOURLY;COUNT=2']
    expect(shown(...named(...hourly))).toEqual([
      '2027-03-27T08:00 2027-03-27T08:10 busy',
      '2027-03-27T09:00 2027-03-27T09:10 busy',
    ])
    expect(read(...named(...hourly)).refused.map((one) => one.reason)).toEqual([
      expect.stringMatching(/more than once a day/),
    ])
    expect(shown(...named('DTSTART;VALUE=DATE:20270301', 'DTEND;VALUE=DATE:20270410'))).toEqual([
      '2027-02-28T23:00 2027-04-09T22:00 busy',
    ])
    expect(shown(...event('DTSTART:20270327T080000Z', 'DURATION:PT1H'))).toEqual([
      '2027-03-27T08:00 2027-03-27T09:00 busy',
    ])
  })

  it('shows one date of a series that is not in it, and both of two rules', () => {
    expect(
      shown(...named('RECURRENCE-ID:20270320T080000Z', 'DTSTART:20270321T080000Z', 'DURATION:PT1H')),
    ).toEqual(['2027-03-21T08:00 2027-03-21T09:00 busy'])
    expect(
      shown(
        ...named(
          'DTSTART:20270327T080000Z',
          'DURATION:PT1H',
          'RRULE:FREQ=DAILY;COUNT=2',
          'RRULE:FREQ=WEEKLY;COUNT=2',
        ),
      ),
    ).toEqual(
      ['2027-03-27', '2027-03-27', '2027-03-28', '2027-04-03'].map((day) => `${day}T08:00 ${day}T09:00 busy`),
    )
  })

  it('knows zones by the names that other systems give them, and by any case', () => {
    expect(shown(...named('DTSTART;TZID=Nepal Standard Time:20270327T120000', 'DURATION:PT1H'))).toEqual([
      '2027-03-27T06:15 2027-03-27T07:15 busy',
    ])
    expect(read(...named('DTSTART;TZID=asia/kathmandu:20270327T120000')).entries[0]?.zone).toBe(
      'Asia/Kathmandu',
    )
  })

  it.each([
    [
      'a zone that nobody knows',
      ['DTSTART;TZID=Nowhere:20270310T120000', 'DURATION:PT1H'],
      '2027-03-09T21:00',
    ],
    ['a rule that cannot be read', ['DTSTART:20270310T120000Z', 'RRULE:FREQ=SOMETIMES'], '2027-03-09T12:00'],
    ['an end before the start', ['DTSTART:20270310T120000Z', 'DTEND:20270309T120000Z'], '2027-03-09T12:00'],
    ['no start', ['DURATION:PT1H'], '2027-03-01T00:00'],
    ['a start that is none', ['DTSTART:soon'], '2027-03-01T00:00'],
  ])('says unknown, never free, of what has %s, and why', (_, lines, from) => {
    const [first] = shown(...named(...lines))
    expect(first?.startsWith(from)).toBe(true)
    expect(first?.endsWith('unknown')).toBe(true)
    expect(unread(...named(...lines))).toHaveLength(1)
  })

  it('doubts the dates of a series that leaves some out by a rule, and says so', () => {
    const lines = named(
      'DTSTART:20270327T080000Z',
      'DURATION:PT1H',
      'RRULE:FREQ=DAILY;COUNT=2',
      'EXRULE:FREQ=DAILY;INTERVAL=2',
    )
    expect(shown(...lines)).toEqual([
      '2027-03-27T08:00 2027-03-27T09:00 unknown',
      '2027-03-28T08:00 2027-03-28T09:00 unknown',
    ])
    expect(unread(...lines)).toEqual([expect.stringMatching(/EXRULE/)])
  })

  it('moves a date and all that follow by RANGE=THISANDFUTURE', () => {
    const lines = [
      ...named('DTSTART:20270301T080000Z', 'DURATION:PT1H', 'RRULE:FREQ=WEEKLY;COUNT=4'),
      ...named(
        'RECURRENCE-ID;RANGE=THISANDFUTURE:20270315T080000Z',
        'DTSTART:20270316T100000Z',
        'DURATION:PT30M',
      ),
    ]
    expect(shown(...lines)).toEqual([
      '2027-03-01T08:00 2027-03-01T09:00 busy',
      '2027-03-08T08:00 2027-03-08T09:00 busy',
      '2027-03-16T10:00 2027-03-16T10:30 busy',
      '2027-03-23T10:00 2027-03-23T10:30 busy',
    ])
    expect(read(...lines).refused).toEqual([])
  })

  it('ends a series whose following dates are all called off, and says unknown where moving them is beyond our rules', () => {
    const weekly = named('DTSTART:20270301T080000Z', 'DURATION:PT1H', 'RRULE:FREQ=WEEKLY')
    expect(
      shown(
        ...weekly,
        ...named(
          'RECURRENCE-ID;RANGE=THISANDFUTURE:20270308T080000Z',
          'DTSTART:20270308T080000Z',
          'STATUS:CANCELLED',
        ),
      ),
    ).toEqual(['2027-03-01T08:00 2027-03-01T09:00 busy'])
    const odd = shown(
      ...named('DTSTART:20270301T080000Z', 'DURATION:PT1H', 'RRULE:FREQ=MONTHLY;BYMONTHDAY=1,15'),
      ...named(
        'RECURRENCE-ID;RANGE=THISANDFUTURE:20270315T080000Z',
        'DTSTART:20270317T080000Z',
        'DURATION:PT1H',
      ),
    )
    expect(odd.some((line) => line.startsWith('2027-03-08') && line.endsWith('unknown'))).toBe(true)
  })

  it('reads what is written otherwise: lower case, bare dates, exceptions without a zone', () => {
    expect(
      shown(
        ...named(
          'DTSTART;TZID=Asia/Kathmandu:20270327T120000',
          'DURATION:PT1H',
          'rrule:freq=daily;count=3',
          'EXDATE:20270328T120000',
        ),
      ),
    ).toEqual(['2027-03-27T06:15 2027-03-27T07:15 busy', '2027-03-29T06:15 2027-03-29T07:15 busy'])
    expect(read(...named('DTSTART:20270327')).entries).toMatchObject([{ allDay: true, minutes: 1440 }])
  })

  it('keeps the length of added periods, and a whole day over a change of clocks', () => {
    expect(
      shown(
        ...named('DTSTART:20270302T080000Z', 'DURATION:PT1H', 'RDATE;VALUE=PERIOD:20270303T080000Z/PT3H'),
      ),
    ).toEqual(['2027-03-02T08:00 2027-03-02T09:00 busy', '2027-03-03T08:00 2027-03-03T11:00 busy'])
    expect(shown(...named('DTSTART;VALUE=DATE:20270328', 'DURATION:P1D'))).toEqual([
      '2027-03-27T23:00 2027-03-28T22:00 busy',
    ])
    expect(shown(...named('DTSTART;TZID=Europe/Vienna:20270327T120000', 'DURATION:P1D'))).toEqual([
      '2027-03-27T11:00 2027-03-28T10:00 busy',
    ])
  })

  it('lets nothing be free for an end with seconds', () => {
    expect(shown(...named('DTSTART:20270327T080000Z', 'DTEND:20270327T083001Z'))).toEqual([
      '2027-03-27T08:00 2027-03-27T08:31 busy',
    ])
  })

  it('is refused before it is expanded when it has too many dates', () => {
    const many = Array.from({ length: 60 }, (_, i) =>
      event(`UID:${i}`, 'DTSTART:20200101T080000Z', 'RRULE:FREQ=DAILY'),
    ).flat()
    expect(() => calendarSpans(read(...many), FROM, TO, 1000)).toThrow(TooManyDates)
  })

  it('says unknown of a rule by the second that begins long ago, and is soon done with it', () => {
    const lines = named('DTSTART:19700101T000000Z', 'DURATION:PT1S', 'RRULE:FREQ=SECONDLY')
    expect(shown(...lines)).toEqual(allOf('unknown'))
    expect(
      shown(...named('DTSTART:19700101T000000Z', 'RRULE:FREQ=SECONDLY;COUNT=999999999;BYHOUR=3')),
    ).toEqual(allOf('unknown'))
  })
})

describe('of two with one UID', () => {
  const version = (sequence: number, hour: string, ...more: string[]) =>
    named(`SEQUENCE:${sequence}`, `DTSTART:20270327T${hour}0000Z`, 'DURATION:PT1H', ...more)

  it('the later counts, in whatever order they stand', () => {
    for (const lines of [
      [...version(1, '08'), ...version(2, '10')],
      [...version(2, '10'), ...version(1, '08')],
    ])
      expect(shown(...lines)).toEqual(['2027-03-27T10:00 2027-03-27T11:00 busy'])
    const stamped = (stamp: string, hour: string) => version(1, hour, `DTSTAMP:2027010${stamp}T000000Z`)
    expect(shown(...stamped('2', '10'), ...stamped('1', '08'))).toEqual([
      '2027-03-27T10:00 2027-03-27T11:00 busy',
    ])
  })

  it('both are busy where nothing tells which is the later', () => {
    expect(shown(...version(1, '08'), ...version(1, '10'))).toHaveLength(2)
  })

  it('a later cancellation takes it off, an earlier one does not', () => {
    const off = (sequence: number) => version(sequence, '08', 'STATUS:CANCELLED')
    expect(read(...version(1, '08'), ...off(2))).toMatchObject({ entries: [], cancelled: [{ sequence: 2 }] })
    expect(read(...version(3, '08'), ...off(2)).entries).toHaveLength(1)
    expect(read('METHOD:CANCEL', ...version(3, '08'))).toMatchObject({
      entries: [],
      cancelled: [{ uid: 'one@lodestar.example', date: null }],
    })
  })
})

describe('what is passed over', () => {
  it('is named, with the line it begins on', () => {
    expect(
      read('BEGIN:VTODO', 'UID:t', 'SUMMARY:Wax', 'END:VTODO', 'BEGIN:VJOURNAL', 'END:VJOURNAL').refused,
    ).toMatchObject([{ line: 7, reason: 'It is a journal note. Only entries are read.' }])
  })

  it('says of a text that ends early that it is cut', () => {
    const whole = file(...named('DTSTART:20270327T080000Z'))
    expect(readCalendar(whole, HOME).cut).toBe(false)
    expect(readCalendar(whole.slice(0, -10), HOME).cut).toBe(true)
    expect(readCalendar(whole.slice(0, whole.indexOf('END:VEVENT')), HOME).cut).toBe(true)
  })
})

describe('a time on no calendar', () => {
  it.each([
    ['DTSTART:20270231T080000Z', 'DURATION:PT1H'],
    ['DTSTART:20271399T080000Z', 'DURATION:PT1H'],
    ['DTSTART;VALUE=DATE:20270431'],
    ['DTSTART:20270327T086000Z', 'DURATION:PT1H'],
    ['DTSTART:20270327T250000Z', 'DURATION:PT1H'],
    ['DTSTART:20270327T080000Z', 'DTEND:20270229T090000Z'],
    ['DTSTART:20270327T080000Z', 'DURATION:PT1H', 'RDATE:20270328T080000Z,20270229T080000Z'],
  ])('is not taken for another one: %s %s', (...lines) => {
    expect(shown(...named(...lines))).toEqual(allOf('unknown'))
    expect(read(...named(...lines)).refused).toMatchObject([{ title: 'Ridge', line: 3 }])
  })

  it('is no leap day, no last second of a day, and not 24 o’clock', () => {
    expect(shown(...named('DTSTART:20280229T080000Z'))).toEqual([])
    expect(shown(...named('DTSTART:20270327T235960Z', 'DURATION:PT1H'))).toEqual([
      '2027-03-28T00:00 2027-03-28T01:00 busy',
    ])
    expect(shown(...named('DTSTART:20270327T230000Z', 'DTEND:20270327T240000Z'))).toEqual([
      '2027-03-27T23:00 2027-03-28T00:00 busy',
    ])
  })

  it('or in the first century is not taken for one in the last', () => {
    for (const year of ['0001', '0050', '0099'])
      expect(read(...named(`DTSTART:${year}0101T080000Z`)).refused).toMatchObject([
        { reason: expect.stringMatching(/in a year that is not between/) },
      ])
  })
})

it('a zone that begins in the year 1 is read like any other', () => {
  const observance = (kind: string, month: number, from: string, to: string) => [
    `BEGIN:${kind}`,
    `DTSTART:0001${String(month).padStart(2, '0')}01T020000`,
    `RRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=${month}`,
    `TZOFFSETFROM:${from}`,
    `TZOFFSETTO:${to}`,
    `END:${kind}`,
  ]
  const zone = [
    'BEGIN:VTIMEZONE',
    'TZID:House',
    ...observance('DAYLIGHT', 3, '+0130', '+0230'),
    ...observance('STANDARD', 10, '+0230', '+0130'),
    'END:VTIMEZONE',
  ]
  const at = (wall: string) =>
    shown(...zone, ...named(`DTSTART;TZID=House:${wall}`, 'DURATION:PT1H'))[0]?.slice(0, 16)
  expect(at('20270327T120000')).toBe('2027-03-27T10:30')
  expect(at('20270328T120000')).toBe('2027-03-28T09:30')
})

describe('a zone that a file describes from a later day on', () => {
  const late = (tzid: string, from: string, to: string) => [
    'BEGIN:VTIMEZONE',
    `TZID:${tzid}`,
    'BEGIN:STANDARD',
    'DTSTART:20301027T030000',
    `TZOFFSETFROM:${from}`,
    `TZOFFSETTO:${to}`,
    'END:STANDARD',
    'END:VTIMEZONE',
  ]
  it('has before that the offset it changes from, or is the zone of that name', () => {
    expect(
      shown(
        ...late('House', '+0400', '+0300'),
        ...named('DTSTART;TZID=House:20270327T120000', 'DURATION:PT1H'),
      ),
    ).toEqual(['2027-03-27T08:00 2027-03-27T09:00 busy'])
    expect(
      shown(
        ...late('Europe/Vienna', '+0200', '+0100'),
        ...named('DTSTART;TZID=Europe/Vienna:20270310T120000', 'DURATION:PT1H'),
      ),
    ).toEqual(['2027-03-10T11:00 2027-03-10T12:00 busy'])
  })
})

describe('bytes', () => {
  const bytes = (text: string) => new TextEncoder().encode(text)
  const latin = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0))

  it('are read by their mark, by the charset that was named, as UTF-8, or as Latin-1', () => {
    expect(decodeText(bytes('Grüße'), null)).toBe('Grüße')
    expect(decodeText(latin('Grüße'), null)).toBe('Grüße')
    expect(decodeText(latin('Grüße'), 'iso-8859-1')).toBe('Grüße')
    expect(decodeText(latin('Grüße'), 'no-such-charset')).toBe('Grüße')
    const wide = Uint8Array.from([0xff, 0xfe, ...[...'Hü'].flatMap((each) => [each.charCodeAt(0), 0])])
    expect(decodeText(wide, null)).toBe('Hü')
  })

  it('are unfolded before they are read where a fold stands within a character', () => {
    const whole = bytes('SUMMARY:Grüße')
    const at = whole.indexOf(0xc3) + 1
    const folded = Uint8Array.from([...whole.slice(0, at), 13, 10, 32, ...whole.slice(at)])
    expect(decodeText(folded, 'utf-8')).toBe('SUMMARY:Grüße')
  })
})

const plain = (more: Partial<CalendarEntry>): CalendarEntry =>
  entryOf({
    uid: 'x@lodestar.example',
    zone: HOME,
    starts: wallFromText('2026-12-01T09:00') ?? 0,
    minutes: 60,
    stamp: 0,
    ...more,
  })

describe('what goes out', () => {
  it('keeps a date that is added in the hour which the clocks leave out', () => {
    const given = plain({ rule: 'FREQ=WEEKLY', added: [wallFromText('2027-03-28T02:27') ?? 0] })
    const [back] = readCalendar(writeCalendar([given], '', 0), HOME).entries
    expect(back?.added).toEqual(given.added)
  })

  it('has lines of at most 75 octets, and none within a character', () => {
    const text = writeCalendar([plain({ title: 'Grüße 北の雪 🏔 '.repeat(20) })], 'Übersicht', 0)
    for (const line of text.split('\r\n'))
      expect(new TextEncoder().encode(line).length).toBeLessThanOrEqual(75)
    expect(readCalendar(text, HOME).entries[0]?.title).toBe('Grüße 北の雪 🏔 '.repeat(20).slice(0, 200).trim())
  })

  it('can be stamped once it is known when it changed, and no title is taken for a stamp', () => {
    const title = 'DTSTAMP:19700101T000000Z'
    const { entries } = read(...named('DTSTART:20270327T080000Z', `SUMMARY:${title}\\n${title}\\n`))
    const at = Date.UTC(2026, 10, 23, 8)
    expect(stamped(writeCalendar(entries, '', STAMP_OF_NOTHING), at)).toBe(writeCalendar(entries, '', at))
  })

  it('has no line that somebody put into a title', () => {
    const text = writeCalendar(
      [plain({ title: 'Quiet\rATTENDEE:mailto:spy@lodestar.example', place: 'A\u0000B' })],
      '',
      0,
    )
    expect(text.split(/\r\n|\r|\n/).some((line) => line.startsWith('ATTENDEE'))).toBe(false)
    expect(text).not.toContain('\u0000')
  })

  it.each(['Europe/Vienna', 'Pacific/Auckland', 'America/Santiago', 'America/St_Johns', 'Asia/Kathmandu'])(
    'describes %s for as long as a series without an end goes on',
    (zone) => {
      const table = zoneTable(zone)
      const text = textOf(zoneComponent(zone, Date.UTC(2026, 0, 1), Date.UTC(2026, 11, 1), true))
      const timezone = new ICAL.Timezone(new ICAL.Component(ICAL.parse(text)))
      for (let year = 2026; year < 2060; year++)
        for (const month of [0, 3, 6, 9]) {
          const wall = toWall(table, Date.UTC(year, month, 20))
          const at = new Date(wall)
          const time = ICAL.Time.fromDateTimeString(`${at.toISOString().slice(0, 19)}`)
          expect(timezone.utcOffset(time) * 1000).toBe(offsetAt(table, instantOf(table, wall)))
        }
    },
  )

  it('joins busy times that touch or overlap, each kind by itself', () => {
    const at = (hours: number) => FROM + hours * HOUR
    const text = writeFreeBusy(
      [
        { start: at(1), end: at(3), state: 'busy' },
        { start: at(2), end: at(4), state: 'busy' },
        { start: at(4), end: at(5), state: 'busy' },
        { start: at(2), end: at(6), state: 'tentative' },
      ],
      { name: 'Tashi Lhendup', address: 'tashi.lhendup@corrie.example' },
      FROM,
      FROM + DAY,
      FROM,
    )
    expect(readCalendar(text, HOME).busy).toEqual([
      { start: at(1), end: at(5), state: 'busy' },
      { start: at(2), end: at(6), state: 'tentative' },
    ])
  })

  it('is the same time for whoever reads it, also where the clocks change within it', () => {
    const long = plain({ starts: wallFromText('2027-03-27T12:00') ?? 0, minutes: 1440 })
    const [back] = readCalendar(writeCalendar([long], '', 0), HOME).entries
    const [date] = back ? occurrencesWithin(back, [], zoneTable(HOME), FROM, TO) : []
    expect(date && date.end - date.start).toBe(1440 * MINUTE)
  })
})
