import { z } from 'zod'

/** No frame may take longer, in milliseconds: a hitch that a hand on the mouse feels. */
const BUDGET_FRAME_MS = 32

export const met = (does: boolean): string => (does ? 'met' : 'NOT MET')

/** The best of several rounds, in milliseconds: what the machine can do when nobody disturbs it. */
export const best = async (rounds: number, work: () => unknown): Promise<number> => {
  let least = Number.POSITIVE_INFINITY
  for (let i = 0; i < rounds; i++) least = Math.min(least, await timed(work))
  return least
}

export const timed = async (work: () => unknown): Promise<number> => {
  const start = performance.now()
  await work()
  return performance.now() - start
}

const inOrder = (values: readonly number[]): number[] => [...values].sort((a, b) => a - b)

export const median = (values: readonly number[]): number => inOrder(values)[values.length >> 1] ?? 0

/** The value below which a share (0 to 1) of all lie. */
export const quantile = (values: readonly number[], share: number): number =>
  inOrder(values)[Math.min(values.length - 1, Math.floor(values.length * share))] ?? 0

/** What a page answers that was asked for the milliseconds between its frames. */
export const framesOf = (answer: unknown): number[] => z.array(z.number()).parse(answer)

/** Says how long frames took and gives whether none took too long. */
export const tellFrames = (name: string, frames: readonly number[], size: string): boolean => {
  const over = frames.filter((each) => each > BUDGET_FRAME_MS).length
  console.log(
    `${name.padEnd(24)}${frames.length} frames: median ${median(frames).toFixed(1)} ms, 99 of 100 under ${quantile(frames, 0.99).toFixed(1)} ms, longest ${Math.max(...frames).toFixed(1)} ms, ${over} over ${BUDGET_FRAME_MS} ms; budget none: ${met(over === 0)}   (${size})`,
  )
  return over === 0
}
