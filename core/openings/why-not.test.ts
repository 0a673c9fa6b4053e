import { describe, expect, it } from 'vitest'
import { DAY, MINUTE } from '../time/index.ts'
import { gridOf } from './grid.ts'
import { judge, type SearchBrief, USUAL_RULES } from './index.ts'
import { rowsOf } from './rows.ts'
import { aRoom, asked, at, brief, busy, room, rooms, VIENNA } from './samples.ts'
import { fitOf } from './search.ts'
import { whyNotIn } from './why-not.ts'

const why = (given: SearchBrief, from: string, to: string) =>
  whyNotIn(fitOf(rowsOf(given, gridOf(given))), at(from), at(to))
const kindsOf = (given: SearchBrief, from: string, to: string) =>
  why(given, from, to).people.map((one) => [one.id, one.kind])
const at10 = { start: at('2026-12-03T10:00'), end: at('2026-12-03T11:00') }
const day = busy('2026-12-03T00:00', '2026-12-04T00:00')

describe('who is in the way of a day', () => {
  it('is nobody where there is an opening', () => {
    expect(why(brief([asked('ilse')]), '2026-12-03T00:00', '2026-12-04T00:00')).toMatchObject({
      people: [],
      places: [],
      rule: null,
    })
  })

  it('is whoever blocks all of it alone, what they cannot change before what a rule could', () => {
    const people = [
      asked('ilse'),
      asked('aroha', 'Pacific/Auckland', { hours: [] }),
      asked('tashi', VIENNA, { spans: [{ ...day, state: 'away' }] }),
    ]
    expect(kindsOf(brief(people), '2026-12-03T00:00', '2026-12-04T00:00')).toEqual([
      ['tashi', 'away'],
      ['aroha', 'hours'],
    ])
  })

  it('is the few who block it together, whoever blocks most first', () => {
    const people = [
      asked('ilse', VIENNA, { spans: [busy('2026-12-03T14:00', '2026-12-03T17:00')] }),
      asked('tashi', VIENNA, { spans: [busy('2026-12-03T08:00', '2026-12-03T14:00')] }),
      asked('henrike'),
    ]
    const found = kindsOf(brief(people), '2026-12-03T00:00', '2026-12-04T00:00')
    expect(found).toContainEqual(['tashi', 'busy'])
    expect(found.map(([id]) => id)).not.toContain('henrike')
  })

  it('is never somebody optional, in a group that is large enough, or unknown', () => {
    const spans = [{ ...day, state: 'away' as const }]
    const people = [
      asked('ilse', VIENNA, { spans }),
      asked('optional', VIENNA, { spans }, false),
      asked('severin', VIENNA, { known: false, spans: [] }),
    ]
    expect(kindsOf(brief(people), '2026-12-03T00:00', '2026-12-04T00:00')).toEqual([['ilse', 'away']])
  })

  it('is a group when too few of it can come', () => {
    const away = { spans: [{ ...day, state: 'away' as const }] }
    const people = [
      asked('ilse'),
      { ...asked('a', VIENNA, away), group: 'g' },
      { ...asked('b', VIENNA, away), group: 'g' },
      { ...asked('c'), group: 'g' },
    ]
    const given = (atLeast: number) => brief(people, { groups: [{ id: 'g', name: 'stations', atLeast }] })
    expect(why(given(2), '2026-12-03T00:00', '2026-12-04T00:00').people).toContainEqual(
      expect.objectContaining({ id: 'g', kind: 'group', title: 'stations' }),
    )
    expect(why(given(1), '2026-12-03T00:00', '2026-12-04T00:00').people).toEqual([])
  })

  it('is the organizer’s own rule where it leaves no start', () => {
    const friday = brief([asked('ilse')], { rules: { ...USUAL_RULES, weekdays: [5] } })
    expect(why(friday, '2026-12-03T00:00', '2026-12-04T00:00').rule).toBe('weekdays')
    expect(why(friday, '2026-12-04T00:00', '2026-12-05T00:00').rule).toBeNull()
    const soon = brief([asked('ilse')], {
      now: at('2026-12-02T12:00'),
      rules: { ...USUAL_RULES, notice: 2160 },
    })
    expect(why(soon, '2026-12-03T00:00', '2026-12-04T00:00').rule).toBe('notice')
    const short = brief([asked('ilse')], { minutes: 600 })
    expect(why(short, '2026-12-04T23:00', '2026-12-05T00:00').rule).toBe('window')
  })

  it('is the place that is never free while everybody could come, and only that', () => {
    const taken = room('Col', { time: { ...room('Col').time, spans: [{ ...day, end: day.end + DAY }] } })
    const need = { ...aRoom, siteId: VIENNA, seats: 2 }
    const places = rooms([taken, room('Nook', { seats: 1 })], [need, { ...need, seats: 1 }])
    const found = why(brief([asked('ilse')], { places }), '2026-12-03T00:00', '2026-12-04T00:00')
    expect(found.people).toEqual([])
    expect(found.places.map((slot) => slot.seats)).toEqual([2])
  })
})

