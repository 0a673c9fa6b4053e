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

/** Where the lanes lie on the screen, in pixels along their time, and which time that is. */
export interface Ground {
  readonly start: number
  readonly length: number
  readonly axis: Axis
}

/** The time at so many pixels; beyond the ends of the lanes it is their end. */
const timeAt = ({ start, length, axis }: Ground, pixels: number): Instant =>
  axis.instant(Math.max(0, Math.min(1, (pixels - start) / length)))

/** What a drag has under the pointer, and how far the lanes have slid away beneath it. */
export interface Hold {
  readonly pixels: number
  readonly rowId: string
  readonly ground: Ground
  /** In milliseconds: what the pointer says beyond the time that is held. */
  readonly slip: number
}

/**
 * A hold once the pointer has gone on. Lanes that slide under a hand that keeps still (a sheet beside them closes, earlier
 * hours come into sight) do not move what it holds: `same` is where the lane lies now on which the pointer was last.
 */
export const heldAt = (before: Hold, same: Ground, next: Omit<Hold, 'slip'>): Hold => ({
  ...next,
  slip: before.slip + timeAt(same, before.pixels) - timeAt(before.ground, before.pixels),
})

/** The time that a hold is at. */
export const timeHeld = ({ pixels, ground, slip }: Hold): Instant => timeAt(ground, pixels) - slip

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

  const groundOf = (axis: Axis): Ground | null => {
    const track = board.current?.querySelector('[data-part=track]')?.getBoundingClientRect()
    if (!track) return null
    return props.upright
      ? { start: track.top, length: track.height, axis }
      : { start: track.left, length: track.width, axis }
  }

  const pixelsOf = ({ clientX, clientY }: Where): number => (props.upright ? clientY : clientX)

  const timeUnder = (where: Where, axis: Axis): Instant | null => {
    const ground = groundOf(axis)
    return ground && timeAt(ground, pixelsOf(where))
  }

  return { rowUnder, timeUnder, groundOf, pixelsOf }
}

/** Pointer and touch on a board: choosing, drawing, moving and stretching a time, and the plumb line under it all. */
export const useDrag = (
  props: BoardProps,
  rows: readonly BoardRow[],
  board: RefObject<HTMLDivElement | null>,
  plumb: Plumb,
) => {
  const drag = useRef<Drag | null>(null)
  const hold = useRef<Hold | null>(null)
  const [dragging, setDragging] = useState(false)
  const { across, chosen, home, step, onChoose } = props
  const draws = across === 'row' || (props.draws ?? false)
  const grid: Grid = { step, home, draws, length: props.minutes * MINUTE }
  const rowIdOf = (row: BoardRow) => (draws ? row.id : null)

  const { rowUnder, timeUnder, groundOf, pixelsOf } = underPointer(props, rows, board)

  const end = (): Drag | null => {
    const done = drag.current
    drag.current = null
    hold.current = null
    setDragging(false)
    return done
  }

  const press = (event: PointerEvent) => {
    if (props.still || event.button !== 0 || !(event.target instanceof HTMLElement)) return
    const part = event.target.closest<HTMLElement>('[data-part]')?.dataset
    const row = rowUnder(event) ?? (across === 'all' ? rows[0] : null)
    const ground = row && groundOf(row.axis)
    if (!part || !row || !ground) return
    const taken: Hold = { pixels: pixelsOf(event), rowId: row.id, ground, slip: 0 }
    const at = timeHeld(taken)
    const span =
      part.part === 'block'
        ? (row.time.spans.find((each) => String(each.start) === part.start && each.entryId === part.entry) ??
          null)
        : null
    const movable = span !== null && (props.mayMove?.(span) ?? false)
    const mode = (movable && edgeUnder(event)) || modeOf(part.part, across, span, movable)
    if (row.still && !span) return
    const held = span ?? chosen
    hold.current = taken
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

  /** The time that is held once the pointer has come to a row. */
  const keepHold = (row: BoardRow, event: PointerEvent): Instant | null => {
    const before = hold.current
    const ground = groundOf(row.axis)
    const same = before && groundOf(rows.find((each) => each.id === before.rowId)?.axis ?? before.ground.axis)
    if (!ground || !same) return null
    hold.current = heldAt(before, same, { pixels: pixelsOf(event), rowId: row.id, ground })
    return timeHeld(hold.current)
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
    const held = now && keepHold(row, event)
    if (!now || held === null || now.mode === 'press') return
    const far = Math.hypot(event.clientX - now.from.x, event.clientY - now.from.y) >= SLACK_PX
    if (!far && !now.moved) return
    if (row.still) return
    now.moved = true
    onChoose({ ...draggedTo(now, held, grid), rowId: rowIdOf(row) }, now.gesture)
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
