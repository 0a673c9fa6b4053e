import type { Todo } from '@marmot/contract/todo'
import { useSyncExternalStore } from 'react'

let carried: Todo | null = null
const told = new Set<() => void>()

/** The to-do that is being dragged, from the sheet to the days: what a browser drags tells no page what it is before it is let go. */
export const carry = (todo: Todo | null): void => {
  carried = todo
  for (const tell of told) tell()
}

export const useCarried = (): Todo | null =>
  useSyncExternalStore(
    (tell) => {
      told.add(tell)
      return () => told.delete(tell)
    },
    () => carried,
  )
