import type { OccurrenceOnWire } from '@marmot/contract/entries'
import { dayFromCivil, instantOf, wallOf, weekdayOf, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { anOccurrence } from '../testing/occurrence.ts'
import { lensFor, VIEWS, viewOf } from '../time/view.ts'
import { lookOfOwn, ownSpan } from './entries.ts'
import { matches } from './filter.tsx'
import { readTyped, typedTime } from './typed.ts'

const day = (year: number, month: number, date: number) => dayFromCivil(year, month, date) ?? 0
const NEAR = day(2026, 11, 23)
const read = (typed: { day?: string; from?: string; until?: string; allDay?: boolean }) =>
  readTyped({ day: '3 dec', from: '10:45', until: '11:30', allDay: false, ...typed }, NEAR, NEAR)

describe('what is typed into an entry', () => {
  it.each([
    [{}, '2026-12-03T10:45', 45],
    [{ until: '45m' }, '2026-12-03T10:45', 45],
    [{ until: '1h30' }, '2026-12-03T10:45', 90],
    [{ from: '23:30', until: '0:15' }, '2026-12-03T23:30', 45],
    [{ from: '2pm', until: '3:30 pm' }, '2026-12-03T14:00', 90],
    [{ from: '10:45', until: '10:45' }, '2026-12-03T10:45', 1440],
    [{ allDay: true, until: '1 day' }, '2026-12-03T00:00', 1440],
    [{ allDay: true, until: '3' }, '2026-12-03T00:00', 4320],
    [{ allDay: true, until: '5 dec' }, '2026-12-03T00:00', 4320],
    [{ day: 'next tue' }, '2026-12-01T10:45', 45],
  ])('%j is %s for %d minutes', (typed, starts, minutes) => {
    expect(read(typed)).toEqual({ starts, minutes, errors: {} })
  })

  it('is complained of by the field at fault', () => {
    expect(Object.keys(read({ day: 'someday', from: '25:00', until: 'late' }).errors)).toEqual([
      'day',
      'from',
      'until',
    ])
    expect(Object.keys(read({ allDay: true, until: '90m' }).errors)).toEqual(['until'])
    expect(Object.keys(read({ allDay: true, until: '1 dec' }).errors)).toEqual([])
  })

  it('reads back what is written into the fields at first', () => {
    const vienna = zoneTable('Europe/Vienna')
    const start = instantOf(vienna, wallOf(day(2027, 3, 27)))
    const end = instantOf(vienna, wallOf(day(2027, 3, 29)))
    const typed = typedTime(start, end, 'Europe/Vienna', true)
    expect(typed.until).toBe('2 days')
    expect(readTyped({ ...typed, allDay: true }, day(2027, 3, 27), NEAR)).toMatchObject({
      starts: '2027-03-27T00:00',
      minutes: 2880,
    })
  })
})

describe('the day of something that is there already', () => {
  const typed = { from: '10:45', until: '11:30', allDay: false }
  it.each([
    // A day earlier is a day earlier, not a year later.
    ['26 nov', day(2026, 11, 27), '2026-11-26'],
    ['30 dec', day(2027, 1, 4), '2026-12-30'],
    ['4 jan', day(2026, 12, 30), '2027-01-04'],
    ['29 feb', day(2027, 1, 10), '2028-02-29'],
    ['3 mar 2029', day(2026, 12, 30), '2029-03-03'],
    // Words that count from a day count from today.
    ['tomorrow', day(2026, 12, 30), '2026-11-24'],
    ['thu', day(2026, 12, 30), '2026-11-26'],
  ])('is "%s" on day %d as %s', (text, near, is) => {
    expect(readTyped({ ...typed, day: text }, near, NEAR).starts).toBe(`${is}T10:45`)
  })
})

describe('the views', () => {
  const office = [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1020 }))
  const sundays = [7, 1, 2, 3, 4].map((weekday) => ({ weekday, from: 480, to: 1020 }))

  it.each([1, 6, 7])('are known again by their days, weeks beginning on weekday %d', (firstWeekday) => {
    for (const { id } of VIEWS)
      expect(viewOf(lensFor(id, NEAR, firstWeekday, office), firstWeekday, office)).toBe(id)
  })

  it('of working days follow the hours somebody works', () => {
    expect(lensFor('work', NEAR, 1, office)).toEqual({ first: NEAR, days: 5 })
    const lens = lensFor('work', NEAR, 7, sundays)
    expect([weekdayOf(lens.first), lens.days]).toEqual([7, 5])
    expect(viewOf({ first: NEAR, days: 3 }, 1, office)).toBeNull()
  })
})

describe('a block of mine', () => {
  const lookOf = (more: Partial<OccurrenceOnWire>) => {
    const [span] = ownSpan(anOccurrence({ place: 'Serac, Innsbruck', ...more }))
    if (!span) throw new Error('no block')
    return lookOfOwn(span, zoneTable('Europe/Vienna'), '#123456')
  }
  it.each([
    [{ answer: 'needs-action' }, { kind: 'invited', asks: 'answer?' }],
    [{ answer: 'accepted' }, { kind: 'invited' }],
    [
      { own: true, answered: { said: 4, asked: 5 } },
      { kind: 'organized', note: '4/5' },
    ],
    [{ own: true, meeting: false, reserved: true }, { kind: 'reservation' }],
    [{ own: true, meeting: false }, { kind: 'own' }],
    // Of what is hidden not even its kind is told.
    [{ hidden: true, answer: 'needs-action' }, { kind: 'own' }],
  ] as const)('%j looks like %j', (more, look) => {
    expect(lookOf(more)).toEqual({ under: '10:45 to 11:30 · Serac', dot: '#123456', ...look })
  })

  it('says no hours of a whole day', () => {
    expect(lookOf({ allDay: true }).under).toBe('Serac')
  })
})

describe('a filter', () => {
  it.each([
    [{}, true],
    [{ kind: 'meeting' }, true],
    [{ kind: 'entry' }, false],
    [{ organizer: 'me' }, false],
    [{ organizer: 'others' }, true],
    [{ answer: 'tentative', repeats: 'yes' }, true],
    [{ answer: 'accepted' }, false],
    [{ repeats: 'no' }, false],
    [{ category: 'c1' }, true],
    [{ category: 'none' }, false],
    [{ kind: 'meeting', category: 'c2' }, false],
  ])('%j lets it through: %s', (filter, expected) => expect(matches(filter, anOccurrence())).toBe(expected))
})
