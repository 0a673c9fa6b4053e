import 'temporal-polyfill/global'
import { answering, BadBrief, type Progress, type SearchBrief } from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'

/** What the page asks: a brief with everything it needs. A newer question stops the one before. */
export interface Question {
  readonly id: number
  readonly brief: SearchBrief
  readonly organizerId: string
  readonly knownTo: Instant
}

/** What comes back, as often as there is something to say; `share` 1 is the last. */
export type Told =
  | ({ readonly id: number } & Progress)
  | { readonly id: number; readonly refused: { readonly code: string; readonly detail: string } }

const TELL_EVERY = 80
let newest = 0

/** Lets the messages that wait be heard between two steps. */
const pause = () =>
  new Promise<void>((resolve) => {
    const channel = new MessageChannel()
    channel.port1.onmessage = () => resolve()
    channel.port2.postMessage(null)
  })

const search = async ({ id, brief, organizerId, knownTo }: Question): Promise<void> => {
  const tell = (told: Told) => postMessage(told)
  try {
    const steps = answering(brief, organizerId, knownTo)
    let told = Number.NEGATIVE_INFINITY
    while (id === newest) {
      const { done, value } = steps.next()
      if (done) return tell({ id, share: 1, answer: value })
      if (performance.now() - told > TELL_EVERY) {
        tell({ id, ...value })
        told = performance.now()
        await pause()
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
