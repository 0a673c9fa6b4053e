import { useSyncExternalStore } from 'react'
import type { Given } from './answer-form.tsx'

/** An answer that was given while Marmot could not be reached, and waits on this device. */
export interface Waiting {
  readonly id: string
  readonly personId: string
  readonly entryId: string
  readonly recurrence: string | null
  readonly title: string
  readonly answer: Given
  readonly message: string
  readonly quiet: boolean
  /** When it was given, as an instant in ISO 8601, and which version of the meeting was seen then. */
  readonly given: string
  readonly version: number
  /** Why it was not taken when it came there at last; null as long as it waits. To when the meeting was moved, if it was. */
  readonly refused: {
    readonly words: string
    readonly start: string | null
    readonly end: string | null
  } | null
}

let waiting: readonly Waiting[] = []
const watchers = new Set<() => void>()

/** Shows these as the answers that wait; called by whoever keeps them. */
export const showWaiting = (next: readonly Waiting[]): void => {
  waiting = next
  for (const watcher of watchers) watcher()
}

const watch = (watcher: () => void) => {
  watchers.add(watcher)
  return () => {
    watchers.delete(watcher)
  }
}

/** The answers on this device that wait for a connection, or were refused when they came. */
export const useWaiting = (): readonly Waiting[] => useSyncExternalStore(watch, () => waiting)
