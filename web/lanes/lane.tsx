import { type BusySpan, type Ground, groundOf, type LaneTime } from '@marmot/core/availability'
import { clockText, minuteOf, toWall, type ZoneTable, zoneTable } from '@marmot/core/time'
import { memo } from 'react'
import type { Axis } from './axis.ts'

const percent = (fraction: number): string => `${(Math.max(0, Math.min(1, fraction)) * 100).toFixed(3)}%`

const placed = (axis: Axis, span: { start: number; end: number }) => {
  const left = Math.max(0, axis.at(span.start))
  const right = Math.min(1, axis.at(span.end))
  return { left: percent(left), width: percent(right - left) }
}

const GroundPart = ({ part, axis }: { part: Ground; axis: Axis }) => (
  <div className={`ground ground-${part.state}`} style={placed(axis, part)}>
    {part.state === 'closed' && part.reason !== 'closed' && <span>{part.reason}</span>}
  </div>
)

/** What stands on a block: its title as far as it may be known, else its state in a word. */
const blockWords = (span: BusySpan): string => {
  if (span.state === 'away') return span.title ? `away · ${span.title}` : 'away'
  if (span.title) return span.title
  return span.state
}

const NARROWEST_TEXT = 34

const fills = (span: BusySpan): boolean => span.state === 'busy' || span.state === 'away'

/** Where two blocks that fill the lane lie over one another: nobody can be at both. */
const clashesIn = (blocks: readonly BusySpan[]): { start: number; end: number; words: string }[] => {
  const full = blocks.filter(fills)
  return full.flatMap((one, i) =>
    full.slice(i + 1).flatMap((other) => {
      const start = Math.max(one.start, other.start)
      const end = Math.min(one.end, other.end)
      return end > start
        ? [{ start, end, words: `${blockWords(one)} and ${blockWords(other)} at the same time` }]
        : []
    }),
  )
}

/** Where a block's words can be read: not under the blocks that are drawn over it. */
const readablePart = (span: BusySpan, over: readonly BusySpan[]): { start: number; end: number } => {
  const covering = fills(span) ? over.filter(fills) : over.filter((other) => other.state !== 'listed')
  const start = covering.reduce(
    (from, other) => (other.start <= from && other.end > from ? other.end : from),
    span.start,
  )
  return {
    start,
    end: covering.reduce(
      (end, other) => (other.start > start && other.start < end ? other.start : end),
      span.end,
    ),
  }
}

/** In the order they are drawn: earlier first, and of those that begin together the shorter on top. */
const inDrawingOrder = (a: BusySpan, b: BusySpan): number => a.start - b.start || b.end - a.end

/** The words of a block for a screen reader and on hover. */
export const blockLabel = (span: BusySpan, table: ZoneTable): string => {
  const clock = (at: number) => clockText(minuteOf(toWall(table, at)))
  const state = span.state === 'busy' && span.title ? '' : `, ${span.state}`
  return `${clock(span.start)} to ${clock(span.end)}${span.title ? `, ${span.title}` : ''}${state}`
}

interface LaneProps {
  time: LaneTime
  axis: Axis
  width: number
  home: ZoneTable
  edge?: string | undefined
  /** True where a lane is tall enough for the words of what is only listed. */
  roomy: boolean
}

/** The ground and the blocks of one lane. Height is the code: how much of it is open says how available it is. */
export const Lane = memo(({ time, axis, width, home, edge, roomy }: LaneProps) => {
  const table = zoneTable(time.zone)
  const ground = groundOf(time, table, axis.from, axis.to)
  const blocks = time.spans
    .filter((span) => span.end > axis.from && span.start < axis.to)
    .sort(inDrawingOrder)
  return (
    <>
      {ground.map((part) => (
        <GroundPart key={`${part.start}${part.state}`} part={part} axis={axis} />
      ))}
      {blocks.map((span, i) => {
        const size = placed(axis, span)
        const pixels = (Number.parseFloat(size.width) / 100) * width
        const left = Math.max(0, axis.at(span.start))
        const part = readablePart(span, blocks.slice(i + 1))
        const indent = Math.max(0, axis.at(part.start) - left) * width
        const readable = (Math.min(1, axis.at(part.end)) - Math.max(left, axis.at(part.start))) * width
        return (
          <div
            key={`${span.start}-${span.end}-${span.state}-${span.entryId ?? ''}`}
            className={`stint stint-${span.state}`}
            data-part="block"
            data-start={span.start}
            data-entry={span.entryId}
            title={blockLabel(span, home)}
            style={{ ...size, ...(edge && span.entryId ? { borderInlineStart: `3px solid ${edge}` } : {}) }}
          >
            {Math.min(pixels, readable) > NARROWEST_TEXT && (roomy || span.state !== 'listed') && (
              <span style={readable < pixels ? { marginLeft: indent, maxWidth: readable } : undefined}>
                {blockWords(span)}
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
