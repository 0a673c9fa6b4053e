import type { Instant } from '@marmot/core/time'
import { useSyncExternalStore } from 'react'

/** The moment under the pointer. Kept outside React's tree, so that following it draws only the line and its hours. */
export const createPlumb = () => {
  let at: Instant | null = null
  const listeners = new Set<() => void>()
  return {
    set: (next: Instant | null) => {
      if (next === at) return
      at = next
      for (const listener of listeners) listener()
    },
    get: () => at,
    subscribe: (listener: () => void) => {
      listeners.add(listener)
      return () => {
        listeners.delete(listener)
      }
    },
  }
}

export type Plumb = ReturnType<typeof createPlumb>

export const usePlumb = (plumb: Plumb): Instant | null => useSyncExternalStore(plumb.subscribe, plumb.get)
