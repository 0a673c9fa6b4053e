import { memo, type ReactNode, type RefObject, startTransition, useEffect, useRef, useState } from 'react'

/** So many lanes are a piece. */
const SIZE = 10
/** So many, the first, are drawn before it is known what is in sight. */
const AT_ONCE = 20
/** Lanes are drawn this far beyond what is in sight, in pixels, so that scrolling meets them ready. */
const AHEAD_PX = 900

const scroller = (element: HTMLElement): HTMLElement | null => {
  for (let at = element.parentElement; at; at = at.parentElement)
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at
  return null
}

const known = new Map<Element | null, HTMLElement | null>()

/** The scroller of one of many that stand beside each other: looked for once for all that appear in the same moment. */
const scrollerOf = (element: HTMLElement): HTMLElement | null => {
  const { parentElement } = element
  const found = known.get(parentElement)
  if (found !== undefined) return found
  const root = scroller(element)
  if (known.size === 0) queueMicrotask(() => known.clear())
  known.set(parentElement, root)
  return root
}

type Watching = {
  readonly observer: IntersectionObserver
  readonly told: Map<Element, (near: boolean) => void>
}

/** One observer for all pieces in the same scroller: the browser works through each of its observers for every frame. */
const watching = new Map<HTMLElement | null, Watching>()

const watch = (element: HTMLElement, tell: (near: boolean) => void): (() => void) => {
  const root = scrollerOf(element)
  let one = watching.get(root)
  if (!one) {
    const told: Watching['told'] = new Map()
    const observer = new IntersectionObserver(
      (seen) => {
        // The last that is said of an element counts. What comes near is drawn beside the scrolling, not in its way.
        startTransition(() => {
          for (const each of seen) told.get(each.target)?.(each.isIntersecting)
        })
      },
      { root, rootMargin: `${AHEAD_PX}px 0px` },
    )
    one = { observer, told }
    watching.set(root, one)
  }
  const { observer, told } = one
  told.set(element, tell)
  observer.observe(element)
  return () => {
    told.delete(element)
    observer.unobserve(element)
    if (told.size > 0) return
    observer.disconnect()
    watching.delete(root)
  }
}

interface ChunkProps<Row> {
  rows: readonly Row[]
  /** How many come before it on the board. */
  from: number
  /** What else it is drawn from: the same as long as nothing of it changes. */
  stamp: unknown
  draw: RefObject<(row: Row, index: number) => ReactNode>
  /** These are about to be drawn. */
  onNear: (rows: readonly Row[]) => void
}

/**
 * A piece of very many lanes, drawn only near what is in sight; elsewhere it is as tall as its lanes would be. Six hundred lanes
 * are some ten thousand elements, which would be laid out, hit-tested and layered for each frame. It is drawn anew when its
 * `rows` are others or `stamp` is another, and not for a change elsewhere on the board.
 */
const Chunk = memo(<Row,>({ rows, from, draw, onNear }: ChunkProps<Row>) => {
  const ref = useRef<HTMLDivElement>(null)
  const [near, setNear] = useState(from < AT_ONCE)
  useEffect(() => {
    if (near) onNear(rows)
  }, [near, rows, onNear])
  useEffect(() => (ref.current ? watch(ref.current, setNear) : undefined), [])
  return (
    <div
      ref={ref}
      role="presentation"
      style={near ? undefined : { height: `calc(${rows.length} * (var(--lane) + 6px))` }}
    >
      {near && rows.map((row, i) => draw.current(row, from + i + 1))}
    </div>
  )
}) as <Row>(props: ChunkProps<Row>) => ReactNode

/** Very many lanes, in pieces: the same ones as before where they hold the same lanes. */
export const Chunks = <Row,>({ rows, from, ...drawing }: ChunkProps<Row>) => {
  const before = useRef(new Map<Row, readonly Row[]>())
  const next = new Map<Row, readonly Row[]>()
  const chunks = chunksOf(rows, SIZE).map((chunk) => {
    const [first] = chunk
    if (first === undefined) return chunk
    const known = before.current.get(first)
    const kept = known?.length === chunk.length && known.every((one, i) => one === chunk[i]) ? known : chunk
    next.set(first, kept)
    return kept
  })
  before.current = next
  return chunks.map((chunk, i) => {
    const at = from + i * SIZE
    return <Chunk key={at} rows={chunk} from={at} {...drawing} />
  })
}

/** Pieces of at most `size`, in order. */
export const chunksOf = <Item,>(items: readonly Item[], size: number): Item[][] =>
  Array.from({ length: Math.ceil(items.length / size) }, (_, i) => items.slice(i * size, (i + 1) * size))
