import { type BusySpan, during, duringInWords, type Span } from '@marmot/core/availability'
import { clocksInWords, type Instant, spanInWords, type ZoneTable, zoneTable } from '@marmot/core/time'
import { type KeyboardEvent, memo, Suspense, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { type Axis, ticksOf } from './axis.ts'
import { Chunks } from './chunk.tsx'
import { useDrag } from './drag.ts'
import { useDrop } from './drop.ts'
import { pressKey } from './keyboard.ts'
import { Lane } from './lane.tsx'
import './lanes.css'
import { part } from '../platform/part.tsx'
import { createPlumb, type Plumb, usePlumb } from './plumb.ts'
import { Ruler } from './ruler.tsx'
import type { BoardProps, BoardRow, Chosen, Light } from './types.ts'

/** On a narrow screen alone. */
const Upright = part(() => import('./upright.tsx').then((m) => m.Upright))

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

/** The hours, as hairlines through all lanes. */
const Hours = ({ axis, home, width }: { axis: Axis; home: ZoneTable; width: number }) => (
  <div className="over over-hours" aria-hidden>
    {ticksOf(axis, home, home, width).map(({ fraction }) => (
      <i key={fraction} className="hairline" style={{ left: `${fraction * 100}%` }} />
    ))}
  </div>
)

/** The times that work, as light through all lanes. */
const Lights = ({ lights, axis, width }: { lights: readonly Light[]; axis: Axis; width: number }) =>
  lights.map((light) => {
    const left = Math.max(0, axis.at(light.start))
    const right = Math.min(1, axis.at(light.end))
    if (right <= left) return null
    return (
      <div
        key={light.start}
        className="light"
        style={{ left: `${left * 100}%`, width: `${(right - left) * 100}%`, opacity: light.strength }}
      >
        {(right - left) * width > 60 && light.words && <span>{light.words}</span>}
      </div>
    )
  })

/** Where something lies as yet that is to be moved. */
const Present = ({ span, axis }: { span: Span; axis: Axis }) => {
  const left = Math.max(0, axis.at(span.start))
  const right = Math.min(1, axis.at(span.end))
  if (right <= left) return null
  return (
    <div className="present" style={{ left: `${left * 100}%`, width: `${(right - left) * 100}%` }}>
      <span>as it is</span>
    </div>
  )
}

/** A time that people are asked about. */
const AskedTime = ({ span, words, axis }: { span: Span; words: string; axis: Axis }) => {
  const left = Math.max(0, axis.at(span.start))
  const right = Math.min(1, axis.at(span.end))
  if (right <= left) return null
  return (
    <div className="asked" style={{ left: `${left * 100}%`, width: `${(right - left) * 100}%` }}>
      <span>{words}</span>
    </div>
  )
}

/** What a screen says of blocks; the same object as long as it says the same, so that lanes are not drawn for nothing. */
type Drawing = Pick<BoardProps, 'lookOf' | 'faint' | 'mayMove' | 'opened'>

const RowLane = memo(
  ({
    row,
    width,
    home,
    index,
    active,
    words,
    frame,
    lifted,
    now,
    roomy,
    drawing,
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
    lifted: BusySpan | null
    /** This moment, where it lies on the lane. */
    now: Instant | null
    roomy: boolean
    drawing: Drawing
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
      data-still={row.still || undefined}
      data-low={row.low || undefined}
      data-marked={row.marks ? true : undefined}
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
        <Lane
          time={row.time}
          axis={row.axis}
          width={width}
          home={home}
          roomy={roomy}
          over={row.over}
          marks={row.marks}
          lookOf={drawing.lookOf}
          faint={drawing.faint}
          opened={drawing.opened}
          lifted={lifted}
          movable={row.still ? undefined : drawing.mayMove}
        />
        {now !== null && <div className="now-line" style={{ left: `${row.axis.at(now) * 100}%` }} />}
        {frame && <Frame chosen={frame.chosen} axis={row.axis} words={frame.words} />}
      </div>
    </div>
  ),
)

/** From this many lanes on, those that are out of sight are left out of layout and painting. */
const MANY = 24
/** From this many on they are not even made, but a chunk at a time. */
const VERY_MANY = 100

/**
 * The one lane component: rows of time, left to right, with rulers for each zone, the openings as light, the chosen
 * time in its frame and the plumb line. Works by mouse, touch and keyboard, and reads out as a grid.
 */
export const Board = (props: BoardProps) => {
  const { groups, home, chosen, across } = props
  const { ref, width } = useWidth()
  const plumb = useMemo(createPlumb, [])
  const rows = useMemo(() => groups.flatMap((group) => group.rows), [groups])
  const { dragging, moving, lifted, press, follow, release, cancel } = useDrag(props, rows, ref, plumb)
  const dropping = useDrop(props, rows, ref)
  const [activeId, setActiveId] = useState<string | null>(null)
  const active = rows.find((row) => row.id === activeId) ?? rows[0]
  const axis = groups[0]?.axis ?? null

  // The memoized rows get these two once; they read the newest props when a key is pressed.
  const newest = useRef(props)
  newest.current = props
  const focusRow = useCallback(
    (id: string) =>
      ref.current?.querySelector<HTMLElement>(`[data-row="${CSS.escape(id)}"] [role=gridcell]`)?.focus(),
    [ref],
  )
  const onKeys = useCallback(
    (event: KeyboardEvent, row: BoardRow) => pressKey(event, row, newest.current, focusRow),
    [focusRow],
  )

  const { lookOf, faint, mayMove, opened } = props
  const drawing = useMemo<Drawing>(
    () => ({
      ...(lookOf ? { lookOf } : {}),
      ...(faint ? { faint } : {}),
      ...(mayMove ? { mayMove } : {}),
      ...(opened ? { opened } : {}),
    }),
    [lookOf, faint, mayMove, opened],
  )

  const wordsFor = (row: BoardRow): string => {
    if (!chosen || (across === 'row' && chosen.rowId !== row.id)) return 'no time chosen'
    const table = zoneTable(row.time.zone)
    const span = row.time.spans.find(
      (each) => each.title && each.start < chosen.end && each.end > chosen.start,
    )
    return `${clocksInWords(chosen.start, chosen.end, table)}, ${duringInWords(during(row.time, table, chosen), table)}${span?.title ? `: ${span.title}` : ''}`
  }

  /** The block that is on its way elsewhere, by hand or by key. */
  const gone = lifted ?? props.holding ?? null
  const frameWords = chosen ? spanInWords(chosen.start, chosen.end, home, props.now) : ''
  const drawn = (row: BoardRow, at: number) => (
    <RowLane
      key={row.id}
      row={row}
      width={width}
      home={home}
      index={at}
      active={row.id === active?.id}
      words={wordsFor(row)}
      frame={across === 'row' && chosen?.rowId === row.id ? { chosen, words: frameWords } : null}
      lifted={gone && row.time.spans.includes(gone) ? gone : null}
      now={
        across === 'row' && row.today && !row.marks && props.now > row.axis.from && props.now < row.axis.to
          ? props.now
          : null
      }
      roomy={across === 'row' && !row.marks && !props.dense && !row.low && !row.still}
      drawing={drawing}
      onFocus={setActiveId}
      onKeys={onKeys}
    />
  )
  const drawnNow = useRef(drawn)
  drawnNow.current = drawn
  const { now, dense } = props
  // Of very many lanes only those pieces are drawn anew of which something is another.
  const stamp = useMemo(
    () => [width, home, active?.id, chosen, across, gone, now, dense, drawing],
    [width, home, active?.id, chosen, across, gone, now, dense, drawing],
  )
  const tellNear = useCallback((some: readonly BoardRow[]) => newest.current.onNear?.(some), [])
  let index = 0
  const past = (count: number): number => {
    index += count
    return index - count
  }
  return (
    <div
      ref={ref}
      className={`board ${props.still ? 'still' : ''} ${rows.length > MANY && rows.length <= VERY_MANY ? 'long' : ''} ${props.dense ? 'dense' : ''}`}
      data-dragging={dragging || undefined}
      data-holding={props.holding ? true : undefined}
      onPointerDown={press}
      onPointerMove={follow}
      onPointerUp={release}
      onPointerCancel={cancel}
      onPointerLeave={() => plumb.set(null)}
      {...dropping}
    >
      {props.upright ? (
        <Suspense>
          <Upright
            board={props}
            rows={rows}
            width={width}
            frameWords={frameWords}
            wordsFor={wordsFor}
            onKeys={onKeys}
            scroller={ref}
          />
        </Suspense>
      ) : (
        <div role="grid" aria-label={props.label} aria-rowcount={rows.length + groups.length}>
          {groups.map((group) => (
            <div role="rowgroup" key={group.id} className="group">
              <div role="row" className="ruler-row" aria-rowindex={++index}>
                <div role="rowheader" className="ruler-title">
                  {group.title}
                </div>
                <div role="gridcell" className="ruler-cell">
                  {group.ruler ?? (
                    <Ruler
                      axis={group.axis}
                      home={home}
                      zone={group.zone}
                      width={width}
                      plumb={plumb}
                      chosen={chosen}
                      days={props.days}
                    />
                  )}
                </div>
              </div>
              {group.alsoZones?.map((also) => (
                <div key={also.zone.zone} role="row" className="ruler-row" aria-rowindex={++index}>
                  <div role="rowheader" className="ruler-title">
                    {also.title}
                  </div>
                  <div role="gridcell" className="ruler-cell">
                    <Ruler
                      axis={group.axis}
                      home={home}
                      zone={also.zone}
                      width={width}
                      plumb={plumb}
                      chosen={chosen}
                      days={false}
                    />
                  </div>
                </div>
              ))}
              {rows.length > VERY_MANY ? (
                <Chunks
                  rows={group.rows}
                  from={past(group.rows.length)}
                  stamp={stamp}
                  draw={drawnNow}
                  onNear={tellNear}
                />
              ) : (
                group.rows.map((row) => drawn(row, ++index))
              )}
            </div>
          ))}
        </div>
      )}
      {rows.length === 0 && props.empty}
      {axis && rows.length > 0 && !rows[0]?.marks && !props.upright && (
        <Hours axis={axis} home={home} width={width} />
      )}
      {across === 'all' && axis && rows.length > 0 && !props.upright && (
        <>
          <div className="over over-light" aria-hidden>
            {props.lights && <Lights lights={props.lights} axis={axis} width={width} />}
            {props.now > axis.from && props.now < axis.to && (
              <div className="now-line" style={{ left: `${axis.at(props.now) * 100}%` }} />
            )}
          </div>
          <div className="over over-frame" aria-hidden>
            {props.asked?.map((span) => (
              <AskedTime key={span.start} span={span} words={span.words} axis={axis} />
            ))}
            {props.present && <Present span={props.present} axis={axis} />}
            {chosen && <Frame chosen={chosen} axis={axis} words={frameWords} />}
            <PlumbLine plumb={plumb} axis={axis} />
          </div>
        </>
      )}
      {moving && chosen && (
        <div className="drag-words" role="status">
          {frameWords}
        </div>
      )}
    </div>
  )
}
