import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { LaneTime } from '../availability/index.ts'
import type { Opening } from '../openings/index.ts'
import '../testing/properties.ts'
import { HOUR, instantFromText, MINUTE, minuteOf, toWall, wallText, zoneTable } from '../time/index.ts'
import {
  type Counted,
  candidateStarts,
  countInWords,
  leading,
  MARKS,
  type Mark,
  marksTrouble,
  type Narrowing,
  type PollTold,
  rankTimes,
  stretchIn,
  suggestedMark,
  tellingOf,
  toldAfter,
  writePollLetter,
} from './index.ts'

const VIENNA = 'Europe/Vienna'
const at = (text: string) => instantFromText(VIENNA, text)
const lane = (spans: LaneTime['spans'] = [], known = true): LaneTime => ({
  zone: VIENNA,
  known,
  hours: [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1020 })),
  outside: 'outside',
  spans,
})
const span = (from: string, to: string) => ({ start: at(`2026-12-03T${from}`), end: at(`2026-12-03T${to}`) })

describe('what somebody’s time says to a time', () => {
  it.each([
    ['free', [], '10:00', '11:00', 'yes'],
    ['outside their hours', [], '18:00', '19:00', 'if-need-be'],
    ['perhaps taken', ['tentative'], '10:00', '11:00', 'if-need-be'],
    ['held', ['held'], '10:00', '11:00', 'if-need-be'],
    ['taken', ['busy'], '10:30', '11:30', 'no'],
    ['away', ['away'], '10:30', '11:30', 'no'],
  ] as const)('%s', (_, states, from, to, mark) => {
    const spans = states.map((state) => ({ ...span('10:00', '12:00'), state }))
    expect(suggestedMark(lane(spans), span(from, to))).toBe(mark)
  })

  it('is nothing where nothing is known: never yes', () => {
    expect(suggestedMark(lane([], false), span('10:00', '11:00'))).toBeNull()
    expect(stretchIn(lane([], false), span('20:00', '21:00'))).toBe(0)
    expect(stretchIn(lane(), span('16:30', '17:30'))).toBe(30)
  })
})

const voter = (required: boolean, ...marks: (Mark | null)[]): Counted => ({
  required,
  marks: new Map(marks.flatMap((mark, i) => (mark ? [[`t${i}`, mark]] : []))),
})
const timesOf = (...stretches: number[]) =>
  stretches.map((stretch, i) => ({ id: `t${i}`, start: i * HOUR, stretch }))
const order = (stretches: number[], voters: Counted[], needed: number | null = null) =>
  rankTimes(timesOf(...stretches), voters, needed).map((one) => `${one.timeId} ${one.rank}`)

