import type { LaneTime } from '@marmot/core/availability'
import { zoneTable } from '@marmot/core/time'
import { expect, it } from 'vitest'
import { nowWords } from './directory.tsx'

const NOW = Date.parse('2026-11-23T08:00:00Z')

const THERE = zoneTable('Asia/Kathmandu')

const kathmandu = (...spans: LaneTime['spans']): LaneTime => ({
  zone: 'Asia/Kathmandu',
  known: true,
  hours: [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 540, to: 1020 })),
  outside: 'outside',
  spans,
})
const busy = (from: string, to: string) => ({
  start: Date.parse(`2026-11-23T${from}:00Z`),
  end: Date.parse(`2026-11-23T${to}:00Z`),
  state: 'busy' as const,
})

it('how somebody stands is said by the clock that stands over their lane', () => {
  expect(nowWords(kathmandu(busy('09:00', '10:00')), NOW, THERE)).toBe('free until 14:45')
  expect(nowWords(kathmandu(busy('07:30', '08:30')), NOW, THERE)).toBe('busy until 14:15, free at 14:15')
})

it('another day is another day there: at their midnight it is still this one here', () => {
  const late = Date.parse('2026-11-23T18:30:00Z')
  expect(nowWords(kathmandu(), late, THERE)).toBe('not at work, free at 09:00')
})

it('of somebody who works elsewhere, by the clock of the site under which they stand', () => {
  expect(nowWords(kathmandu(busy('09:00', '10:00')), NOW, zoneTable('Europe/Vienna'))).toBe(
    'free until 10:00',
  )
})
