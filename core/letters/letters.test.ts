import nodeIcal from 'node-ical'
import { describe, expect, it } from 'vitest'
import { HOUR, instantFromText, wallFromText, wallText } from '../time/index.ts'
import {
  BadMessage,
  calendarText,
  escapeHtml,
  type Letter,
  type MeetingMessage,
  readIncoming,
  wallIn,
  writeLetter,
} from './index.ts'

const message = (zone: string, starts: string, more: Partial<MeetingMessage> = {}): MeetingMessage => ({
  uid: 'meeting-1@marmot.corrie.example',
  sequence: 2,
  stamp: Date.UTC(2026, 10, 23, 8),
  start: instantFromText(zone, starts),
  end: instantFromText(zone, starts) + HOUR,
  zone,
  title: 'Firn core review; part 2, "late"',
  description: 'Bring the cores.\nAnd the saw.',
  place: 'Serac, Innsbruck',
  rsvp: true,
  organizer: { name: 'Ilse Brandacher', address: 'ilse.brandacher@corrie.example' },
  participants: [
    {
      name: 'Tashi Lhendup',
      address: 'tashi.lhendup@corrie.example',
      required: true,
      answer: 'needs-action',
    },
    { name: 'Noor Haddad', address: 'noor.haddad@lodestar.example', required: false, answer: 'accepted' },
  ],
  ...more,
})

const readByOther = (text: string) => {
  const event = Object.values(nodeIcal.sync.parseICS(text)).find((each) => each?.type === 'VEVENT')
  if (event?.type !== 'VEVENT') throw new Error('no event in it')
  return event
}

/** The six zones of the institute, each on both sides of a change of clocks where it has one. */
const TIMES = [
  ['Europe/Vienna', '2027-03-27T14:00', '2027-03-29T14:00'],
  ['Africa/Nairobi', '2027-03-27T14:00', '2027-03-29T14:00'],
  ['Asia/Kathmandu', '2027-03-27T14:00', '2027-03-29T14:00'],
  ['Pacific/Auckland', '2027-04-03T14:00', '2027-04-05T14:00'],
  ['America/Santiago', '2027-04-03T14:00', '2027-04-05T14:00'],
  ['America/St_Johns', '2027-03-13T14:00', '2027-03-15T14:00'],
] as const

describe('the calendar part, read by another parser', () => {
  it.each(TIMES.flatMap(([zone, before, after]) => [[zone, before] as const, [zone, after] as const]))(
    'gives the right instants for %s %s',
    (zone, starts) => {
      const sent = message(zone, starts)
      const event = readByOther(calendarText(sent, 'REQUEST'))
      expect(new Date(event.start).getTime()).toBe(sent.start)
      expect(new Date(event.end ?? 0).getTime()).toBe(sent.end)
    },
  )

  it('says whole days of one’s own as dates, of a series too, and what others are invited to as times of day', () => {
    const days = message('America/Santiago', '2027-04-03T00:00', {
      end: instantFromText('America/Santiago', '2027-04-05T00:00'),
      series: {
        rule: 'FREQ=WEEKLY;UNTIL=20270501',
        starts: wallFromText('2027-04-03T00:00') ?? 0,
        added: [],
        changes: [],
        cancelled: [wallFromText('2027-04-10T00:00') ?? 0],
      },
    })
    const text = calendarText({ ...days, participants: [] }, 'PUBLISH')
    for (const line of ['DTSTART', 'DTEND', 'EXDATE'].map((name) => `${name};VALUE=DATE:2027040`))
      expect(text.replace('2027041', '2027040')).toContain(line)
    expect(text).toMatch(/RRULE:.*UNTIL=20270501\r/)
    const event = readByOther(text)
    expect([event.datetype, event.start.getDate(), event.end?.getDate()]).toEqual(['date', 3, 5])
    expect(calendarText(days, 'REQUEST')).toContain('DTSTART;TZID=America/Santiago:20270403T000000')
  })

  it('carries its own zone rules, so that a reader without our zone data is right too', () => {
    for (const [zone, before, after] of TIMES)
      for (const starts of [before, after]) {
        const text = calendarText(message(zone, starts), 'REQUEST')
        // Renamed to a zone that no database has, only the VTIMEZONE inside can tell.
        expect(instantByRules(text)).toBe(instantFromText(zone, starts))
      }
  })

  it('says everything there is to say, escaped', () => {
    const event = readByOther(calendarText(message('Europe/Vienna', '2026-12-03T14:00'), 'REQUEST'))
    expect(event.summary).toBe('Firn core review; part 2, "late"')
    expect(event.description).toBe('Bring the cores.\nAnd the saw.')
    expect(event.uid).toBe('meeting-1@marmot.corrie.example')
    expect(String(event.sequence)).toBe('2')
    expect(event.location).toBe('Serac, Innsbruck')
  })

  it('is about one date of a series where it names it, and leaves out the dates that were called off', () => {
    const rule = 'FREQ=WEEKLY;COUNT=4'
    const wall = (text: string) => Date.parse(`${text}Z`)
    const series = {
      rule,
      starts: wall('2026-12-03T14:00'),
      added: [],
      changes: [],
      cancelled: [wall('2026-12-10T14:00')],
    }
    const whole = calendarText(message('Europe/Vienna', '2026-12-03T14:00', { series }), 'REQUEST')
    expect(whole).toContain('EXDATE;TZID=Europe/Vienna:20261210T140000')
    const one = { series, date: wall('2026-12-10T14:00') }
    const off = calendarText(message('Europe/Vienna', '2026-12-10T14:00', one), 'CANCEL')
    expect(off).toContain('RECURRENCE-ID;TZID=Europe/Vienna:20261210T140000')
    expect(off).not.toContain('RRULE:FREQ=WEEKLY;COUNT=4')
    expect(off.match(/BEGIN:VEVENT/g)).toHaveLength(1)
  })

  it('is a cancellation that another program understands', () => {
    const text = calendarText(message('Europe/Vienna', '2026-12-03T14:00'), 'CANCEL')
    expect(text).toMatch(/^METHOD:CANCEL\r$/m)
    expect(readByOther(text).status).toBe('CANCELLED')
  })
})

