import { groundOf, type Span } from '@marmot/core/availability'
import {
  ALONE,
  blockWords,
  clashesIn,
  inDrawingOrder,
  isHalved,
  readablePart,
  sharesOf,
} from '@marmot/core/lanes'
import { clocksInWords, HOUR, type ZoneTable, zoneTable } from '@marmot/core/time'
import { type KeyboardEvent, memo, type RefObject, useEffect } from 'react'
import { namesInWords } from '../ui/names.ts'
import { type Axis, ticksOf } from './axis.ts'
import { blockLabel, Kind, partStyle, pressedPart, RESERVED, Words } from './lane.tsx'
import type { BoardProps, BoardRow, Chosen } from './types.ts'
import './upright.css'

/** Pixels an hour. */
export const HOUR_PX = 48
/** So much of a block is enough to press with a thumb. */
const PRESS_PX = 24
/** A block lower than this has no words. */
const LEAST_WORDS_PX = 14
/** A block of this height has its time and place on a line of their own. */
const TWO_LINES_PX = 38

const percent = (fraction: number): string => `${(Math.max(0, Math.min(1, fraction)) * 100).toFixed(3)}%`

const placed = (axis: Axis, span: Span) => {
  const top = Math.max(0, axis.at(span.start))
  return { top: percent(top), height: percent(Math.min(1, axis.at(span.end)) - top) }
}

const heightOf = (axis: Axis): number => ((axis.to - axis.from) / HOUR) * HOUR_PX

type Drawing = Pick<BoardProps, 'lookOf' | 'faint' | 'mayMove' | 'opened'>

/** The ground and the blocks of one column: as much of its width is open as somebody is available. */
const Column = memo(({ row, home, drawing }: { row: BoardRow; home: ZoneTable; drawing: Drawing }) => {
  const { time, axis } = row
  const blocks = time.spans
    .filter((span) => span.end > axis.from && span.start < axis.to)
    .sort(inDrawingOrder)
  const pixels = heightOf(axis)
  const shares = sharesOf(blocks, (PRESS_PX / HOUR_PX) * HOUR)
  return (
    <>
      {groundOf(time, zoneTable(time.zone), axis.from, axis.to).map((part) => (
        <div
          key={`${part.start}${part.state}`}
          className={`ground ground-${part.state}`}
          style={placed(axis, part)}
        >
          {part.state === 'closed' && part.reason !== 'closed' && <span>{part.reason}</span>}
        </div>
      ))}
      {blocks.map((span, i) => {
        const look = drawing.lookOf?.(span) ?? (span.reserved ? RESERVED : undefined)
        const part = readablePart(blocks, i, shares)
        const share = partStyle(shares[i] ?? ALONE, isHalved(blocks, shares, i))
        const from = Math.max(axis.at(span.start), axis.at(part.start), 0)
        const readable = (Math.min(1, axis.at(part.end)) - from) * pixels
        return (
          <div
            key={`${span.start}-${span.end}-${span.state}-${span.entryId ?? i}`}
            className={`stint stint-${span.state}`}
            data-faint={drawing.faint?.(span) || undefined}
            data-open-block={(span.entryId !== undefined && span.entryId === drawing.opened) || undefined}
            data-part={pressedPart(span)}
            data-start={span.start}
            data-entry={span.entryId}
            title={blockLabel(span, home)}
            data-shared={share && 'side'}
            style={{ ...placed(axis, span), ...share }}
          >
            {look && <Kind kind={look.kind} />}
            {readable >= LEAST_WORDS_PX && (
              <span
                data-lines={readable >= TWO_LINES_PX ? 2 : 1}
                style={{ marginTop: (from - Math.max(0, axis.at(span.start))) * pixels, maxHeight: readable }}
              >
                <Words words={blockWords(span)} look={look} />
              </span>
            )}
          </div>
        )
      })}
      {clashesIn(blocks).map((clash) => (
        <div
          key={`${clash.start}-${clash.end}`}
          className="clash"
          title={clash.words}
          style={placed(axis, clash)}
        />
      ))}
    </>
  )
})

/** The chosen time, over one column or all of them. */
const Frame = ({ chosen, axis, words }: { chosen: Span; axis: Axis; words: string }) =>
  chosen.end <= axis.from || chosen.start >= axis.to ? null : (
    <div className="frame" data-part="middle" title={words} style={placed(axis, chosen)}>
      <i className="handle handle-start" data-part="start" />
      <i className="handle handle-end" data-part="end" />
    </div>
  )

/** The hours' own column, and how narrow another may be, in pixels. */
const HOURS_PX = 54
const LEAST_PX = 72

const shortName = (row: BoardRow): string => row.short ?? row.name.split(/[ ,]/)[0] ?? row.name

/** The clock of somebody elsewhere at the chosen time, with the day where it is another. */
const TheirClock = ({ row, chosen }: { row: BoardRow; chosen: Span }) => (
  <small>{clocksInWords(chosen.start, chosen.end, zoneTable(row.time.zone)).split(' ')[0]}</small>
)

