import { describe, expect, it } from 'vitest'
import { instantFromText, zoneTable } from '../time/index.ts'
import {
  type BusySpan,
  during,
  duringInWords,
  groundOf,
  type LaneTime,
  nextFree,
  stretchOf,
  workingSpans,
} from './index.ts'

const vienna = zoneTable('Europe/Vienna')
const at = (text: string, zone = 'Europe/Vienna') => instantFromText(zone, text)
const span = (from: string, to: string) => ({ start: at(from), end: at(to) })

const week = [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1020 }))
const lane = (more: Partial<LaneTime> = {}): LaneTime => ({
  zone: 'Europe/Vienna',
  known: true,
  hours: week,
  spans: [],
  outside: 'outside',
  ...more,
})

describe('the ground of a lane', () => {
  it('covers every moment once, open inside working hours', () => {
    const from = at('2026-11-27T00:00')
    const to = at('2026-11-29T00:00')
    const ground = groundOf(lane(), vienna, from, to)
    expect(ground.map((part) => part.state)).toEqual(['outside', 'open', 'outside'])
    expect(ground[0]?.start).toBe(from)
    expect(ground.at(-1)?.end).toBe(to)
    expect(ground.slice(1).map((part) => part.start)).toEqual(ground.slice(0, -1).map((part) => part.end))
  })

  it('is unknown for somebody who shares nothing, and never open', () => {
    const ground = groundOf(lane({ known: false }), vienna, at('2026-11-27T00:00'), at('2026-11-28T00:00'))
    expect(ground.map((part) => part.state)).toEqual(['unknown'])
  })

  it('is unknown where a calendar says something that was not understood, and free beside it', () => {
    const half = lane({ unknown: [span('2026-11-27T10:00', '2026-11-27T12:00')] })
    const ground = groundOf(half, vienna, at('2026-11-27T09:00'), at('2026-11-27T13:00'))
    expect(ground.map((part) => part.state)).toEqual(['open', 'unknown', 'open'])
    expect(during(half, vienna, span('2026-11-27T11:00', '2026-11-27T13:00')).state).toBe('unknown')
    expect(during(half, vienna, span('2026-11-27T12:00', '2026-11-27T13:00')).state).toBe('free')
  })

  it('has no lane where a place is shut, with the reason', () => {
    const closed = [{ ...span('2026-11-27T10:00', '2026-11-27T12:00'), reason: 'in repair' }]
    const ground = groundOf(
      lane({ outside: 'closed', closed }),
      vienna,
      at('2026-11-27T08:00'),
      at('2026-11-27T17:00'),
    )
    expect(ground.map((part) => [part.state, part.reason])).toEqual([
      ['open', undefined],
      ['closed', 'in repair'],
      ['open', undefined],
    ])
  })

  it('follows a night shift into the next day, and the hour that daylight saving takes', () => {
    const night = [{ weekday: 6, from: 1200, to: 1680 }]
    const [shift] = workingSpans(night, vienna, at('2027-03-27T00:00'), at('2027-03-29T00:00'))
    // 20:00 to 04:00 on the clock, but the night of the change has only seven hours.
    expect(shift).toEqual(span('2027-03-27T20:00', '2027-03-28T04:00'))
    expect(((shift?.end ?? 0) - (shift?.start ?? 0)) / 3_600_000).toBe(7)
  })
})

