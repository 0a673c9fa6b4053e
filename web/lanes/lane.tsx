import {
  type BusySpan,
  type Ground,
  groundOf,
  type LaneTime,
  type Span,
  STATE_WORDS,
} from '@marmot/core/availability'
import {
  ALONE,
  blockWords,
  clashesIn,
  freeUntil,
  inDrawingOrder,
  isHalved,
  readablePart,
  type Share,
  sharesOf,
  wordsAt,
} from '@marmot/core/lanes'
import { clockText, type Instant, minuteOf, toWall, type ZoneTable, zoneTable } from '@marmot/core/time'
import { type CSSProperties, Fragment, memo } from 'react'
import type { Axis } from './axis.ts'
import type { BlockKind, BlockLook, Mark, OverLane } from './types.ts'

/** How a reservation looks on the lanes of others. */
export const RESERVED: BlockLook = { kind: 'reservation' }

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

/** The words of a block for a screen reader and on hover. */
export const blockLabel = (span: BusySpan, table: ZoneTable): string => {
  const clock = (at: number) => clockText(minuteOf(toWall(table, at)))
  const state = span.state === 'busy' && span.title ? '' : `, ${STATE_WORDS[span.state]}`
  return `${clock(span.start)} to ${clock(span.end)}${span.title ? `, ${span.title}` : ''}${state}`
}

interface LaneProps {
  time: LaneTime
  axis: Axis
  width: number
  home: ZoneTable
  /** True where a lane is tall enough for several lines of words, and for those of what is only listed. */
  roomy: boolean
  lookOf?: ((span: BusySpan) => BlockLook | undefined) | undefined
  faint?: ((span: BusySpan) => boolean) | undefined
  movable?: ((span: BusySpan) => boolean) | undefined
  /** The entry whose sheet is open. */
  opened?: string | null | undefined
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

/** What kind of thing a block is, at its left edge. */
export const Kind = ({ kind }: { kind: BlockKind }) =>
  kind === 'own' ? null : <i className={`kind kind-${kind}`} aria-hidden />

/** "10:45 to 11:30 · Serac" in parts, of which those stand that have room: when it begins before when it ends, and where. */
const Under = ({ words }: { words: string }) => (
  <small>
    {words.split(/(?= to | · )/).map((part) => (
      <span key={part}>{part}</span>
    ))}
  </small>
)

/** A block's title with its mark, and the line under it. */
export const Words = ({ words, look }: { words: string; look: BlockLook | undefined }) => (
  <>
    <b>
      {look?.dot && <i className="dot" style={{ background: look.dot }} />}
      {look?.asks && <em className="asks">{look.asks}</em>}
      {words}
      {look?.note && <em>{look.note}</em>}
    </b>
    {look?.under && <Under words={look.under} />}
  </>
)

/**
 * What a press on a block takes hold of. A day off, and what is kept free before and after a meeting, are no entries: one makes an
 * entry there as on free time.
 */
export const pressedPart = (span: BusySpan): 'block' | undefined =>
  span.dayOff || span.gap ? undefined : 'block'

/** A block too narrow for its kind and its words is all edge. */
const KIND_PX = 16
/** So much of a block is enough to press. */
const PRESS_PX = 12

/** The part of the height that a block has, and into how many it is parted there: twice as many with its lower half under others. */
export const partStyle = ({ at, of }: Share, halved: boolean): CSSProperties | undefined => {
  const parts = halved ? of * 2 : of
  return parts === 1 ? undefined : ({ '--at': at / parts, '--nth': at, '--parts': parts } as CSSProperties)
}

/** The ground and the blocks of one lane. Height is the code: how much of it is open says how available it is. */
export const Lane = memo((props: LaneProps) => {
  const { time, axis, width, home, roomy, over, marks } = props
  const table = zoneTable(time.zone)
  const ground = groundOf(time, table, axis.from, axis.to)
  const blocks = time.spans
    .filter((span) => span.end > axis.from && span.start < axis.to)
    .sort(inDrawingOrder)
  const pixelsTo = (at: Instant) => Math.max(0, Math.min(1, axis.at(at))) * width
  const shares = sharesOf(blocks, ((axis.to - axis.from) / width) * PRESS_PX)
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
        const look = props.lookOf?.(span) ?? (span.reserved ? RESERVED : undefined)
        const left = pixelsTo(span.start)
        const pixels = pixelsTo(span.end) - left
        const part = readablePart(blocks, i, shares, !roomy)
        const stacked = roomy || span.state !== 'listed'
        const share = stacked
          ? partStyle(shares[i] ?? ALONE, isHalved(blocks, shares, i) && (roomy || shares[i] !== ALONE))
          : undefined
        // Only a part of a tall lane's whole height is high enough for words beside it.
        const tall = roomy && (span.state === 'busy' || span.state === 'away')
        const until = freeUntil(blocks, i, axis.to, tall ? shares : undefined)
        const from = pixelsTo(part.start)
        const words = blockWords(span)
        const where = wordsAt({
          words,
          note: look?.note ?? look?.asks ?? '',
          inside: Math.max(0, pixelsTo(part.end) - from) - (look && look.kind !== 'own' ? 8 : 0),
          // Beside a block is free time only up to the next one. A mere state needs no words there, since its height says it.
          beside: marks || over || !span.title ? 0 : pixelsTo(until) - pixelsTo(span.end),
          listed: span.state === 'listed',
          roomy,
        })
        // A thin bar along the edge is in the way of words there.
        const beneath =
          where !== null &&
          span.state !== 'listed' &&
          blocks.some((other) => other.state === 'listed' && other.end > span.start && other.start < part.end)
        const spillBeneath =
          where === 'beside' &&
          blocks.some((other) => other.state === 'listed' && other.end > span.end && other.start <= span.end)
        const key = `${span.start}-${span.end}-${span.state}-${span.entryId ?? i}`
        const faint = props.faint?.(span) || undefined
        return (
          <Fragment key={key}>
            <div
              className={`stint stint-${span.state} ${roomy ? 'stint-roomy' : ''}`}
              data-faint={faint}
              data-open-block={(span.entryId !== undefined && span.entryId === props.opened) || undefined}
              data-lifted={span === props.lifted || undefined}
              data-movable={(pixels > 26 && props.movable?.(span)) || undefined}
              data-part={pressedPart(span)}
              data-start={span.start}
              data-entry={span.entryId}
              title={blockLabel(span, home)}
              data-shared={share && (span.state === 'listed' ? 'edge' : roomy ? 'tall' : 'low')}
              style={{ ...placed(axis, span), ...share }}
            >
              {look && pixels >= KIND_PX && <Kind kind={look.kind} />}
              {where === 'inside' && (
                <span
                  data-beneath={beneath || undefined}
                  style={
                    from > left || pixelsTo(part.end) < left + pixels
                      ? { marginLeft: from - left, maxWidth: pixelsTo(part.end) - from }
                      : undefined
                  }
                >
                  <Words words={words} look={look} />
                </span>
              )}
            </div>
            {where === 'beside' && (
              <span
                className={`spill spill-${span.state}`}
                data-beneath={spillBeneath || undefined}
                data-faint={faint}
                style={{
                  ...(tall && share),
                  left: percent(axis.at(span.end)),
                  maxWidth: percent(Math.min(1, axis.at(until)) - axis.at(span.end)),
                }}
              >
                <Words words={words} look={look} />
              </span>
            )}
          </Fragment>
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
