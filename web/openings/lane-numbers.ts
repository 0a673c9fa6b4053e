import type { LaneTime } from '@marmot/core/availability'
import type { SearchBrief } from '@marmot/core/openings'
import type { Question } from './search.worker.ts'

/** Gives each lane a number, and says which of a brief's the worker has not got from the question before. */
export const laneNumbers = () => {
  const numbers = new WeakMap<LaneTime, number>()
  let last = 0
  let there = new Set<number>()
  return ({ people, ...rest }: SearchBrief): Pick<Question, 'brief' | 'lanes'> => {
    const lanes: [number, LaneTime][] = []
    const now = new Set<number>()
    const asked = people.map(({ time, ...one }) => {
      const lane = numbers.get(time) ?? ++last
      numbers.set(time, lane)
      if (!there.has(lane) && !now.has(lane)) lanes.push([lane, time])
      now.add(lane)
      return { ...one, lane }
    })
    there = now
    return { brief: { ...rest, people: asked }, lanes }
  }
}
