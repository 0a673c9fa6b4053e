import { type ReactNode, useEffect, useRef, useState } from 'react'

/** So far below what is seen something is made already, in pixels. */
const AHEAD = '300px'

/** Makes its content once it comes into sight, or nearly: a long list costs what one sees of it. Until then its place is kept. */
export const WhenSeen = ({ height, children }: { height: number; children: ReactNode }) => {
  const [seen, setSeen] = useState(() => typeof IntersectionObserver === 'undefined')
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (seen || !place.current) return
    const observer = new IntersectionObserver(
      (entries) => entries.some((entry) => entry.isIntersecting) && setSeen(true),
      { rootMargin: AHEAD },
    )
    observer.observe(place.current)
    return () => observer.disconnect()
  }, [seen])
  return seen ? children : <div ref={place} style={{ minHeight: height }} />
}
