import { describe, expect, it } from 'vitest'
import type { LaneTime } from '../availability/index.ts'
import { instantFromText, zoneTable } from '../time/index.ts'
import { teamLane } from './team.ts'

const vienna = zoneTable('Europe/Vienna')
const at = (text: string) => instantFromText('Europe/Vienna', `2026-11-24T${text}`)
const lane = (more: Partial<LaneTime> = {}, ...spans: [string, string, 'busy' | 'listed'][]): LaneTime => ({
  zone: 'Europe/Vienna',
  known: true,
  hours: [{ weekday: 2, from: 9 * 60, to: 17 * 60 }],
  outside: 'outside',
  spans: spans.map(([start, end, state]) => ({ start: at(start), end: at(end), state })),
  ...more,
})
const seen = (...lanes: LaneTime[]) =>
  teamLane(lanes, vienna, at('00:00')).spans.map((span) => [
    new Date(span.start).toISOString().slice(11, 16),
    new Date(span.end).toISOString().slice(11, 16),
    span.state,
    span.title,
  ])

describe('a team as one lane', () => {
  it('is half taken where some are, and taken where all are', () => {
    expect(seen(lane({}, ['09:00', '11:00', 'busy']), lane({}, ['10:00', '12:00', 'busy']))).toEqual([
      ['08:00', '09:00', 'tentative', '1 of 2 taken'],
      ['09:00', '10:00', 'busy', '2 of 2 taken'],
      ['10:00', '11:00', 'tentative', '1 of 2 taken'],
    ])
  })

  it('goes on where one leaves as another comes, and counts nobody twice', () => {
    const one = lane({}, ['09:00', '10:00', 'busy'], ['09:30', '10:00', 'busy'])
    expect(seen(one, lane({}, ['10:00', '11:00', 'busy']))).toEqual([
      ['08:00', '10:00', 'tentative', '1 of 2 taken'],
    ])
  })

  it('leaves out what takes no time, and who is unknown', () => {
    const nothing = lane({ known: false, hours: [] }, ['09:00', '17:00', 'busy'])
    expect(seen(lane({}, ['09:00', '10:00', 'busy'], ['12:00', '13:00', 'listed']), nothing)).toEqual([
      ['08:00', '09:00', 'busy', '1 of 1 taken'],
    ])
    expect(teamLane([nothing, nothing], vienna, at('00:00')).known).toBe(false)
    expect(teamLane([], vienna, at('00:00')).known).toBe(false)
  })

  it('works whenever any of them does, each in their own zone', () => {
    const nairobi = lane({ zone: 'Africa/Nairobi' })
    const night = lane({ zone: 'Pacific/Auckland', hours: [{ weekday: 2, from: 9 * 60, to: 17 * 60 }] })
    expect(teamLane([lane(), nairobi, night], vienna, at('00:00')).hours).toEqual([
      { weekday: 1, from: 21 * 60, to: 1440 },
      { weekday: 2, from: 0, to: 5 * 60 },
      { weekday: 2, from: 7 * 60, to: 17 * 60 },
    ])
  })
})
