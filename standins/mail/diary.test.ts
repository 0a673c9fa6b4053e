import { describe, expect, it } from 'vitest'
import { openDiary } from './diary.ts'

const OWNER = 'noor@lodestar.example'

interface Said {
  readonly sequence?: number
  readonly stamp?: string
  readonly start?: string
  readonly more?: readonly string[]
}

const event = ({ sequence = 0, stamp = '20261123T080000Z', start = '20261202T130000', more = [] }: Said) => [
  'BEGIN:VEVENT',
  'UID:one',
  `SEQUENCE:${sequence}`,
  `DTSTAMP:${stamp}`,
  `DTSTART:${start}Z`,
  'DURATION:PT1H',
  'SUMMARY:Firn',
  `ATTENDEE;ROLE=OPT-PARTICIPANT:mailto:${OWNER}`,
  ...more,
  'END:VEVENT',
]
const calendar = (...events: readonly Said[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//x//EN', ...events.flatMap(event), 'END:VCALENDAR'].join(
    '\r\n',
  )

const days = (diary: ReturnType<typeof openDiary>) =>
  diary.shown('one').map((one) => new Date(one.start).toISOString().slice(5, 13))

describe('a diary that takes in what comes by mail', () => {
  it('has a meeting as it was told last, whatever came late', () => {
    const diary = openDiary(OWNER)
    diary.take('REQUEST', calendar({ sequence: 1, start: '20261203T130000' }))
    diary.take('REQUEST', calendar({}))
    diary.take('CANCEL', calendar({}))
    diary.take('REPLY', calendar({ sequence: 9 }))
    expect(days(diary)).toEqual(['12-03T13'])
    expect(diary.role('one')).toBe('OPT-PARTICIPANT')
    diary.take('REQUEST', calendar({ sequence: 1, stamp: '20261123T090000Z', start: '20261204T130000' }))
    expect(days(diary)).toEqual(['12-04T13'])
    diary.take('CANCEL', calendar({ sequence: 2 }))
    expect([days(diary), diary.all(), diary.role('one')]).toEqual([[], [], null])
  })

  it('has a series with one date moved, one off, and comes back to what a newer whole says', () => {
    const rule = 'RRULE:FREQ=WEEKLY;COUNT=3'
    const diary = openDiary(OWNER)
    diary.take('REQUEST', calendar({ more: [rule] }))
    const second = 'RECURRENCE-ID:20261209T130000Z'
    diary.take('REQUEST', calendar({ sequence: 1, start: '20261210T090000', more: [second] }))
    diary.take('CANCEL', calendar({ sequence: 1, more: ['RECURRENCE-ID:20261216T130000Z'] }))
    expect(days(diary)).toEqual(['12-02T13', '12-10T09'])
    diary.take('REQUEST', calendar({ start: '20261209T110000', more: [second] }))
    expect(days(diary)).toEqual(['12-02T13', '12-10T09'])
    diary.take('REQUEST', calendar({ sequence: 2, more: [rule, 'EXDATE:20261202T130000Z'] }))
    expect(days(diary)).toEqual(['12-09T13', '12-16T13'])
  })

  it('has dates of a series of which it knows nothing else, and dates beside one another', () => {
    const diary = openDiary(OWNER)
    diary.take('REQUEST', calendar({ more: ['RECURRENCE-ID:20261202T130000Z'] }))
    expect(days(diary)).toEqual(['12-02T13'])
    const other = openDiary(OWNER)
    other.take('REQUEST', calendar({ more: ['RDATE:20261209T130000Z'] }))
    expect(days(other)).toEqual(['12-02T13', '12-09T13'])
  })
})
