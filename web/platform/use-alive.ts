import { type RefObject, useEffect, useRef } from 'react'

/** Whether what asks is still on the screen: a sheet that gave way to another while it was saving closes nothing any more. */
export const useAlive = (): RefObject<boolean> => {
  const alive = useRef(true)
  useEffect(() => {
    alive.current = true
    return () => {
      alive.current = false
    }
  }, [])
  return alive
}