describe('how a lane stands during a time', () => {
  const chosen = span('2026-11-27T14:00', '2026-11-27T15:00')

  it('is free inside hours, and says how far it stretches outside', () => {
    expect(during(lane(), vienna, chosen)).toMatchObject({ state: 'free', stretch: 0 })
    const late = during(lane(), vienna, span('2026-11-27T16:30', '2026-11-27T17:45'))
    expect(late).toMatchObject({ state: 'stretch', stretch: 45 })
    expect(duringInWords(late, vienna)).toBe('free, 45 min outside hours')
  })

  it('counts the way to the nearest worked minute when none is worked', () => {
    expect(during(lane(), vienna, span('2026-11-27T05:30', '2026-11-27T06:00')).stretch).toBe(150)
    expect(stretchOf([], chosen)).toBe(Number.POSITIVE_INFINITY)
  })

  it('tells lunch from the end of the day', () => {
    const hours = [1, 2, 3, 4, 5].flatMap((weekday) => [
      { weekday, from: 480, to: 720 },
      { weekday, from: 780, to: 1020 },
    ])
    const noon = during(lane({ hours }), vienna, span('2026-11-27T11:30', '2026-11-27T13:30'))
    expect(noon).toMatchObject({ state: 'stretch', stretch: 0, lunch: 60 })
    expect(duringInWords(noon, vienna)).toBe('free, 1 h of lunch')
  })

  it.each([
    ['busy', 'busy until 14:30'],
    ['held', 'held until 14:30'],
    ['tentative', 'perhaps busy until 14:30'],
    ['away', 'away until 14:30'],
  ] as const)('tells who is %s and until when', (state, words) => {
    const spans = [{ ...span('2026-11-27T13:30', '2026-11-27T14:30'), state }]
    expect(duringInWords(during(lane({ spans }), vienna, chosen), vienna)).toBe(words)
  })

  it('tells what blocks most, and is not blocked by what is only listed or just touches', () => {
    const spans = [
      { ...span('2026-11-27T14:00', '2026-11-27T15:00'), state: 'tentative' as const },
      { ...span('2026-11-25T00:00', '2026-12-01T00:00'), state: 'away' as const },
    ]
    expect(duringInWords(during(lane({ spans }), vienna, chosen), vienna)).toBe('away until Mon 30 Nov')
    const beside = [
      { ...span('2026-11-27T13:00', '2026-11-27T14:00'), state: 'busy' as const },
      { ...span('2026-11-27T15:00', '2026-11-27T16:00'), state: 'busy' as const },
      { ...span('2026-11-27T00:00', '2026-11-28T00:00'), state: 'listed' as const },
    ]
    expect(during(lane({ spans: beside }), vienna, chosen).state).toBe('free')
  })

  it('tells of somebody who is away that they are, whatever else stands there', () => {
    const spans = ['busy', 'held', 'tentative', 'away'].map((state) => ({
      ...span('2026-11-27T13:00', '2026-11-27T15:00'),
      state: state as 'busy',
    }))
    expect(during(lane({ spans }), vienna, chosen).state).toBe('away')
    expect(during(lane({ spans: spans.slice(0, 3) }), vienna, chosen).state).toBe('busy')
  })

  it('never calls the unknown free', () => {
    expect(duringInWords(during(lane({ known: false }), vienna, chosen), vienna)).toBe(
      'unknown: shares no times',
    )
  })
})

describe('when somebody is free next', () => {
  const next = (from: string, spans: readonly BusySpan[], minutes = 30, more: Partial<LaneTime> = {}) => {
    const found = nextFree(lane({ spans, ...more }), vienna, at(from), at('2026-12-01T00:00'), minutes)
    return found === null ? null : new Date(found).toISOString()
  }
  const taken = (from: string, to: string, state: BusySpan['state'] = 'busy'): BusySpan => ({
    ...span(from, to),
    state,
  })

  it('is now, where nothing is in the way', () => {
    expect(next('2026-11-27T09:00', [])).toBe('2026-11-27T08:00:00.000Z')
  })

  it('is after what is in the way, and not in too short a gap', () => {
    const blocks = [
      taken('2026-11-27T09:00', '2026-11-27T10:00'),
      taken('2026-11-27T10:20', '2026-11-27T11:00'),
    ]
    expect(next('2026-11-27T09:00', blocks, 30)).toBe('2026-11-27T10:00:00.000Z')
    expect(next('2026-11-27T09:00', blocks, 20)).toBe('2026-11-27T09:00:00.000Z')
  })

  it('is within working hours: on Monday, from Friday evening on', () => {
    expect(next('2026-11-27T16:45', [])).toBe('2026-11-30T07:00:00.000Z')
  })

  it('is not kept by what takes no time, but by what nobody could read', () => {
    expect(next('2026-11-27T09:00', [taken('2026-11-27T08:00', '2026-11-27T17:00', 'listed')])).toBe(
      '2026-11-27T08:00:00.000Z',
    )
    const half = { unknown: [span('2026-11-27T09:00', '2026-11-27T12:00')] }
    expect(next('2026-11-27T09:00', [], 30, half)).toBe('2026-11-27T11:00:00.000Z')
  })

  it('is nothing that is known of somebody who shares nothing, or who is away all along', () => {
    expect(next('2026-11-27T09:00', [], 30, { known: false })).toBeNull()
    expect(next('2026-11-27T09:00', [taken('2026-11-27T00:00', '2026-12-02T00:00', 'away')])).toBeNull()
  })
})