/** DTSTART by the offsets written in the message's own VTIMEZONE, with nothing but text. */
const instantByRules = (text: string): number => {
  const wall = (stamp: string) =>
    Date.parse(stamp.replace(/^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)$/, '$1-$2-$3T$4:$5:$6Z'))
  const start = wall(/DTSTART;TZID=[^:]+:(\w+)/.exec(text)?.[1] ?? '')
  const rules = [
    ...text.matchAll(
      /BEGIN:(?:STANDARD|DAYLIGHT)\r\nDTSTART:(\w+)\r\nTZOFFSETFROM:[+-]\d{4}\r\nTZOFFSETTO:([+-])(\d\d)(\d\d)/g,
    ),
  ]
  const inForce = rules
    .map(([, from, sign, hours, minutes]) => ({
      from: wall(from ?? ''),
      offset: (sign === '-' ? -1 : 1) * (Number(hours) * 60 + Number(minutes)),
    }))
    .filter((rule) => rule.from <= start)
    .sort((a, b) => a.from - b.from)
    .at(-1)
  return start - (inForce?.offset ?? Number.NaN) * 60_000
}

const replyOf = (lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//x//EN', ...lines, 'END:VCALENDAR'].join('\r\n')
const event = (...lines: string[]) => [
  'BEGIN:VEVENT',
  'UID:meeting-1',
  'SEQUENCE:1',
  'COMMENT:With pleasure',
  ...lines,
  'END:VEVENT',
]
const NOOR = 'noor.haddad@lodestar.example'
const yes = [`ATTENDEE;PARTSTAT=ACCEPTED:mailto:${NOOR}`]
const replies = (lines: string[]) => readIncoming(replyOf(lines), NOOR, null, 'UTC')

describe('an answer by mail', () => {
  it('is read with who says what to which meeting', () => {
    expect(
      replies(['METHOD:REPLY', ...event('ATTENDEE;PARTSTAT=TENTATIVE:MAILTO:Noor.Haddad@Lodestar.example')]),
    ).toEqual([
      {
        kind: 'reply',
        delegate: null,
        uid: 'meeting-1',
        sequence: 1,
        stamp: null,
        address: 'noor.haddad@lodestar.example',
        answer: 'tentative',
        message: 'With pleasure',
        date: null,
      },
    ])
  })

  it('is for the date that it names, one for each, and when it was given', () => {
    const [first, second] = replies([
      'METHOD:REPLY',
      ...event('RECURRENCE-ID:20261203T130000Z', 'DTSTAMP:20261124T101112Z', ...yes),
      ...event('RECURRENCE-ID;TZID=Europe/Vienna:20261210T140000', ...yes),
    ])
    expect(first?.stamp).toBe(Date.UTC(2026, 10, 24, 10, 11, 12))
    const walls = [first, second].map((one) => one?.date && wallText(wallIn(one.date, 'Europe/Vienna')))
    expect(walls).toEqual(['2026-12-03T14:00', '2026-12-10T14:00'])
  })

  it('is the sender’s own among several, may come without a METHOD of its own, and may pass the invitation on', () => {
    const several = ['ATTENDEE;PARTSTAT=DECLINED:mailto:other@lodestar.example', ...yes]
    expect(replies(['METHOD:REPLY', ...event(...several)])).toMatchObject([{ answer: 'accepted' }])
    expect(readIncoming(replyOf(event(...yes)), NOOR, 'reply', 'UTC')).toMatchObject([{ answer: 'accepted' }])
    expect(
      replies([
        'METHOD:REPLY',
        ...event(`ATTENDEE;PARTSTAT=DELEGATED;DELEGATED-TO="mailto:sven@lodestar.example":mailto:${NOOR}`),
      ]),
    ).toMatchObject([{ answer: 'delegated', delegate: 'sven@lodestar.example', message: 'With pleasure' }])
  })

  it.each([
    ['not-a-calendar', 'Dear Ilse, yes.'],
    ['not-a-calendar', replyOf(['METHOD:REPLY', ...event('RECURRENCE-ID:20270231T130000Z', ...yes)])],
    ['not-a-reply', replyOf(['METHOD:REQUEST', ...event('ATTENDEE;PARTSTAT=ACCEPTED:mailto:a@b.example')])],
    [
      'no-answer-in-reply',
      replyOf(['METHOD:REPLY', ...event('ATTENDEE;PARTSTAT=NEEDS-ACTION:mailto:a@b.example')]),
    ],
    ['no-answer-in-reply', replyOf(['METHOD:REPLY', ...event('SUMMARY:nobody')])],
    ['not-from-them', replyOf(['METHOD:REPLY', ...event('ATTENDEE;PARTSTAT=ACCEPTED:mailto:x@b.example')])],
  ])('is refused as %s', (code, text) => {
    const read = () => readIncoming(text, 'a@b.example', null, 'UTC')
    expect(read).toThrow(expect.objectContaining({ code }))
    expect(read).toThrow(BadMessage)
  })
})

describe('the letter', () => {
  const letter = (more: Partial<Letter> = {}): Letter => ({
    kind: 'REQUEST',
    title: 'Firn <core> review',
    organizer: 'Ilse Brandacher',
    recipient: 'Aroha Pene',
    required: true,
    rsvp: true,
    start: instantFromText('Europe/Vienna', '2026-12-03T20:00'),
    end: instantFromText('Europe/Vienna', '2026-12-03T21:00'),
    zone: 'Pacific/Auckland',
    organizerZone: 'Europe/Vienna',
    place: 'Serac, Innsbruck',
    note: '',
    others: ['Tashi Lhendup'],
    link: 'https://marmot.corrie.example/i/token',
    needsAccount: false,
    now: instantFromText('Europe/Vienna', '2026-11-23T09:00'),
    ...more,
  })

  it('says the recipient’s own time first, in words, and the organizer’s with its day', () => {
    const { subject, text } = writeLetter(letter())
    expect(subject).toBe('Invitation: Firn <core> review, Fri 4 Dec 08:00')
    expect(text).toContain('Friday 4 December, 08:00 to 09:00, in 11 days (Auckland time, UTC+13)')
    expect(text).toContain('For Ilse Brandacher that is Thursday 3 December, 20:00 to 21:00 (Vienna time).')
    expect(text).toContain('no account needed: https://marmot.corrie.example/i/token')
  })

  it('cannot be made to carry markup', () => {
    const { html } = writeLetter(letter({ note: '<script>alert(1)</script>' }))
    expect(html).not.toContain('<script>')
    expect(html).toContain(escapeHtml('Firn <core> review'))
  })

  it('says that it is a series, and of which dates it speaks', () => {
    const series = { repeats: ['every week on Thursday, 4 times'] }
    const asked = writeLetter(letter(series))
    expect(asked.text).toContain('invites you to a meeting that repeats')
    expect(asked.text).toContain('every week on Thursday, 4 times')
    expect(asked.subject).toContain('first Fri 4 Dec')
    expect(writeLetter(letter({ ...series, kind: 'CANCEL' })).text).toContain('on all its dates')
    const one = writeLetter(letter({ kind: 'CANCEL', oneDate: true }))
    expect(one.subject).toContain('this date only')
    expect(one.text).toContain('The other dates stay as they are.')
  })

  it('asks for nothing when the meeting is cancelled', () => {
    const { subject, text } = writeLetter(letter({ kind: 'CANCEL', link: null }))
    expect(subject).toMatch(/^Cancelled: /)
    expect(text).toContain('There is nothing to do.')
    expect(text).not.toContain('http')
  })
})
