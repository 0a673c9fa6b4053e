import type { LaneTime } from '@marmot/core/availability'
import { type Asked, answering, BadBrief, type Progress, type SearchBrief } from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'

/**
 * What the page asks: a brief with everything it needs. A newer question stops the one before. Lanes travel once, each
 * under a number of its own: while one changes the brief, their rows are here already.
 */
export interface Question {
  readonly id: number
  readonly brief: Omit<SearchBrief, 'people'> & {
    readonly people: readonly (Omit<Asked, 'time'> & { lane: number })[]
  }
  readonly lanes: readonly (readonly [number: number, time: LaneTime])[]
  readonly organizerId: string
  readonly knownTo: Instant
}

/** What comes back, as often as there is something to say; `share` 1 is the last. */
export type Told =
  | ({ readonly id: number } & Progress)
  | { readonly id: number; readonly refused: { readonly code: string; readonly detail: string } }

const TELL_EVERY = 80
let newest = 0
let lanes = new Map<number, LaneTime>()

/** Takes in the lanes that came along and lets those go that nobody asks for any more. */
const peopleOf = (question: Question): Asked[] => {
  const held = new Map([...lanes, ...question.lanes])
  lanes = new Map()
  return question.brief.people.flatMap(({ lane, ...one }) => {
    const time = held.get(lane)
    if (!time) return []
    lanes.set(lane, time)
    return [{ ...one, time }]
  })
}

/** Lets the messages that wait be heard between two steps. */
const pause = () =>
  new Promise<void>((resolve) => {
    const channel = new MessageChannel()
    channel.port1.onmessage = () => resolve()
    channel.port2.postMessage(null)
  })

const search = async (question: Question): Promise<void> => {
  const { id, organizerId, knownTo } = question
  const tell = (told: Told) => postMessage(told)
  try {
    const brief = { ...question.brief, people: peopleOf(question) }
    const steps = answering(brief, organizerId, knownTo)
    let told = Number.NEGATIVE_INFINITY
    let paused = performance.now()
    while (id === newest) {
      const { done, value } = steps.next()
      if (done) return tell({ id, share: 1, answer: value })
      if (value && performance.now() - told > TELL_EVERY) {
        tell({ id, ...value })
        told = performance.now()
      }
      if (performance.now() - paused > TELL_EVERY) {
        await pause()
        paused = performance.now()
      }
    }
  } catch (error) {
    if (!(error instanceof BadBrief)) throw error
    tell({ id, refused: { code: error.code, detail: error.message } })
  }
}

addEventListener('message', ({ data }: MessageEvent<Question | { stop: true }>) => {
  if ('stop' in data) newest = -1
  else {
    newest = data.id
    search(data)
  }
})
