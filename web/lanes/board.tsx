import { type BusySpan, during, duringInWords, type LaneTime, type Span } from '@marmot/core/availability'
import {
  clocksInWords,
  type Instant,
  MINUTE,
  spanInWords,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import {
  type KeyboardEvent,
  memo,
  type PointerEvent,
  type ReactNode,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import { type Axis, snap } from './axis.ts'
import { Lane } from './lane.tsx'
import './lanes.css'
import { createPlumb, type Plumb, usePlumb } from './plumb.ts'
import { Ruler } from './ruler.tsx'

export interface BoardRow {
  readonly id: string
  /** What a screen reader hears first: "Tashi Lhendup, Kathmandu". */
  readonly name: string
  readonly label: ReactNode
  readonly time: LaneTime
  readonly axis: Axis
  readonly faded?: boolean
  /** A colour for the edge of blocks and the dot; never the state. */
  readonly edge?: string
  readonly today?: boolean
}

export interface BoardGroup {
  readonly id: string
  readonly title: ReactNode
  readonly zone: ZoneTable
  readonly axis: Axis
  readonly rows: readonly BoardRow[]
}

/** The chosen time. On a board where each lane has its own day, `rowId` says which. */
export interface Chosen extends Span {
  readonly rowId: string | null
}

/** A band of sunlight over all lanes; `strength` 0 to 1. */
export interface Light extends Span {
  readonly strength: number
  readonly words: string
}

export interface BoardProps {
  readonly label: string
  readonly groups: readonly BoardGroup[]
  readonly home: ZoneTable
  readonly now: Instant
  readonly step: number
  /** The length of a new time, in minutes. */
  readonly minutes: number
  /** `all`: one time across all lanes. `row`: each lane is its own day. */
  readonly across: 'all' | 'row'
  readonly chosen: Chosen | null
  readonly lights?: readonly Light[]
  /** Whether the axis spans several days, so that rulers say them. */
  readonly days: boolean
  readonly onChoose: (chosen: Chosen | null) => void
  /** A new time was drawn or taken by Enter, or a moved block was let go. */
  readonly onTake?: (chosen: Chosen, moved: BusySpan | null) => void
  readonly onOpen?: (span: BusySpan, row: BoardRow) => void
  /** Whether a block may be dragged. */
  readonly mayMove?: (span: BusySpan) => boolean
  readonly rowKeys?: (event: KeyboardEvent, row: BoardRow) => void
  readonly empty?: ReactNode
  /** Only to be looked at: nothing on it moves. */
  readonly still?: boolean
}

type Mode = 'move' | 'start' | 'end' | 'new' | 'press'

interface Drag {
  mode: Mode
  row: BoardRow
  span: BusySpan | null
  /** Where in the time it was grabbed, in milliseconds from its start. */
  grip: number
  origin: Chosen | null
  from: { x: number; y: number }
  moved: boolean
}

const SLACK_PX = 4

const useWidth = () => {
  const ref = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(1000)
  useEffect(() => {
    const element = ref.current
    if (!element) return
    const watch = new ResizeObserver(() => {
      const label = Number.parseFloat(getComputedStyle(element).getPropertyValue('--label')) || 0
      setWidth(Math.max(120, element.clientWidth - label))
    })
    watch.observe(element)
    return () => watch.disconnect()
  }, [])
  return { ref, width }
}

const PlumbLine = ({ plumb, axis }: { plumb: Plumb; axis: Axis }) => {
  const at = usePlumb(plumb)
  if (at === null || at < axis.from || at > axis.to) return null
  return <div className="plumb" style={{ left: `${axis.at(at) * 100}%` }} />
}

const Frame = ({ chosen, axis, words }: { chosen: Span; axis: Axis; words: string }) => {
  if (chosen.end <= axis.from || chosen.start >= axis.to) return null
  const left = Math.max(0, axis.at(chosen.start))
  const right = Math.min(1, axis.at(chosen.end))
  return (
    <div
      className="frame"
      data-part="middle"
      title={words}
      style={{ left: `${left * 100}%`, width: `${(right - left) * 100}%` }}
    >
      <i className="handle handle-start" data-part="start" />
      <i className="handle handle-end" data-part="end" />
    </div>
  )
}

const RowLane = memo(
  ({
    row,
    width,
    home,
    index,
    active,
    words,
    frame,
    roomy,
    onFocus,
    onKeys,
  }: {
    row: BoardRow
    width: number
    home: ZoneTable
    index: number
    active: boolean
    words: string
    frame: { chosen: Chosen; words: string } | null
    roomy: boolean
    onFocus: (id: string) => void
    onKeys: (event: KeyboardEvent, row: BoardRow) => void
  }) => (
    <div
      role="row"
      aria-rowindex={index}
      className="row"
      data-row={row.id}
      data-faded={row.faded || undefined}
      data-today={row.today || undefined}
    >
      <div role="rowheader" className="row-label">
        {row.label}
      </div>
      <div
        role="gridcell"
        tabIndex={active ? 0 : -1}
        className="track"
        data-part="track"
        aria-label={`${row.name}, ${words}`}
        onFocus={() => onFocus(row.id)}
        onKeyDown={(event) => onKeys(event, row)}
      >
        <Lane time={row.time} axis={row.axis} width={width} home={home} edge={row.edge} roomy={roomy} />
        {frame && <Frame chosen={frame.chosen} axis={row.axis} words={frame.words} />}
      </div>
    </div>
  ),
)

/**
 * The one lane component: rows of time, left to right, with rulers for each zone, the openings as light, the chosen
 * time in its frame and the plumb line. Works by mouse, touch and keyboard, and reads out as a grid.
 */
export const Board = (props: BoardProps) => {
  const { groups, home, step, chosen, across, onChoose } = props
  const { ref, width } = useWidth()
  const plumb = useMemo(createPlumb, [])
  const drag = useRef<Drag | null>(null)
  const [dragging, setDragging] = useState(false)
  const rows = useMemo(() => groups.flatMap((group) => group.rows), [groups])
  const [activeId, setActiveId] = useState<string | null>(null)
  const active = rows.find((row) => row.id === activeId) ?? rows[0]
  const axis = groups[0]?.axis ?? null
  // Handlers that the memoized rows get once, reading the newest props when they run.
  const newest = useRef(props)
  newest.current = props

  const rowAt = (y: number): BoardRow | null => {
    const elements = [...(ref.current?.querySelectorAll<HTMLElement>('[data-row]') ?? [])]
    const found = elements.find((element) => {
      const box = element.getBoundingClientRect()
      return y >= box.top && y < box.bottom
    })
    return rows.find((row) => row.id === found?.dataset.row) ?? null
  }

  const timeAt = (x: number, on: Axis): Instant | null => {
    const element = ref.current
    if (!element) return null
    const box = element.getBoundingClientRect()
    const left = box.left + (element.clientWidth - width)
    return on.instant(Math.max(0, Math.min(1, (x - left) / width)))
  }

  const press = (event: PointerEvent) => {
    if (props.still || event.button !== 0 || !(event.target instanceof HTMLElement)) return
    const part = event.target.closest<HTMLElement>('[data-part]')
    if (!part) return
    const row = rowAt(event.clientY) ?? (across === 'all' ? rows[0] : null)
    if (!row) return
    const at = timeAt(event.clientX, row.axis)
    if (at === null) return
    const kind = part.dataset.part
    const span =
      kind === 'block'
        ? (row.time.spans.find(
            (each) => String(each.start) === part.dataset.start && each.entryId === part.dataset.entry,
          ) ?? null)
        : null
    const movable = span !== null && (props.mayMove?.(span) ?? false)
    const mode: Mode =
      kind === 'start' || kind === 'end'
        ? kind
        : kind === 'middle' || movable
          ? 'move'
          : kind === 'track' || (across === 'all' && !span?.entryId)
            ? 'new'
            : 'press'
    const held = span ?? chosen
    drag.current = {
      mode,
      row,
      span,
      grip: held ? at - held.start : 0,
      origin: mode === 'new' ? null : held ? { start: held.start, end: held.end, rowId: row.id } : null,
      from: { x: event.clientX, y: event.clientY },
      moved: false,
    }
    ref.current?.setPointerCapture(event.pointerId)
    setDragging(true)
  }

  const lengthMs = props.minutes * MINUTE

  const follow = (event: PointerEvent) => {
    const now = drag.current
    const row =
      (now && across === 'row' && now.mode === 'move' ? rowAt(event.clientY) : null) ??
      now?.row ??
      rowAt(event.clientY) ??
      rows[0]
    if (!row) return
    const at = timeAt(event.clientX, row.axis)
    if (at === null) return
    plumb.set(snap(at, 5, home))
    if (!now) return
    if (Math.hypot(event.clientX - now.from.x, event.clientY - now.from.y) < SLACK_PX && !now.moved) return
    if (now.mode === 'press') return
    now.moved = true
    const rowId = across === 'row' ? row.id : null
    if (now.mode === 'new') {
      const origin = timeAt(now.from.x, now.row.axis)
      if (origin === null) return
      const [a, b] = [snap(origin, step, home), snap(at, step, home)]
      const start = Math.min(a, b)
      if (across === 'all')
        onChoose({
          start: snap(at - lengthMs / 2, step, home),
          end: snap(at - lengthMs / 2, step, home) + lengthMs,
          rowId,
        })
      else onChoose({ start, end: Math.max(a, b, start + step * MINUTE), rowId })
    } else if (now.origin) {
      const { start, end } = now.origin
      if (now.mode === 'move') {
        const next = snap(at - now.grip, step, home)
        onChoose({ start: next, end: next + (end - start), rowId })
      } else if (now.mode === 'start')
        onChoose({ start: Math.min(snap(at, step, home), end - step * MINUTE), end, rowId })
      else onChoose({ start, end: Math.max(snap(at, step, home), start + step * MINUTE), rowId })
    }
  }

  const release = (event: PointerEvent) => {
    const done = drag.current
    drag.current = null
    setDragging(false)
    if (!done) return
    const at = timeAt(event.clientX, done.row.axis)
    if (at === null) return
    if (!done.moved) {
      if (done.span && (done.mode === 'press' || across === 'row')) props.onOpen?.(done.span, done.row)
      else if (done.mode === 'new') {
        const start =
          across === 'all' ? snap(at - lengthMs / 2, step, home) : snap(at - (step * MINUTE) / 2, step, home)
        const next = { start, end: start + lengthMs, rowId: across === 'row' ? done.row.id : null }
        onChoose(next)
        if (across === 'row') props.onTake?.(next, null)
      } else if (done.mode === 'move' && across === 'row' && chosen) props.onTake?.(chosen, null)
      return
    }
    if (chosen && across === 'row') props.onTake?.(chosen, done.mode === 'new' ? null : done.span)
  }

  const cancel = () => {
    const undone = drag.current
    drag.current = null
    setDragging(false)
    if (undone?.moved) onChoose(undone.span ? null : undone.origin)
  }

  const focusRow = (id: string) =>
    ref.current?.querySelector<HTMLElement>(`[data-row="${CSS.escape(id)}"] [role=gridcell]`)?.focus()

  const keys = (event: KeyboardEvent, row: BoardRow) => {
    const given = newest.current
    if (given.still) return
    const all = given.groups.flatMap((group) => group.rows)
    const unit = given.step * MINUTE
    const length = given.minutes * MINUTE
    const here = given.chosen
    const start = () => {
      const from = Math.max(row.axis.from, Math.min(given.now, row.axis.to - length))
      const at = snap(from + unit / 2, given.step, given.home)
      return { start: at, end: at + length, rowId: given.across === 'row' ? row.id : null }
    }
    const shift = (ms: number) => {
      const current = here ?? start()
      if (event.shiftKey)
        given.onChoose({ ...current, end: Math.max(current.end + ms, current.start + unit) })
      else given.onChoose({ ...current, start: current.start + ms, end: current.end + ms })
    }
    const go = (by: number) => {
      const next = all[all.findIndex((each) => each.id === row.id) + by]
      if (!next) return
      if (given.across === 'row' && here) {
        const moved = next.axis.instant(row.axis.at(here.start))
        given.onChoose({ start: moved, end: moved + (here.end - here.start), rowId: next.id })
      }
      focusRow(next.id)
    }
    const open = () => {
      const current = here && (given.across === 'all' || here.rowId === row.id) ? here : start()
      const span = row.time.spans.find(
        (each) => each.entryId && each.start < current.end && each.end > current.start,
      )
      if (given.across === 'row' && span) given.onOpen?.(span, row)
      else {
        given.onChoose(current)
        given.onTake?.(current, null)
      }
    }
    const actions = new Map([
      ['ArrowLeft', () => shift(-unit)],
      ['ArrowRight', () => shift(unit)],
      ['ArrowUp', () => go(-1)],
      ['ArrowDown', () => go(1)],
      ['Enter', open],
      ['Escape', () => given.onChoose(null)],
    ])
    const act = event.ctrlKey || event.altKey || event.metaKey ? undefined : actions.get(event.key)
    if (act && event.target === event.currentTarget) {
      event.preventDefault()
      event.stopPropagation()
      act()
    } else given.rowKeys?.(event, row)
  }
  const stable = useRef({
    keys: (event: KeyboardEvent, row: BoardRow) => latest.current(event, row),
    focus: (id: string) => setActiveId(id),
  })
  const latest = useRef(keys)
  latest.current = keys

  const wordsFor = (row: BoardRow): string => {
    if (!chosen || (across === 'row' && chosen.rowId !== row.id)) return 'no time chosen'
    const table = zoneTable(row.time.zone)
    const span = row.time.spans.find(
      (each) => each.title && each.start < chosen.end && each.end > chosen.start,
    )
    return `${clocksInWords(chosen.start, chosen.end, table)}, ${duringInWords(during(row.time, table, chosen), table)}${span?.title ? `: ${span.title}` : ''}`
  }

  const frameWords = chosen ? spanInWords(chosen.start, chosen.end, home, props.now) : ''
  let index = 0
  return (
    <div
      ref={ref}
      className={props.still ? 'board still' : 'board'}
      data-dragging={dragging || undefined}
      onPointerDown={press}
      onPointerMove={follow}
      onPointerUp={release}
      onPointerCancel={cancel}
      onPointerLeave={() => plumb.set(null)}
    >
      <div role="grid" aria-label={props.label} aria-rowcount={rows.length + groups.length}>
        {groups.map((group) => (
          <div role="rowgroup" key={group.id} className="group">
            <div role="row" className="ruler-row" aria-rowindex={++index}>
              <div role="rowheader" className="ruler-title">
                {group.title}
              </div>
              <div role="gridcell" className="ruler-cell">
                <Ruler
                  axis={group.axis}
                  home={home}
                  zone={group.zone}
                  width={width}
                  plumb={plumb}
                  chosen={chosen}
                  days={props.days}
                />
              </div>
            </div>
            {group.rows.map((row) => (
              <RowLane
                key={row.id}
                row={row}
                width={width}
                home={home}
                index={++index}
                active={row.id === active?.id}
                words={wordsFor(row)}
                frame={across === 'row' && chosen?.rowId === row.id ? { chosen, words: frameWords } : null}
                roomy={across === 'row'}
                onFocus={stable.current.focus}
                onKeys={stable.current.keys}
              />
            ))}
          </div>
        ))}
      </div>
      {rows.length === 0 && props.empty}
      {across === 'all' && axis && rows.length > 0 && (
        <>
          <div className="over over-light" aria-hidden>
            {props.lights?.map((light) => {
              const left = Math.max(0, axis.at(light.start))
              const right = Math.min(1, axis.at(light.end))
              if (right <= left) return null
              return (
                <div
                  key={light.start}
                  className="light"
                  style={{
                    left: `${left * 100}%`,
                    width: `${(right - left) * 100}%`,
                    opacity: light.strength,
                  }}
                >
                  {(right - left) * width > 60 && light.words && <span>{light.words}</span>}
                </div>
              )
            })}
            {props.now > axis.from && props.now < axis.to && (
              <div className="now-line" style={{ left: `${axis.at(props.now) * 100}%` }} />
            )}
          </div>
          <div className="over over-frame" aria-hidden>
            {chosen && <Frame chosen={chosen} axis={axis} words={frameWords} />}
            <PlumbLine plumb={plumb} axis={axis} />
          </div>
        </>
      )}
      {dragging && chosen && drag.current?.moved && (
        <div className="drag-words" role="status">
          {frameWords}
        </div>
      )}
    </div>
  )
}
