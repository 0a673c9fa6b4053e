import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs, SEED } from '../testing/properties.ts'
import { instantFromText } from '../time/index.ts'
import {
  countsOn,
  goesOnElsewhere,
  isOver,
  nextTold,
  owedTo,
  partOf,
  type Told,
  type ToldDate,
  toldOf,
} from './told.ts'

const ONE: Told = {
  title: 'Firn core review',
  note: '',
  place: 'Serac, Innsbruck',
  zone: 'Europe/Vienna',
  starts: '2026-12-03T14:00',
  minutes: 60,
  rule: null,
  added: [],
  excepted: [],
  changes: [],
  cancelled: [],
  required: true,
  rsvp: true,
  conference: null,
}
const SERIES: Told = { ...ONE, rule: 'FREQ=WEEKLY;COUNT=4' }
const dated = (recurrence: string, more: Partial<ToldDate>): ToldDate => ({
  recurrence,
  starts: null,
  minutes: null,
  title: null,
  note: null,
  place: null,
  ...more,
})
const [SECOND, THIRD] = ['2026-12-10T14:00', '2026-12-17T14:00']

describe('what somebody has to be told', () => {
  it.each<[string, Told | null, Told | null, ReturnType<typeof owedTo>]>([
    [
      'of what they never heard of: an invitation',
      null,
      ONE,
      { method: 'REQUEST', recurrence: null, askAgain: [] },
    ],
    ['of what came and went unheard: nothing', null, null, null],
    ['of what is off: a cancellation', ONE, null, { method: 'CANCEL', recurrence: null, askAgain: [] }],
    ['of what is as it was: nothing', ONE, { ...ONE }, null],
    [
      'of another hour: that, and their answer is asked again',
      ONE,
      { ...ONE, starts: '2026-12-03T15:00' },
      { method: 'REQUEST', recurrence: null, askAgain: 'all' },
    ],
    [
      'of another place: the same',
      ONE,
      { ...ONE, place: 'Col, Innsbruck' },
      { method: 'REQUEST', recurrence: null, askAgain: 'all' },
    ],
    [
      'of a corrected title: that, and their answer stands',
      ONE,
      { ...ONE, title: 'Firn core reading' },
      { method: 'REQUEST', recurrence: null, askAgain: [] },
    ],
    [
      'of one date that moved: that date',
      SERIES,
      { ...SERIES, changes: [dated(SECOND, { starts: '2026-12-11T09:00' })] },
      { method: 'REQUEST', recurrence: SECOND, askAgain: [SECOND] },
    ],
    [
      'of one date that is called otherwise: that date, and their answer stands',
      SERIES,
      { ...SERIES, changes: [dated(SECOND, { title: 'With cake' })] },
      { method: 'REQUEST', recurrence: SECOND, askAgain: [] },
    ],
    [
      'of a series that only ends sooner: that, and what they said of the rest stands',
      {
        ...SERIES,
        changes: [dated(SECOND, { starts: '2026-12-11T09:00' }), dated(THIRD, { title: 'Late' })],
      },
      {
        ...SERIES,
        rule: 'FREQ=WEEKLY;UNTIL=20261217T135959',
        changes: [dated(SECOND, { starts: '2026-12-11T09:00' })],
      },
      { method: 'REQUEST', recurrence: null, askAgain: [] },
    ],
    [
      'of a series that ends sooner, and one date of it elsewhere: both, and that date is asked again',
      SERIES,
      {
        ...SERIES,
        rule: 'FREQ=WEEKLY;UNTIL=20261217T135959',
        changes: [dated(SECOND, { starts: '2026-12-11T09:00' })],
      },
      { method: 'REQUEST', recurrence: null, askAgain: [SECOND] },
    ],
    [
      'of a series that goes on longer: that, and their answer is asked again',
      { ...SERIES, rule: 'FREQ=WEEKLY;UNTIL=20261217T135959' },
      SERIES,
      { method: 'REQUEST', recurrence: null, askAgain: 'all' },
    ],
    [
      'of one date that is off: that it is',
      SERIES,
      { ...SERIES, cancelled: [SECOND] },
      { method: 'CANCEL', recurrence: SECOND, askAgain: [] },
    ],
    [
      'of one date that is on again: it',
      { ...SERIES, cancelled: [SECOND] },
      SERIES,
      { method: 'REQUEST', recurrence: SECOND, askAgain: [SECOND] },
    ],
    [
      'of two dates that differ: all in one letter, and those two are asked again',
      SERIES,
      { ...SERIES, cancelled: [THIRD], changes: [dated(SECOND, { place: 'Col, Innsbruck' })] },
      { method: 'REQUEST', recurrence: null, askAgain: [SECOND] },
    ],
  ])('%s', (_, told, now, owed) => {
    expect(owedTo(told, now)).toEqual(owed)
  })

  it('does not depend on the order in which a database gives the fields of a date', () => {
    const now = { ...SERIES, changes: [dated(SECOND, { place: 'Col, Innsbruck' })] }
    const told = {
      ...SERIES,
      changes: [
        { place: 'Col, Innsbruck', note: null, title: null, minutes: null, starts: null, recurrence: SECOND },
      ],
    }
    expect(owedTo(told, now)).toBeNull()
  })

  it('is nothing exactly where nothing differs, whatever the two are', () => {
    const wall = fc.constantFrom('2026-12-03T14:00', SECOND, THIRD)
    const date = fc.record({
      recurrence: wall,
      starts: fc.constantFrom(null, '2026-12-11T09:00'),
      minutes: fc.constantFrom(null, 30),
      title: fc.constantFrom(null, 'Other'),
      note: fc.constant(null),
      place: fc.constantFrom(null, 'Col, Innsbruck'),
    })
    const differs = (one: ToldDate) => one.starts ?? one.minutes ?? one.title ?? one.place
    const told = fc
      .record({
        title: fc.constantFrom('One', 'Two'),
        place: fc.constantFrom('', 'Serac, Innsbruck'),
        starts: fc.constantFrom('2026-12-03T14:00', '2026-12-03T15:00'),
        required: fc.boolean(),
        changes: fc.uniqueArray(
          date.filter((one) => differs(one) !== null),
          { selector: (one) => one.recurrence, maxLength: 3 },
        ),
        off: fc.uniqueArray(wall, { maxLength: 2 }),
      })
      .map(
        ({ off, changes, ...more }): Told => ({
          ...SERIES,
          ...more,
          changes: changes
            .filter((one) => !off.includes(one.recurrence))
            .sort((a, b) => (a.recurrence < b.recurrence ? -1 : 1)),
          cancelled: off.sort(),
        }),
      )
    fc.assert(
      fc.property(fc.option(told), fc.option(told), (before, now) => {
        const owed = owedTo(before, now)
        expect(owed === null).toBe(JSON.stringify(before) === JSON.stringify(now))
        if (!owed || !before || !now) return
        // What counts on asks again or takes away, and the other way round.
        expect(countsOn(owed)).toBe(owed.method === 'CANCEL' || owed.askAgain.length > 0)
        // A letter about one date leaves all else as it was.
        if (owed.recurrence === null) return
        const without = (one: Told) => ({
          ...one,
          changes: one.changes.filter((each) => each.recurrence !== owed.recurrence),
          cancelled: one.cancelled.filter((each) => each !== owed.recurrence),
        })
        expect(without(before)).toEqual(without(now))
      }),
      { seed: SEED, numRuns: runs(300) },
    )
  })
})

