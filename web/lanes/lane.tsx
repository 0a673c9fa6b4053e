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

/** The words of a block for a screen reader and on hover. */
export const blockLabel = (span: BusySpan, table: ZoneTable): string => {
  const clock = (at: number) => clockText(minuteOf(toWall(table, at)))
  const state = span.state === 'busy' && span.title ? '' : `, ${span.state}`
  return `${clock(span.start)} to ${clock(span.end)}${span.title ? `, ${span.title}` : ''}${state}`
}

/** The ground and the blocks of one lane. Height is the code: how much of it is open says how available it is. */
export const Lane = memo(
  ({ time, axis, width, home, edge }: { time: LaneTime; axis: Axis; width: number; home: ZoneTable; edge?: string | undefined }) => {
    const table = zoneTable(time.zone)
    const ground = groundOf(time, table, axis.from, axis.to)
    const blocks = time.spans.filter((span) => span.end > axis.from && span.start < axis.to)
    return (
      <>
        {ground.map((part) => (
          <GroundPart key={`${part.start}${part.state}`} part={part} axis={axis} />
        ))}
        {blocks.map((span) => {
          const size = placed(axis, span)
          const pixels = (Number.parseFloat(size.width) / 100) * width
          return (
            <div
              key={`${span.start}-${span.end}-${span.state}-${span.entryId ?? ''}`}
              className={`block block-${span.state}`}
              data-part="block"
              data-start={span.start}
              data-entry={span.entryId}
              title={blockLabel(span, home)}
              style={{ ...size, ...(edge && span.entryId ? { borderInlineStart: `3px solid ${edge}` } : {}) }}
            >
              {pixels > NARROWEST_TEXT && span.state !== 'listed' && <span>{blockWords(span)}</span>}
            </div>
          )
        })}
      </>
    )
  },
)
