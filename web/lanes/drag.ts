import type { BusySpan, Span } from '@marmot/core/availability'
import { type Instant, MINUTE, type ZoneTable } from '@marmot/core/time'
import { type PointerEvent, type RefObject, useRef, useState } from 'react'
import { type Axis, snap } from './axis.ts'
import type { Plumb } from './plumb.ts'
import type { BoardProps, BoardRow, Chosen } from './types.ts'

type Mode = 'move' | 'start' | 'end' | 'new' | 'press'

export interface Drag {
  readonly mode: Mode
  readonly row: BoardRow
  readonly span: BusySpan | null
  /** Where in the time it was grabbed, in milliseconds from its start. */
  readonly grip: number
  readonly origin: Chosen | null
  readonly from: { readonly x: number; readonly y: number; readonly at: Instant }
  /** Tells this drag from every other on the page. */
  readonly gesture: number
  moved: boolean
}

type Where = Pick<PointerEvent, 'clientX' | 'clientY'>

/** A press that moves less than this, in pixels, is no drag. */
const SLACK_PX = 4
const PLUMB_STEP = 5
let gestures = 0

/** What a press takes hold of: an edge of the frame, the frame, a block that may be moved, or empty time. */
export const modeOf = (
  part: string | undefined,
  across: 'all' | 'row',
  span: BusySpan | null,
  movable: boolean,
): Mode => {
  if (part === 'start' || part === 'end') return part
  if (part === 'middle' || movable) return 'move'
  return part === 'track' || (across === 'all' && !span?.entryId) ? 'new' : 'press'
}

/** The edge of a block, in pixels, by which it is stretched; narrow blocks are only moved. */
const EDGE_PX = 7
const LEAST_STRETCHED_PX = 26

/** Which edge of a block the pointer is on. */
const edgeUnder = (event: PointerEvent): 'start' | 'end' | null => {
  if (!(event.target instanceof HTMLElement) || event.pointerType === 'touch') return null
  const box = event.target.closest('[data-part=block]')?.getBoundingClientRect()
  if (!box || box.width < LEAST_STRETCHED_PX) return null
  if (event.clientX - box.left < EDGE_PX) return 'start'
  return box.right - event.clientX < EDGE_PX ? 'end' : null
}

export interface Grid {
  readonly step: number
  readonly home: ZoneTable
  /** The length of a new time, in milliseconds. */
  readonly length: number
  /** Whether a new time is drawn from where the drag begins to where it ends. */
  readonly draws: boolean
}

/** The time that a drag has come to, on the grid of steps. */
export const draggedTo = (drag: Drag, at: Instant, grid: Grid): Span => {
  const fit = (instant: Instant) => snap(instant, grid.step, grid.home)
  const least = grid.step * MINUTE
  if (!drag.origin) {
    if (!grid.draws) return { start: fit(at - grid.length / 2), end: fit(at - grid.length / 2) + grid.length }
    const [first, second] = [fit(drag.from.at), fit(at)]
    const start = Math.min(first, second)
    return { start, end: Math.max(first, second, start + least) }
  }
  const { start, end } = drag.origin
  if (drag.mode === 'start') return { start: Math.min(fit(at), end - least), end }
  if (drag.mode === 'end') return { start, end: Math.max(fit(at), start + least) }
  const next = fit(at - drag.grip)
  return { start: next, end: next + (end - start) }
}

/** Which lane of a board lies under the pointer, and which time. */
export const underPointer = (
  props: Pick<BoardProps, 'upright'>,
  rows: readonly BoardRow[],
  board: RefObject<HTMLDivElement | null>,
  width: number,
) => {
  const rowUnder = ({ clientX, clientY }: Where): BoardRow | null => {
    const elements = [...(board.current?.querySelectorAll<HTMLElement>('[data-row]') ?? [])]
    const found = elements.find((element) => {
      const box = element.getBoundingClientRect()
      return props.upright
        ? clientX >= box.left && clientX < box.right
        : clientY >= box.top && clientY < box.bottom
    })
    return rows.find((row) => row.id === found?.dataset.row) ?? null
  }

  const timeUnder = ({ clientX, clientY }: Where, axis: Axis): Instant | null => {
    const element = board.current
    if (!element) return null
    const track = props.upright && element.querySelector('[data-part=track]')?.getBoundingClientRect()
    const left = element.getBoundingClientRect().left + (element.clientWidth - width)
    const fraction = track ? (clientY - track.top) / track.height : (clientX - left) / width
    return axis.instant(Math.max(0, Math.min(1, fraction)))
  }

  return { rowUnder, timeUnder }
}