describe('how a chosen time stands', () => {
  const judged = (people: SearchBrief['people'], rules: Partial<typeof USUAL_RULES> = {}, chosen = at10) =>
    judge(brief([...people], { rules: { ...USUAL_RULES, ...rules } }), chosen)
  const kinds = (...given: Parameters<typeof judged>) => judged(...given).blockers.map((one) => one.kind)

  it.each(['busy', 'away', 'tentative'] as const)('says %s, since when and until when', (state) => {
    const span = busy('2026-12-03T09:30', '2026-12-03T10:30', state)
    const [blocker] = judged([asked('ilse', VIENNA, { spans: [span] })]).blockers
    expect(blocker).toMatchObject({ kind: state, since: span.start, until: span.end })
  })

  it('names what takes most of it, where several do', () => {
    const spans = [
      busy('2026-12-03T10:00', '2026-12-03T10:10'),
      busy('2026-12-03T10:10', '2026-12-03T11:00', 'away'),
    ]
    expect(kinds([asked('ilse', VIENNA, { spans })])).toEqual(['away'])
  })

  it('says which rule it breaks: gaps, a full day, hours, bounds, lunch', () => {
    const before = asked('ilse', VIENNA, { spans: [busy('2026-12-03T09:00', '2026-12-03T09:50')] })
    expect(kinds([before], { before: 15 })).toEqual(['gap'])
    expect(kinds([before], { before: 10 })).toEqual([])
    expect(kinds([before], { mostADay: 1 })).toEqual(['full'])
    expect(kinds([before], { mostADay: 2 })).toEqual([])
    const night = { start: at('2026-12-03T06:00'), end: at('2026-12-03T07:00') }
    expect(kinds([asked('ilse')], {}, night)).toEqual(['hours'])
    expect(kinds([asked('ilse')], { stretch: null, earliest: 420 }, night)).toEqual(['bounds'])
    expect(kinds([asked('ilse')], { stretch: null }, night)).toEqual([])
    const hours = [1, 2, 3, 4, 5].flatMap((weekday) => [
      { weekday, from: 480, to: 720 },
      { weekday, from: 780, to: 1020 },
    ])
    const noon = { start: at('2026-12-03T12:00'), end: at('2026-12-03T12:30') }
    expect(kinds([asked('ilse', VIENNA, { hours })], {}, noon)).toEqual(['lunch'])
    expect(kinds([asked('ilse', VIENNA, { hours })], { lunch: false }, noon)).toEqual([])
  })

  it('uses tentative and held time where that is allowed', () => {
    const maybe = asked('ilse', VIENNA, {
      spans: [busy('2026-12-03T10:00', '2026-12-03T11:00', 'tentative')],
    })
    expect(judged([maybe]).fits).toBe(false)
    expect(judged([maybe], { tentative: true }).fits).toBe(true)
  })

  it('tells of the optional too, though they are not in its way', () => {
    const found = judged([asked('ilse'), asked('tashi', VIENNA, { spans: [day] }, false)])
    expect(found.fits).toBe(true)
    expect(found.blockers.map((one) => one.id)).toEqual(['tashi'])
    expect(found.parts.missing).toEqual(['tashi'])
  })

  it('need not lie on the steps of the search', () => {
    const odd = { start: at('2026-12-03T10:07'), end: at('2026-12-03T10:07') + 23 * MINUTE }
    expect(judged([asked('ilse')], {}, odd).fits).toBe(true)
  })

  it('fits only with its places where they must be had', () => {
    const taken = room('Col', { time: { ...room('Col').time, spans: [day] } })
    const need = { ...aRoom, siteId: VIENNA, seats: 1 }
    const given = (must: boolean) =>
      judge(brief([asked('ilse')], { places: rooms([taken], [need], { must }) }), at10)
    expect(given(true)).toMatchObject({ fits: false, places: { lacking: 1 } })
    expect(given(false)).toMatchObject({ fits: true, places: { lacking: 1 } })
  })
})
