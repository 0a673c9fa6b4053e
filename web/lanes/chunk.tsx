import { type ReactNode, useEffect, useRef, useState } from 'react'

/** Lanes are drawn this far beyond what is in sight, in pixels, so that scrolling meets them ready. */
const AHEAD_PX = 900

const scroller = (element: HTMLElement): HTMLElement | null => {
  for (let at = element.parentElement; at; at = at.parentElement)
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at
  return null
}

/**
 * A piece of very many lanes, drawn only near what is in sight; elsewhere it is as tall as its `count` lanes would be. Six
 * hundred lanes are some ten thousand elements, which would be laid out, hit-tested and layered for each frame.
 */
export const Chunk = ({
  count,
  onNear,
  children,
}: {
  count: number
  /** Its lanes are about to be drawn. */
  onNear: () => void
  children: () => ReactNode
}) => {
  const ref = useRef<HTMLDivElement>(null)
  const [near, setNear] = useState(false)
  const told = useRef(onNear)
  told.current = onNear
  useEffect(() => {
    if (near) told.current()
  }, [near])
  useEffect(() => {
    const element = ref.current
    if (!element) return
    const watch = new IntersectionObserver((seen) => setNear(seen.some((each) => each.isIntersecting)), {
      root: scroller(element),
      rootMargin: `${AHEAD_PX}px 0px`,
    })
    watch.observe(element)
    return () => watch.disconnect()
  }, [])
  return (
    <div
      ref={ref}
      role="presentation"
      style={near ? undefined : { height: `calc(${count} * (var(--lane) + 6px))` }}
    >
      {near && children()}
    </div>
  )
}

/** Pieces of at most `size`, in order. */
export const chunksOf = <Item,>(items: readonly Item[], size: number): Item[][] =>
  Array.from({ length: Math.ceil(items.length / size) }, (_, i) => items.slice(i * size, (i + 1) * size))