/** Pointer and touch on a board: choosing, drawing, moving and stretching a time, and the plumb line under it all. */
export const useDrag = (
  props: BoardProps,
  rows: readonly BoardRow[],
  board: RefObject<HTMLDivElement | null>,
  width: number,
  plumb: Plumb,
) => {
  const drag = useRef<Drag | null>(null)
  const [dragging, setDragging] = useState(false)
  const { across, chosen, home, step, onChoose } = props
  const draws = across === 'row' || (props.draws ?? false)
  const grid: Grid = { step, home, draws, length: props.minutes * MINUTE }
  const rowIdOf = (row: BoardRow) => (draws ? row.id : null)

  const { rowUnder, timeUnder } = underPointer(props, rows, board, width)

  const end = (): Drag | null => {
    const done = drag.current
    drag.current = null
    setDragging(false)
    return done
  }

  const press = (event: PointerEvent) => {
    if (props.still || event.button !== 0 || !(event.target instanceof HTMLElement)) return
    const part = event.target.closest<HTMLElement>('[data-part]')?.dataset
    const row = rowUnder(event) ?? (across === 'all' ? rows[0] : null)
    const at = row ? timeUnder(event, row.axis) : null
    if (!part || !row || at === null) return
    const span =
      part.part === 'block'
        ? (row.time.spans.find((each) => String(each.start) === part.start && each.entryId === part.entry) ??
          null)
        : null
    const movable = span !== null && (props.mayMove?.(span) ?? false)
    const mode = (movable && edgeUnder(event)) || modeOf(part.part, across, span, movable)
    if (row.still && !span) return
    const held = span ?? chosen
    drag.current = {
      mode,
      row,
      span,
      grip: held ? at - held.start : 0,
      origin: mode === 'new' || !held ? null : { start: held.start, end: held.end, rowId: row.id },
      from: { x: event.clientX, y: event.clientY, at },
      gesture: ++gestures,
      moved: false,
    }
    board.current?.setPointerCapture(event.pointerId)
    setDragging(true)
  }

  const follow = (event: PointerEvent) => {
    const now = drag.current
    const carried = now?.mode === 'move' && (across === 'row' || (draws && now.span !== null))
    const under = !now || carried ? rowUnder(event) : null
    const row = under ?? now?.row ?? rows[0]
    const at = row ? timeUnder(event, row.axis) : null
    if (!row || at === null) return
    const onLabel = event.target instanceof HTMLElement && event.target.closest('.row-label, .ruler-title')
    plumb.set(onLabel && !now ? null : snap(at, PLUMB_STEP, home))
    if (!now || now.mode === 'press') return
    const far = Math.hypot(event.clientX - now.from.x, event.clientY - now.from.y) >= SLACK_PX
    if (!far && !now.moved) return
    if (row.still) return
    now.moved = true
    onChoose({ ...draggedTo(now, at, grid), rowId: rowIdOf(row) }, now.gesture)
  }

  const pressed = (done: Drag) => {
    if (done.span && (done.mode === 'press' || draws)) props.onOpen?.(done.span, done.row)
    else if (done.mode === 'new') {
      const before = draws ? (step * MINUTE) / 2 : grid.length / 2
      const start = snap(done.from.at - before, step, home)
      const next = { start, end: start + grid.length, rowId: rowIdOf(done.row) }
      onChoose(next)
      if (draws) props.onTake?.(next, null)
    } else if (done.mode === 'move' && draws && chosen)
      props.onTake?.({ ...chosen, rowId: rowIdOf(done.row) }, null)
  }

  const release = () => {
    const done = end()
    if (!done) return
    if (!done.moved) pressed(done)
    else if (chosen && draws && (across === 'row' || done.span || done.mode === 'new'))
      props.onTake?.(chosen, done.mode === 'new' ? null : done.span)
  }

  const cancel = () => {
    const undone = end()
    if (undone?.moved) onChoose(undone.span ? null : undone.origin, undone.gesture)
  }

  const moving = dragging && drag.current?.moved === true
  /** The block that is being moved or stretched. */
  const lifted = moving && drag.current?.mode !== 'new' ? (drag.current?.span ?? null) : null
  return { dragging, moving, lifted, press, follow, release, cancel }
}