describe('the times of a poll', () => {
  it('come in this order: those who have to be there, then yes, then if need be, then minutes outside hours', () => {
    expect(
      order([0, 0], [voter(true, 'no', 'if-need-be'), voter(false, 'yes', 'no'), voter(false, 'yes', 'no')]),
    ).toEqual(['t1 1', 't0 2'])
    expect(order([0, 0], [voter(true, null, 'if-need-be'), voter(false, 'yes', 'no')])).toEqual([
      't1 1',
      't0 2',
    ])
    expect(order([0, 0], [voter(false, 'yes', 'if-need-be'), voter(false, 'no', 'if-need-be')])).toEqual([
      't0 1',
      't1 2',
    ])
    expect(order([0, 0], [voter(false, 'no', 'if-need-be')])).toEqual(['t1 1', 't0 2'])
    expect(order([30, 0], [voter(true, 'yes', 'yes')])).toEqual(['t1 1', 't0 2'])
  })

  it('share their rank where they stand equal, the earlier first', () => {
    const standings = rankTimes(timesOf(0, 0, 0), [voter(true, 'yes', 'no', 'yes')], null)
    expect(standings.map((one) => `${one.timeId} ${one.rank}`)).toEqual(['t0 1', 't2 1', 't1 3'])
    expect(leading(standings).map((one) => one.timeId)).toEqual(['t0', 't2'])
  })

  it('suit only when nobody who has to be there is against it or silent, and enough can come', () => {
    const suits = (needed: number | null, ...voters: Counted[]) =>
      rankTimes(timesOf(0), voters, needed)[0]?.suits
    expect(suits(null, voter(true, 'if-need-be'), voter(false, 'no'))).toBe(true)
    expect(suits(null, voter(true, 'yes'), voter(true, null))).toBe(false)
    expect(suits(null, voter(true, 'no'), voter(false, 'yes'))).toBe(false)
    expect(suits(2, voter(true, 'yes'), voter(false, 'no'))).toBe(false)
    expect(suits(2, voter(true, 'yes'), voter(false, 'if-need-be'))).toBe(true)
    expect(suits(null, voter(false, 'no'))).toBe(false)
    expect(suits(null)).toBe(false)
  })

  it('count everybody once, whatever they say, and a yes more never ranks a time lower', () => {
    const mark = fc.option(fc.constantFrom(...MARKS), { nil: null })
    const voters = fc.array(fc.tuple(fc.boolean(), fc.array(mark, { minLength: 4, maxLength: 4 })), {
      minLength: 1,
      maxLength: 12,
    })
    fc.assert(
      fc.property(voters, fc.nat({ max: 3 }), (given, which) => {
        const people = given.map(([required, marks]) => voter(required, ...marks))
        const before = rankTimes(timesOf(0, 0, 0, 0), people, null)
        for (const { all, required } of before) {
          expect(all.yes + all.ifNeedBe + all.no + all.open).toBe(people.length)
          expect(required.yes + required.ifNeedBe + required.no + required.open).toBe(
            people.filter((one) => one.required).length,
          )
        }
        const better = people.map((one, i) =>
          i === 0 ? { ...one, marks: new Map([...one.marks, [`t${which}`, 'yes' as const]]) } : one,
        )
        const rankOf = (standings: typeof before) =>
          standings.find((one) => one.timeId === `t${which}`)?.rank ?? 0
        expect(rankOf(rankTimes(timesOf(0, 0, 0, 0), better, null))).toBeLessThanOrEqual(rankOf(before))
      }),
    )
  })

  it('are counted in words, and what is none is left out', () => {
    expect(countInWords({ yes: 4, ifNeedBe: 1, no: 0, open: 2 })).toBe('4 yes, 1 if need be, 2 not yet')
  })

  it('take marks for what is asked, each once, and one alone where one alone may be chosen', () => {
    const ids = new Set(['a', 'b'])
    const yes = (timeId: string) => ({ timeId, mark: 'yes' as const })
    expect(marksTrouble([yes('a'), yes('b')], ids, false)).toBeNull()
    expect(marksTrouble([yes('c')], ids, false)).toBe('not-asked')
    expect(marksTrouble([yes('a'), yes('a')], ids, false)).toBe('twice')
    expect(marksTrouble([yes('a'), { timeId: 'b', mark: 'if-need-be' }], ids, true)).toBe('one-only')
    expect(marksTrouble([yes('a'), { timeId: 'b', mark: 'no' }], ids, true)).toBeNull()
  })
})

const PARTS = {
  missing: [],
  tentative: [],
  stretch: [],
  lunch: [],
  squeezed: [],
  scraps: 0,
  days: 0,
  fairness: 0,
  spared: [],
  weather: null,
  places: null,
}
const opening = (best: string, from: string, to: string, missing: string[] = []): Opening => ({
  start: at(best),
  end: at(best) + HOUR,
  from: at(from),
  to: at(to),
  parts: { ...PARTS, missing },
  cost: 0,
})
const ANY: Narrowing = {
  fromMinute: 0,
  toMinute: 1440,
  weekdays: [],
  all: false,
  aDay: 2,
  most: 5,
  earliest: 0,
}