describe('the time that a letter names', () => {
  const at = (text: string) => instantFromText('Europe/Vienna', text)
  it('is that of a date as it was told, through a change of clocks', () => {
    const told = {
      ...SERIES,
      starts: '2026-10-22T14:00',
      changes: [dated('2026-10-29T14:00', { minutes: 90 })],
    }
    expect(toldOf(told, '2026-10-29T14:00')).toMatchObject({
      start: at('2026-10-29T14:00'),
      end: at('2026-10-29T15:30'),
      place: 'Serac, Innsbruck',
    })
  })

  it.each([
    ['2026-11-23T09:00', '2026-12-03T14:00'],
    ['2026-12-03T14:30', '2026-12-03T14:00'],
    ['2026-12-03T15:00', SECOND],
    // The third is off, so that after the second the fourth is next.
    ['2026-12-10T16:00', '2026-12-24T14:00'],
    ['2027-03-01T09:00', '2026-12-03T14:00'],
  ])('at %s is %s', (now, next) => {
    expect(nextTold({ ...SERIES, cancelled: [THIRD] }, at(now))).toBe(next)
  })

  it('is over with the last date', () => {
    expect(isOver(SERIES, at('2026-12-24T14:59'))).toBe(false)
    expect(isOver(SERIES, at('2026-12-24T15:00'))).toBe(true)
    expect(isOver(ONE, at('2026-12-03T15:00'))).toBe(true)
  })
})