/**
 * A board turned for a narrow screen: hours run downward, every lane is a column, and each block has room for its words. Drags,
 * keys and what a screen reader hears are those of the board.
 */
export const Upright = ({
  board,
  rows: all,
  width,
  frameWords,
  wordsFor,
  onKeys,
  scroller,
}: {
  board: BoardProps
  rows: readonly BoardRow[]
  /** Of the board, in pixels. */
  width: number
  frameWords: string
  wordsFor: (row: BoardRow) => string
  onKeys: (event: KeyboardEvent, row: BoardRow) => void
  scroller: RefObject<HTMLDivElement | null>
}) => {
  const { home, chosen, across, lookOf, faint, mayMove, opened } = board
  // Of lanes that are only looked at beside one's own, as many stand here as can be read. Where one looks for a time for all, all do.
  const fitting = Math.max(1, Math.floor((width - HOURS_PX) / LEAST_PX))
  const rows = across === 'row' ? all.slice(0, fitting) : all
  const out = all.slice(rows.length)
  const [first] = rows
  const axis = first?.axis
  // What one looks for is in sight: the chosen time, else now, else the morning.
  const seen = chosen?.start ?? null
  useEffect(() => {
    if (!axis) return
    const target = scroller.current?.querySelector<HTMLElement>(
      seen !== null ? '.frame' : '.now-line, .ground-open',
    )
    target?.scrollIntoView({ block: 'nearest' })
  }, [axis, seen, scroller])
  if (!axis) return null
  const drawing = {
    ...(lookOf && { lookOf }),
    ...(faint && { faint }),
    ...(mayMove && { mayMove }),
    ...(opened && { opened }),
  }
  const within = board.now > axis.from && board.now < axis.to
  return (
    <>
      {out.length > 0 && (
        <p className="px-2.5 pb-1 text-soft text-sm">
          No room here for {namesInWords(out.map(shortName))}: turn the screen, or hide others.
        </p>
      )}
      <div
        className="upright"
        role="grid"
        aria-label={board.label}
        style={{ '--upright': `${heightOf(axis)}px` }}
      >
        {rows.length > 1 && (
          <div role="row" className="upright-head">
            <span role="columnheader" className="sr-only">
              Hours
            </span>
            {rows.map((row) => (
              <div
                key={row.id}
                role="columnheader"
                className="upright-name"
                data-faded={row.faded || undefined}
              >
                {shortName(row)}
                {chosen && across === 'all' && <TheirClock row={row} chosen={chosen} />}
              </div>
            ))}
          </div>
        )}
        <div role="row" className="upright-body">
          <div role="rowheader" className="upright-hours">
            {ticksOf(axis, home, home, heightOf(axis) * 2).map((tick) => (
              <span key={tick.fraction} style={{ top: percent(tick.fraction) }}>
                {tick.clock}
              </span>
            ))}
          </div>
          {rows.map((row, i) => (
            <div
              key={row.id}
              role="gridcell"
              tabIndex={i === 0 ? 0 : -1}
              className="upright-track track"
              data-part="track"
              data-row={row.id}
              data-faded={row.faded || undefined}
              aria-label={`${row.name}, ${wordsFor(row)}`}
              onKeyDown={(event) => onKeys(event, row)}
            >
              <Column row={row} home={home} drawing={drawing} />
              {within && <div className="now-line" style={{ top: percent(axis.at(board.now)) }} />}
              {across === 'row' && chosen?.rowId === row.id && (
                <Frame chosen={chosen} axis={row.axis} words={frameWords} />
              )}
            </div>
          ))}
          {across === 'all' && <Across board={board} axis={axis} chosen={chosen} frameWords={frameWords} />}
        </div>
      </div>
    </>
  )
}

/** What lies over all columns: the times that work, those that are asked about, and the chosen one. */
const Across = ({
  board,
  axis,
  chosen,
  frameWords,
}: {
  board: BoardProps
  axis: Axis
  chosen: Chosen | null
  frameWords: string
}) => {
  const inSight = (span: Span) => span.end > axis.from && span.start < axis.to
  return (
    <>
      <div className="over over-light" aria-hidden>
        {board.lights?.filter(inSight).map((light) => (
          <div
            key={light.start}
            className="light"
            style={{ ...placed(axis, light), opacity: light.strength }}
          />
        ))}
      </div>
      <div className="over over-frame" aria-hidden>
        {board.asked?.filter(inSight).map((span) => (
          <div key={span.start} className="asked" style={placed(axis, span)}>
            <span>{span.words}</span>
          </div>
        ))}
        {board.present && inSight(board.present) && (
          <div className="present" style={placed(axis, board.present)}>
            <span>as it is</span>
          </div>
        )}
        {chosen && <Frame chosen={chosen} axis={axis} words={frameWords} />}
      </div>
    </>
  )
}
