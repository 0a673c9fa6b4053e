import { describe, expect, it } from 'vitest'
import { toWall, zoneTable } from '../time/index.ts'
import { offSpans } from './index.ts'

const vienna = zoneTable('Europe/Vienna')
const day = (text: string): number => Date.parse(text) / 86_400_000
const off = (name: string, first: string, last = first) => ({ name, first: day(first), last: day(last) })
const none = new Set<number>()
const said = (spans: ReturnType<typeof offSpans>, table = vienna) =>
  spans.map((span) => [
    span.title,
    new Date(toWall(table, span.start)).toISOString().slice(0, 16),
    new Date(toWall(table, span.end)).toISOString().slice(0, 16),
  ])

describe('days off on a lane', () => {
  it('are whole days of the lane’s own zone, away, also where a clock changes', () => {
    const spans = offSpans([off('Epiphany', '2027-01-06'), off('Clocks', '2027-03-28')], none, vienna)
    expect(said(spans)).toEqual([
      ['Epiphany', '2027-01-06T00:00', '2027-01-07T00:00'],
      ['Clocks', '2027-03-28T00:00', '2027-03-29T00:00'],
    ])
    expect(spans.map((span) => (span.end - span.start) / 3_600_000)).toEqual([24, 23])
    expect(spans.every((span) => span.state === 'away' && span.dayOff)).toBe(true)
    const kathmandu = zoneTable('Asia/Kathmandu')
    expect(said(offSpans([off('Losar', '2027-02-07')], none, kathmandu), kathmandu)).toEqual([
      ['Losar', '2027-02-07T00:00', '2027-02-08T00:00'],
    ])
  })

  it('are one where they overlap, called by both, and apart where they follow one another', () => {
    const days = [
      off('Boxing Day', '2026-12-26'),
      off('Stocktaking', '2026-12-25'),
      off('Christmas Day', '2026-12-25'),
      off('Christmas Day', '2026-12-25'),
      off('Eid', '2026-12-25'),
    ]
    expect(said(offSpans(days, none, vienna)).map(([title]) => title)).toEqual([
      'Stocktaking, Christmas Day and 1 more',
      'Boxing Day',
    ])
    const closing = [off('Christmas Day', '2026-12-25'), off('Winter break', '2026-12-24', '2027-01-03')]
    expect(said(offSpans(closing, none, vienna))).toEqual([
      ['Winter break and Christmas Day', '2026-12-24T00:00', '2027-01-04T00:00'],
    ])
  })

  it('leave out the days on which somebody works', () => {
    const worked = new Set(['2026-12-24', '2026-12-28', '2027-01-03', '2027-06-01'].map(day))
    const spans = offSpans([off('Winter break', '2026-12-24', '2027-01-03')], worked, vienna)
    expect(said(spans).map(([, start, end]) => [start?.slice(0, 10), end?.slice(0, 10)])).toEqual([
      ['2026-12-25', '2026-12-28'],
      ['2026-12-29', '2027-01-03'],
    ])
    expect(offSpans([off('One', '2026-12-24')], worked, vienna)).toEqual([])
  })
})