describe('the times to ask about', () => {
  const openings = [
    opening('2026-12-03T10:00', '2026-12-03T09:00', '2026-12-03T11:00'),
    opening('2026-12-03T10:30', '2026-12-03T10:15', '2026-12-03T12:00'),
    opening('2026-12-03T15:00', '2026-12-03T15:00', '2026-12-03T15:00', ['tashi']),
    opening('2026-12-04T08:00', '2026-12-04T08:00', '2026-12-04T08:00'),
  ]
  const starts = (more: Partial<Narrowing>) =>
    candidateStarts(openings, VIENNA, { ...ANY, ...more }).map((start) =>
      wallText(toWall(zoneTable(VIENNA), start)).slice(8),
    )

  it('are the best that do not overlap, in order of time', () => {
    expect(starts({})).toEqual(['03T10:00', '03T15:00', '04T08:00'])
    expect(starts({ most: 1 })).toEqual(['03T10:00'])
  })

  it('are narrowed by hour, weekday, who is free, and how many a day', () => {
    expect(starts({ fromMinute: 660, toMinute: 960 })).toEqual(['03T11:00', '03T15:00'])
    expect(starts({ toMinute: 630 })).toEqual(['03T09:30', '04T08:00'])
    expect(starts({ weekdays: [5] })).toEqual(['04T08:00'])
    expect(starts({ all: true })).toEqual(['03T10:00', '04T08:00'])
    expect(starts({ aDay: 1 })).toEqual(['03T10:00', '04T08:00'])
    expect(starts({ earliest: at('2026-12-03T10:30') })).toEqual(['03T10:30', '03T15:00', '04T08:00'])
  })

  it('lie within the opening and the hours, also where clocks change', () => {
    const day = at('2027-03-28T00:00')
    fc.assert(
      fc.property(fc.nat({ max: 90 }), fc.nat({ max: 20 }), fc.nat({ max: 22 }), (from, wide, hour) => {
        const first = day + from * 15 * MINUTE
        const one = { ...opening('2027-03-28T00:00', '2027-03-28T00:00', '2027-03-28T00:00'), from: first }
        const found = candidateStarts(
          [{ ...one, start: first, end: first + HOUR, to: first + wide * 15 * MINUTE }],
          VIENNA,
          { ...ANY, fromMinute: hour * 60, toMinute: hour * 60 + 120 },
        )
        for (const start of found) {
          expect(start).toBeGreaterThanOrEqual(first)
          expect(start).toBeLessThanOrEqual(first + wide * 15 * MINUTE)
          expect(minuteOf(toWall(zoneTable(VIENNA), start))).toBeGreaterThanOrEqual(hour * 60)
        }
      }),
    )
  })
})

describe('a letter about a poll', () => {
  const asked = (round: number): PollTold => ({ kind: 'asked', round })
  const decided: PollTold = { kind: 'decided', timeId: 'a' }

  it.each([
    [null, asked(1), 'ask'],
    [asked(1), asked(1), null],
    [asked(1), asked(2), 'more-times'],
    [asked(1), { kind: 'invited' }, null],
    [asked(1), decided, 'decided'],
    [decided, decided, null],
    [decided, { kind: 'decided', timeId: 'b' }, 'decided'],
    [decided, asked(1), 'again'],
    [asked(1), { kind: 'off' }, 'off'],
    [null, { kind: 'off' }, null],
    [null, decided, null],
    [{ kind: 'off' }, asked(2), 'again'],
  ] as [PollTold | null, PollTold, string | null][])('tells what is new: %j, %j', (told, truth, letter) => {
    expect(tellingOf(told, truth)).toBe(letter)
    // Once told, there is nothing to tell.
    expect(tellingOf(toldAfter(told, truth), truth)).toBeNull()
  })

  const letter = {
    kind: 'ask' as const,
    title: 'Core <storage>',
    note: 'One line\nand another',
    organizer: 'Ilse Brandacher',
    recipient: 'Rosa',
    required: true,
    minutes: 60,
    times: [span('14:00', '15:00')],
    chosen: null,
    closes: at('2026-12-01T18:00'),
    zone: 'Asia/Kathmandu',
    link: 'https://marmot.corrie.example/q/x',
    needsAccount: false,
    now: at('2026-11-23T09:00'),
  }

  it('says the times in its reader’s zone, and names that', () => {
    const { subject, text, html } = writePollLetter(letter)
    expect(subject).toBe('Which times suit you? Core <storage>')
    expect(text).toContain('The times (Kathmandu time, UTC+5:45):')
    expect(text).toContain('Thursday 3 December, 18:45 to 19:45')
    expect(text).toContain('no account needed: https://marmot.corrie.example/q/x')
    expect(html).toContain('Core &lt;storage&gt;')
  })

  it('names the time that was chosen to those who are not expected, and asks nothing', () => {
    const { text } = writePollLetter({
      ...letter,
      kind: 'decided',
      chosen: span('14:00', '15:00'),
      link: null,
    })
    expect(text).toContain('does not expect you then')
    expect(text).toContain('Thursday 3 December, 18:45 to 19:45')
    expect(text).not.toContain('The times')
  })

  it('counts times rather than listing all of many', () => {
    const times = Array.from({ length: 40 }, (_, i) => ({ start: i * HOUR, end: i * HOUR + 1 }))
    expect(writePollLetter({ ...letter, times }).text).toContain('and 28 more')
  })
})