describe('a series of which each date was called off', () => {
  it('is over, also where it still stands as a series', () => {
    const now = instantFromText('Europe/Vienna', '2026-11-23T09:12')
    const cut: Told = { ...SERIES, rule: 'FREQ=WEEKLY;UNTIL=20261210T135959' }
    expect(isOver(cut, now)).toBe(false)
    expect(isOver({ ...cut, cancelled: [cut.starts] }, now)).toBe(true)
    expect(isOver({ ...SERIES, cancelled: [SERIES.starts] }, now)).toBe(false)
  })
})

describe('a series that goes on as one of its own', () => {
  const onward: Told = { ...SERIES, starts: THIRD, rule: 'FREQ=WEEKLY;COUNT=2' }
  it('asks again where its first date is at another time or place than was told, and not otherwise', () => {
    expect(goesOnElsewhere(SERIES, THIRD, onward)).toBe(false)
    expect(goesOnElsewhere(SERIES, THIRD, { ...onward, title: 'Otherwise' })).toBe(false)
    expect(goesOnElsewhere(SERIES, THIRD, { ...onward, starts: '2026-12-18T14:00' })).toBe(true)
    expect(goesOnElsewhere(SERIES, THIRD, { ...onward, minutes: 45 })).toBe(true)
    expect(goesOnElsewhere(SERIES, THIRD, { ...onward, place: 'Col, Innsbruck' })).toBe(true)
  })
})

describe('what somebody is told who takes part in some dates of a series', () => {
  const moved = dated(SECOND, { starts: '2026-12-11T09:00', minutes: 30, title: 'In the lab' })
  const whole: Told = { ...SERIES, changes: [moved] }
  const part = (everyDate: boolean, ...otherwise: string[]) => partOf(whole, { everyDate, otherwise })

  it('of all of them is all; of all but some, those are off', () => {
    expect(part(true)).toBe(whole)
    expect(part(true, SECOND)).toEqual({ ...whole, changes: [], cancelled: [SECOND] })
  })

  it('of one is that one, as it is by itself; of none, nothing', () => {
    expect(part(false, SECOND)).toEqual({
      ...ONE,
      starts: '2026-12-11T09:00',
      minutes: 30,
      title: 'In the lab',
    })
    expect(part(false)).toBeNull()
    expect(partOf({ ...whole, cancelled: [SECOND] }, { everyDate: false, otherwise: [SECOND] })).toBeNull()
  })

  it('of several is each by its name, without how the series goes on', () => {
    expect(part(false, THIRD, SECOND)).toEqual({ ...ONE, starts: SECOND, added: [THIRD], changes: [moved] })
  })

  it('is asked again only at dates that are new to them', () => {
    const [one, two] = [part(false, SECOND), part(false, SECOND, THIRD)]
    expect(owedTo(one, two)).toEqual({ method: 'REQUEST', recurrence: null, askAgain: [THIRD] })
    expect(owedTo(two, one)).toEqual({ method: 'REQUEST', recurrence: null, askAgain: [] })
    expect(owedTo(two, two)).toBeNull()
    expect(owedTo(one, whole)).toMatchObject({ askAgain: 'all' })
    expect(one && two && goesOnElsewhere(two, SECOND, one)).toBe(false)
  })

  it('let off a date is a cancellation of that date, and asked back they are asked again', () => {
    expect(owedTo(whole, part(true, THIRD))).toEqual({ method: 'CANCEL', recurrence: THIRD, askAgain: [] })
    expect(owedTo(part(true, THIRD), whole)).toEqual({
      method: 'REQUEST',
      recurrence: THIRD,
      askAgain: [THIRD],
    })
  })
})
