import { type BusySpan, type Ground, groundOf, type LaneTime, type Span } from '@marmot/core/availability'
import { clockText, minuteOf, toWall, type ZoneTable, zoneTable } from '@marmot/core/time'
import { memo } from 'react'
import type { Axis } from './axis.ts'
import { blockWords, clashesIn, inDrawingOrder, readablePart } from './blocks.ts'
import type { Mark, OverLane } from './types.ts'

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

const LETTER_PX = 6.3
const PADDING_PX = 11
const ENOUGH_PX = 56
/** On a tall lane words can take several lines, so a narrow block is enough. */
const ENOUGH_WRAPPED_PX = 30

/** Words are written where they fit, or where enough of them would be seen. */
const hasRoom = (words: string, pixels: number, roomy: boolean): boolean =>
  pixels >= Math.min(words.length * LETTER_PX + PADDING_PX, roomy ? ENOUGH_WRAPPED_PX : ENOUGH_PX)

/** The words of a block for a screen reader and on hover. */
export const blockLabel = (span: BusySpan, table: ZoneTable): string => {
  const clock = (at: number) => clockText(minuteOf(toWall(table, at)))
  const state = span.state === 'busy' && span.title ? '' : `, ${span.state}`
  return `${clock(span.start)} to ${clock(span.end)}${span.title ? `, ${span.title}` : ''}${state}`
}

/** A block narrower than this would be all edge, and its colour would be taken for its state. */
const EDGED_PX = 20

const edgeStyle = (colour: string | undefined) => (colour ? { borderInlineStart: `4px solid ${colour}` } : {})

interface LaneProps {
  time: LaneTime
  axis: Axis
  width: number
  home: ZoneTable
  edge?: string | undefined
  /** True where a lane is tall enough for the words of what is only listed. */
  roomy: boolean
  edgeOf?: ((span: BusySpan) => string | undefined) | undefined
  faint?: ((span: BusySpan) => boolean) | undefined
  movable?: ((span: BusySpan) => boolean) | undefined
  /** A block that is being moved elsewhere. */
  lifted?: BusySpan | null | undefined
  over?: readonly OverLane[] | undefined
  marks?: readonly Mark[] | undefined
}

const STRIP_PX = 5

/** Others' time along a lane's lower edge. Unknown is dotted, never empty: an empty strip would be free. */
const Strips = ({ over, axis, home }: { over: readonly OverLane[]; axis: Axis; home: ZoneTable }) => (
  <>
    {over.map((lane, i) => {
      const style = { bottom: i * (STRIP_PX + 1), height: STRIP_PX }
      if (!lane.time.known)
        return (
          <div
            key={lane.id}
            className="strip strip-unknown"
            title={`${lane.name}: unknown`}
            style={{ ...style, left: 0, width: '100%', color: lane.colour }}
          />
        )
      const within = (span: Span) => span.end > axis.from && span.start < axis.to
      const strips = [
        ...lane.time.spans.filter((span) => span.state !== 'listed' && within(span)),
        ...(lane.time.unknown ?? []).filter(within).map((span) => ({ ...span, state: 'unknown' as const })),
      ]
      return strips.map((span) => (
        <div
          key={`${lane.id}${span.start}${span.state}${'entryId' in span ? span.entryId : ''}`}
          className={`strip strip-${span.state}`}
          title={`${lane.name}: ${span.state === 'unknown' ? 'unknown' : blockLabel(span, home)}`}
          style={{ ...style, ...placed(axis, span), color: lane.colour }}
        />
      ))
    })}
  </>
)

/** The ground and the blocks of one lane. Height is the code: how much of it is open says how available it is. */
export const Lane = memo((props: LaneProps) => {
  const { time, axis, width, home, edge, roomy, over, marks } = props
  const table = zoneTable(time.zone)
  const ground = groundOf(time, table, axis.from, axis.to)
  const blocks = time.spans
    .filter((span) => span.end > axis.from && span.start < axis.to)
    .sort(inDrawingOrder)
  return (
    <>
      {marks?.map((mark) => (
        <div
          key={mark.at}
          className="mark"
          data-today={mark.today || undefined}
          data-weekend={mark.weekend || undefined}
          style={{ left: percent(mark.at), width: percent(mark.width) }}
        >
          <span className="mark-words">{mark.words}</span>
        </div>
      ))}
      {ground.map((part) => (
        <GroundPart key={`${part.start}${part.state}`} part={part} axis={axis} />
      ))}
      {blocks.map((span, i) => {
        const size = placed(axis, span)
        const pixels = (Number.parseFloat(size.width) / 100) * width
        const left = Math.max(0, axis.at(span.start))
        const part = readablePart(blocks, i)
        const indent = Math.max(0, axis.at(part.start) - left) * width
        const readable = (Math.min(1, axis.at(part.end)) - Math.max(left, axis.at(part.start))) * width
        return (
          <div
            key={`${span.start}-${span.end}-${span.state}-${span.entryId ?? ''}`}
            className={`stint stint-${span.state} ${roomy ? 'stint-roomy' : ''}`}
            data-faint={props.faint?.(span) || undefined}
            data-lifted={span === props.lifted || undefined}
            data-movable={(pixels > 26 && props.movable?.(span)) || undefined}
            data-part="block"
            data-reserved={span.reserved || undefined}
            data-start={span.start}
            data-entry={span.entryId}
            title={blockLabel(span, home)}
            style={{
              ...size,
              ...edgeStyle(
                pixels < EDGED_PX ? undefined : (props.edgeOf?.(span) ?? (span.entryId ? edge : undefined)),
              ),
            }}
          >
            {hasRoom(blockWords(span), Math.min(pixels, readable), roomy) &&
              (roomy || span.state !== 'listed') && (
                <span style={readable < pixels ? { marginLeft: indent, maxWidth: readable } : undefined}>
                  {blockWords(span)}
                </span>
              )}
          </div>
        )
      })}
      {over && <Strips over={over} axis={axis} home={home} />}
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
