import { zoneTable } from '@marmot/core/time'
import { expect, it } from 'vitest'
import type { PlaceLane } from '../resources/resources.ts'
import { standsDuring, stateAt, stateFrom } from './place-state.ts'

const at = (clock: string) => Date.parse(`2026-11-23T${clock}:00Z`)

/** A room in Nairobi, open from 6 to 22 there. */
const tarn = (...taken: [string, string][]): PlaceLane =>
  ({
    name: 'Tarn',
    time: {
      zone: 'Africa/Nairobi',
      known: true,
      hours: [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 360, to: 1320 })),
      outside: 'closed',
      closed: [],
      spans: taken.map(([from, to]) => ({ start: at(from), end: at(to), state: 'busy' as const })),
    },
  }) as unknown as PlaceLane

it('how a place stands is said by the clock of its site, which stands over its lane', () => {
  expect(stateAt(tarn(['09:00', '10:15']), at('09:30'))).toEqual({ words: 'taken until 13:15', free: false })
  expect(stateAt(tarn(['09:00', '10:15']), at('08:00'))).toEqual({ words: 'free until 12:00', free: true })
  expect(standsDuring(tarn(['09:00', '10:15']), { start: at('10:00'), end: at('11:00') })).toBe(
    'taken until 13:15',
  )
  expect(standsDuring(tarn(), { start: at('10:00'), end: at('11:00') })).toBe('')
})

it('on a screen of another clock a time is said to be there; one of the same clock, or none, is not', () => {
  const [vienna, nairobi] = [zoneTable('Europe/Vienna'), zoneTable('Africa/Nairobi')]
  const room = tarn(['09:00', '10:15'])
  expect(stateFrom(room, at('09:30'), vienna)).toBe('taken until 13:15 there')
  expect(stateFrom(room, at('09:30'), nairobi)).toBe('taken until 13:15')
  expect(stateFrom(room, at('12:00'), vienna)).toBe('free')
})
