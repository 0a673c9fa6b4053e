import type { BusySpan, LaneTime } from '@marmot/core/availability'
import { dayFromCivil, instantFromText, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import type { KnownLayer } from '../availability/layers.ts'
import { dayRows, hoursShown, weekRows } from './day-rows.tsx'

const vienna = zoneTable('Europe/Vienna')
const at = (text: string) => instantFromText('Europe/Vienna', text)
const day = (month: number, date: number, year = 2026) => dayFromCivil(year, month, date) ?? 0
const busy = (from: string, to: string, state: BusySpan['state'] = 'busy'): BusySpan => ({
  start: at(from),
  end: at(to),
  state,
})
const lane = (spans: readonly BusySpan[]): LaneTime => ({
  zone: 'Europe/Vienna',
  known: true,
  hours: [],
  spans,
  outside: 'outside',
})
const chosen = { shownFrom: 7 * 60, shownTo: 20 * 60 }
const given = (spans: readonly BusySpan[], more = {}) => ({
  lens: { first: day(11, 23), days: 7 },
  zone: vienna,
  today: day(11, 23),
  lane: lane(spans),
  shown: { from: 7 * 60, to: 20 * 60 },
  layers: [],
  over: false,
  ...more,
})

describe('the hours shown', () => {
  it('are those that were chosen', () => {
    expect(hoursShown([], chosen, vienna)).toEqual({ from: 420, to: 1200 })
    expect(hoursShown([busy('2026-11-23T09:00', '2026-11-23T10:00')], chosen, vienna)).toEqual({
      from: 420,
      to: 1200,
    })
  })

  it('reach out to what stands outside them, by whole hours, past midnight too', () => {
    const spans = [busy('2026-11-23T05:50', '2026-11-23T06:20'), busy('2026-11-24T22:00', '2026-11-25T01:30')]
    expect(hoursShown(spans, chosen, vienna)).toEqual({ from: 300, to: 26 * 60 })
  })

  it('do not stretch for whole days and for what is only listed', () => {
    const spans = [
      busy('2026-11-23T00:00', '2026-11-24T00:00'),
      busy('2026-11-23T03:00', '2026-11-23T03:30', 'listed'),
    ]
    expect(hoursShown(spans, chosen, vienna)).toEqual({ from: 420, to: 1200 })
  })
})

describe('a lane for each day', () => {
  it('has what can be seen of it, today known', () => {
    const lunch = busy('2026-11-24T12:00', '2026-11-24T13:00')
    const trip = busy('2026-11-25T15:00', '2026-11-27T09:00', 'away')
    const night = busy('2026-11-26T22:00', '2026-11-26T23:00')
    const rows = dayRows(given([lunch, trip, night]))
    expect(rows.map((row) => row.id)).toEqual(Array.from({ length: 7 }, (_, i) => String(day(11, 23 + i))))
    expect(rows.map((row) => row.time.spans)).toEqual([[], [lunch], [trip], [trip], [trip], [], []])
    expect(rows.map((row) => row.today)).toEqual([true, false, false, false, false, false, false])
    expect(rows[1]?.name).toBe('Tuesday 24 November')
  })

  it('shows an hour past midnight on the evening that it belongs to', () => {
    const late = busy('2026-11-25T00:30', '2026-11-25T01:00')
    const rows = dayRows(given([late], { shown: { from: 420, to: 26 * 60 } }))
    expect(rows.flatMap((row, i) => (row.time.spans.length ? i : []))).toEqual([1])
  })

  it('has others’ lanes under it, to look at only, or laid over it', () => {
    const layer: KnownLayer = {
      kind: 'person',
      id: 'tashi',
      tone: 3,
      shown: true,
      name: 'Tashi Lhendup',
      about: 'busy times',
      colour: 'teal',
      time: lane([]),
    }
    const beside = dayRows(given([], { layers: [layer], lens: { first: day(11, 23), days: 2 } }))
    expect(beside.map((row) => [row.name, row.still ?? false])).toEqual([
      ['Monday 23 November', false],
      ['Tashi Lhendup, Mon 23 Nov', true],
      ['Tuesday 24 November', false],
      ['Tashi Lhendup, Tue 24 Nov', true],
    ])
    const over = dayRows(given([], { layers: [layer], over: true, lens: { first: day(11, 23), days: 2 } }))
    expect(over.map((row) => row.over)).toEqual([[layer], [layer]])
  })
})

describe('a lane for each week', () => {
  it('has its days beside one another with their dates, every day of the year once', () => {
    const rows = weekRows(given([], { lens: { first: day(11, 23), days: 53 * 7 } }))
    expect(rows).toHaveLength(53)
    const dates = rows.flatMap((row) => row.marks?.map((mark) => mark.words) ?? [])
    expect(dates).toHaveLength(53 * 7)
    expect(dates.slice(0, 9)).toEqual(['23 today', '24', '25', '26', '27', '28', '29', '30', '1'])
    expect(rows.filter((row) => row.today).map((row) => row.id)).toEqual([`week ${day(11, 23)}`])
    expect(rows[0]?.marks?.map((mark) => mark.weekend)).toEqual([
      false,
      false,
      false,
      false,
      false,
      true,
      true,
    ])
  })

  it('draws each entry of the week once, however many days it lasts', () => {
    const trip = busy('2026-11-24T15:00', '2026-12-02T09:00', 'away')
    const [first, second, third] = weekRows(given([trip], { lens: { first: day(11, 23), days: 21 } }))
    expect([first, second, third].map((row) => row?.time.spans)).toEqual([[trip], [trip], []])
  })
})
