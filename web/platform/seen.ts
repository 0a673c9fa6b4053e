import { useSyncExternalStore } from 'react'

/**
 * What is kept of the answers that the server gave, for when it cannot be reached: who I am, what needs me, how my days are
 * drawn, and the meetings and entries that I looked at.
 */
const KEPT =
  /^\/api\/(?:session|now|categories|sharing|layers|(?:meetings|entries)\/[\da-f]{8}-[\da-f-]{27}(?:\?.*)?)$/

/** An answer of the server, and when it came by this device's clock, in milliseconds. */
export interface Seen {
  readonly json: unknown
  readonly at: number
}

type Heard = (address: string, seen: Seen) => void

/** What came before anybody kept it: the first screen does not wait for that. */
const early = new Map<string, Seen>()
let keeper: Heard | null = null

let asOf: number | null = null
const watchers = new Set<() => void>()
const setAsOf = (next: number | null): void => {
  if (next === asOf) return
  asOf = next
  for (const watcher of watchers) watcher()
}

/** Says that the server gave an answer just now: whatever is shown is no more from before. */
export const noteAnswer = (address: string, json: unknown): void => {
  setAsOf(null)
  // What is somebody else's, seen as their stand-in, is not kept on my device.
  if (!KEPT.test(address) || /[?&]of=/.test(address)) return
  const seen = { json, at: Date.now() }
  if (keeper) keeper(address, seen)
  else early.set(address, seen)
}

/** Says that an answer from before is shown, which came at an instant. The oldest of them counts. */
export const noteFromBefore = (at: number): void => setAsOf(asOf === null ? at : Math.min(asOf, at))

/** Hands everything over that is worth keeping, also what came before. Gives how to stop. */
export const onAnswers = (heard: Heard): (() => void) => {
  keeper = heard
  for (const [address, seen] of early) heard(address, seen)
  early.clear()
  return () => {
    keeper = null
  }
}

const watch = (watcher: () => void) => {
  watchers.add(watcher)
  return () => {
    watchers.delete(watcher)
  }
}

/** When what is shown was last seen, by this device's clock, while it is from before; null while it is as it is. */
export const useAsOf = (): number | null => useSyncExternalStore(watch, () => asOf)
