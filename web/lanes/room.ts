import { useCallback, useState } from 'react'

const LEAST_LANE = 22
const RULER = 21
const GAP = 6

/** How much height an element has, followed as it changes; `taken` pixels of it are for other things. */
export const useRoom = (taken: number) => {
  const [room, setRoom] = useState(440)
  const ref = useCallback(
    (element: HTMLElement | null) => {
      if (!element) return
      const watch = new ResizeObserver(() => setRoom(element.clientHeight - taken))
      watch.observe(element)
      return () => watch.disconnect()
    },
    [taken],
  )
  return { ref, room }
}

/** Makes the lanes as tall as the room allows, up to `most`, so that twelve people fit on one screen. */
export const laneHeight = (
  room: number,
  rows: number,
  rulers: number,
  most: number,
  least = LEAST_LANE,
): number => Math.max(least, Math.min(most, Math.floor((room - rulers * RULER) / Math.max(1, rows)) - GAP))

/** Lanes lower than this have their words on one line. */
export const TWO_LINES = 28
