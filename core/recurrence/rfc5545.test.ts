import { describe, expect, it } from 'vitest'
import { wallFromText, wallText, zoneTable } from '../time/index.ts'
import { datesWithin } from './index.ts'

const newYork = zoneTable('America/New_York')
const wall = (text: string) => wallFromText(text) ?? 0

/** "1997-09: 2 4 6; 1997-10: 1" as days. */
const listed = (text: string): string[] =>
  text.split(';').flatMap((part) => {
    const [month = '', days = ''] = part.trim().split(': ')
    return days.split(' ').flatMap((day) => {
      const [first = 0, last = first] = day.split('–').map(Number)
      return Array.from(
        { length: last - first + 1 },
        (_, i) => `${month}-${String(first + i).padStart(2, '0')}`,
      )
    })
  })

const given = (first: string, rule: string, to: string, excepted: string[] = []) =>
  datesWithin(
    { starts: wall(first), minutes: 60, rule, added: [], excepted: excepted.map(wall) },
    newYork,
    wall('1990-01-01T00:00'),
    wall(to),
  ).map(wallText)

const JANUARIES = '1998-01: 1–31; 1999-01: 1–31; 2000-01: 1–31'
const FAR = '2010-01-01T00:00'

/** Section 3.8.5.3 lists these; all begin at 09:00 in New York. What repeats forever is read as far as it is listed. */
describe('the examples of RFC 5545 section 3.8.5.3 give the listed dates', () => {
  it.each([
    ['1997-09-02', 'FREQ=DAILY;COUNT=10', FAR, '1997-09: 2–11'],
    [
      '1997-09-02',
      'FREQ=DAILY;UNTIL=19971224T000000Z',
      FAR,
      '1997-09: 2–30; 1997-10: 1–31; 1997-11: 1–30; 1997-12: 1–23',
    ],
    [
      '1997-09-02',
      'FREQ=DAILY;INTERVAL=2',
      '1997-12-04T00:00',
      '1997-09: 2 4 6 8 10 12 14 16 18 20 22 24 26 28 30; 1997-10: 2 4 6 8 10 12 14 16 18 20 22 24 26 28 30; 1997-11: 1 3 5 7 9 11 13 15 17 19 21 23 25 27 29; 1997-12: 1 3',
    ],
    ['1997-09-02', 'FREQ=DAILY;INTERVAL=10;COUNT=5', FAR, '1997-09: 2 12 22; 1997-10: 2 12'],
    ['1998-01-01', 'FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA', FAR, JANUARIES],
    ['1998-01-01', 'FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1', FAR, JANUARIES],
    ['1997-09-02', 'FREQ=WEEKLY;COUNT=10', FAR, '1997-09: 2 9 16 23 30; 1997-10: 7 14 21 28; 1997-11: 4'],
    [
      '1997-09-02',
      'FREQ=WEEKLY;UNTIL=19971224T000000Z',
      FAR,
      '1997-09: 2 9 16 23 30; 1997-10: 7 14 21 28; 1997-11: 4 11 18 25; 1997-12: 2 9 16 23',
    ],
    [
      '1997-09-02',
      'FREQ=WEEKLY;INTERVAL=2;WKST=SU',
      '1998-02-18T00:00',
      '1997-09: 2 16 30; 1997-10: 14 28; 1997-11: 11 25; 1997-12: 9 23; 1998-01: 6 20; 1998-02: 3 17',
    ],
    [
      '1997-09-02',
      'FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH',
      FAR,
      '1997-09: 2 4 9 11 16 18 23 25 30; 1997-10: 2',
    ],
    [
      '1997-09-02',
      'FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH',
      FAR,
      '1997-09: 2 4 9 11 16 18 23 25 30; 1997-10: 2',
    ],
    [
      '1997-09-01',
      'FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR',
      FAR,
      '1997-09: 1 3 5 15 17 19 29; 1997-10: 1 3 13 15 17 27 29 31; 1997-11: 10 12 14 24 26 28; 1997-12: 8 10 12 22',
    ],
    [
      '1997-09-02',
      'FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH',
      FAR,
      '1997-09: 2 4 16 18 30; 1997-10: 2 14 16',
    ],
    [
      '1997-09-05',
      'FREQ=MONTHLY;COUNT=10;BYDAY=1FR',
      FAR,
      '1997-09: 5; 1997-10: 3; 1997-11: 7; 1997-12: 5; 1998-01: 2; 1998-02: 6; 1998-03: 6; 1998-04: 3; 1998-05: 1; 1998-06: 5',
    ],
    [
      '1997-09-05',
      'FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR',
      FAR,
      '1997-09: 5; 1997-10: 3; 1997-11: 7; 1997-12: 5',
    ],
    [
      '1997-09-07',
      'FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU',
      FAR,
      '1997-09: 7 28; 1997-11: 2 30; 1998-01: 4 25; 1998-03: 1 29; 1998-05: 3 31',
    ],
    [
      '1997-09-22',
      'FREQ=MONTHLY;COUNT=6;BYDAY=-2MO',
      FAR,
      '1997-09: 22; 1997-10: 20; 1997-11: 17; 1997-12: 22; 1998-01: 19; 1998-02: 16',
    ],
    [
      '1997-09-28',
      'FREQ=MONTHLY;BYMONTHDAY=-3',
      '1998-03-01T00:00',
      '1997-09: 28; 1997-10: 29; 1997-11: 28; 1997-12: 29; 1998-01: 29; 1998-02: 26',
    ],
    [
      '1997-09-02',
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15',
      FAR,
      '1997-09: 2 15; 1997-10: 2 15; 1997-11: 2 15; 1997-12: 2 15; 1998-01: 2 15',
    ],
    [
      '1997-09-30',
      'FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1',
      FAR,
      '1997-09: 30; 1997-10: 1 31; 1997-11: 1 30; 1997-12: 1 31; 1998-01: 1 31; 1998-02: 1',
    ],
    [
      '1997-09-10',
      'FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15',
      FAR,
      '1997-09: 10–15; 1999-03: 10–13',
    ],
    [
      '1997-09-02',
      'FREQ=MONTHLY;INTERVAL=2;BYDAY=TU',
      '1998-04-01T00:00',
      '1997-09: 2 9 16 23 30; 1997-11: 4 11 18 25; 1998-01: 6 13 20 27; 1998-03: 3 10 17 24 31',
    ],
    [
      '1997-06-10',
      'FREQ=YEARLY;COUNT=10;BYMONTH=6,7',
      FAR,
      [1997, 1998, 1999, 2000, 2001].map((year) => `${year}-06: 10; ${year}-07: 10`).join('; '),
    ],
    [
      '1997-03-10',
      'FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3',
      FAR,
      `1997-03: 10; ${[1999, 2001, 2003].map((year) => `${year}-01: 10; ${year}-02: 10; ${year}-03: 10`).join('; ')}`,
    ],
    [
      '1997-01-01',
      'FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200',
      FAR,
      '1997-01: 1; 1997-04: 10; 1997-07: 19; 2000-01: 1; 2000-04: 9; 2000-07: 18; 2003-01: 1; 2003-04: 10; 2003-07: 19; 2006-01: 1',
    ],
    ['1997-05-19', 'FREQ=YEARLY;BYDAY=20MO', '2000-01-01T00:00', '1997-05: 19; 1998-05: 18; 1999-05: 17'],
    [
      '1997-05-12',
      'FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO',
      '2000-01-01T00:00',
      '1997-05: 12; 1998-05: 11; 1999-05: 17',
    ],
    [
      '1997-03-13',
      'FREQ=YEARLY;BYMONTH=3;BYDAY=TH',
      '2000-01-01T00:00',
      '1997-03: 13 20 27; 1998-03: 5 12 19 26; 1999-03: 4 11 18 25',
    ],
    [
      '1997-06-05',
      'FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8',
      '2000-01-01T00:00',
      '1997-06: 5 12 19 26; 1997-07: 3 10 17 24 31; 1997-08: 7 14 21 28; 1998-06: 4 11 18 25; 1998-07: 2 9 16 23 30; 1998-08: 6 13 20 27; 1999-06: 3 10 17 24; 1999-07: 1 8 15 22 29; 1999-08: 5 12 19 26',
    ],
    [
      '1997-09-13',
      'FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13',
      '1998-06-30T00:00',
      '1997-09: 13; 1997-10: 11; 1997-11: 8; 1997-12: 13; 1998-01: 10; 1998-02: 7; 1998-03: 7; 1998-04: 11; 1998-05: 9; 1998-06: 13',
    ],
    [
      '1996-11-05',
      'FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8',
      '2005-01-01T00:00',
      '1996-11: 5; 2000-11: 7; 2004-11: 2',
    ],
    [
      '1997-09-04',
      'FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3',
      FAR,
      '1997-09: 4; 1997-10: 7; 1997-11: 6',
    ],
    [
      '1997-09-29',
      'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2',
      '1998-03-31T00:00',
      '1997-09: 29; 1997-10: 30; 1997-11: 27; 1997-12: 30; 1998-01: 29; 1998-02: 26; 1998-03: 30',
    ],
    ['1997-08-05', 'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO', FAR, '1997-08: 5 10 19 24'],
    ['1997-08-05', 'FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU', FAR, '1997-08: 5 17 19 31'],
    [
      '2007-01-15',
      'FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5',
      FAR,
      '2007-01: 15 30; 2007-02: 15; 2007-03: 15 30',
    ],
  ])('%s %s', (first, rule, to, dates) => {
    expect(given(`${first}T09:00`, rule, to)).toEqual(listed(dates).map((day) => `${day}T09:00`))
  })

  it('every Friday the 13th, its first date excepted', () => {
    expect(
      given('1997-09-02T09:00', 'FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13', '2000-12-31T00:00', [
        '1997-09-02T09:00',
      ]),
    ).toEqual(
      listed('1998-02: 13; 1998-03: 13; 1998-11: 13; 1999-08: 13; 2000-10: 13').map((day) => `${day}T09:00`),
    )
  })

  // The end is that of the RFC's errata: its text says 17:00 UTC, which is 13:00 there.
  it.each([
    ['FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T210000Z', ['09:00', '12:00', '15:00']],
    ['FREQ=MINUTELY;INTERVAL=15;COUNT=6', ['09:00', '09:15', '09:30', '09:45', '10:00', '10:15']],
    ['FREQ=MINUTELY;INTERVAL=90;COUNT=4', ['09:00', '10:30', '12:00', '13:30']],
  ])('1997-09-02 %s', (rule, clocks) => {
    expect(given('1997-09-02T09:00', rule, FAR)).toEqual(clocks.map((clock) => `1997-09-02T${clock}`))
  })

  it.each([
    'FREQ=DAILY;BYHOUR=9,10,11,12,13,14,15,16;BYMINUTE=0,20,40',
    'FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10,11,12,13,14,15,16',
  ])('every 20 minutes from 9:00 to 16:40 on two days: %s', (rule) => {
    const clocks = [9, 10, 11, 12, 13, 14, 15, 16].flatMap((hour) =>
      ['00', '20', '40'].map((minute) => `${String(hour).padStart(2, '0')}:${minute}`),
    )
    expect(given('1997-09-02T09:00', rule, '1997-09-04T00:00')).toEqual(
      ['02', '03'].flatMap((day) => clocks.map((clock) => `1997-09-${day}T${clock}`)),
    )
  })
})
