import { clockText, dayOf, type Instant, minuteOf, shortDay, toWall, type ZoneTable } from '@marmot/core/time'
import { memo } from 'react'
import { type Axis, ticksOf } from './axis.ts'
import { type Plumb, usePlumb } from './plumb.ts'

const LABEL_WIDTH = 58

const Ticks = memo(
  ({
    axis,
    home,
    zone,
    width,
    days,
  }: {
    axis: Axis
    home: ZoneTable
    zone: ZoneTable
    width: number
    days: boolean
  }) => (
    <>
      {ticksOf(axis, home, zone, width).map((tick) => (
        <span
          key={tick.fraction}
          className="tick"
          style={{ left: `${tick.fraction * 100}%` }}
          data-last={tick.fraction * width > width - LABEL_WIDTH / 2 ? true : undefined}
        >
          {days && tick.day ? <b>{tick.day}</b> : tick.clock}
        </span>
      ))}
    </>
  ),
)

const localTime = (at: Instant, zone: ZoneTable, home: ZoneTable): string => {
  const wall = toWall(zone, at)
  const day = dayOf(wall)
  return `${day === dayOf(toWall(home, at)) ? '' : `${shortDay(day).slice(0, 3)} `}${clockText(minuteOf(wall))}`
}

/** The local hour where the plumb line crosses a ruler, with the day if it differs from mine. */
const PlumbHour = ({
  plumb,
  axis,
  zone,
  home,
}: {
  plumb: Plumb
  axis: Axis
  zone: ZoneTable
  home: ZoneTable
}) => {
  const at = usePlumb(plumb)
  if (at === null || at < axis.from || at > axis.to) return null
  return (
    <span className="hour hour-plumb" style={{ left: `${axis.at(at) * 100}%` }}>
      {localTime(at, zone, home)}
    </span>
  )
}

/** A zone's ruler: its own hours, the chosen time and the plumb line in them. */
export const Ruler = ({
  axis,
  home,
  zone,
  width,
  plumb,
  chosen,
  days,
}: {
  axis: Axis
  home: ZoneTable
  zone: ZoneTable
  width: number
  plumb: Plumb
  chosen: { start: Instant; end: Instant } | null
  days: boolean
}) => {
  const shown = chosen && chosen.end > axis.from && chosen.start < axis.to ? chosen : null
  return (
    <div className="ruler" aria-hidden>
      <Ticks axis={axis} home={home} zone={zone} width={width} days={days} />
      {shown && (
        <span
          className="hour hour-chosen"
          style={{ left: `${((axis.at(shown.start) + axis.at(shown.end)) / 2) * 100}%` }}
        >
          {localTime(shown.start, zone, home)}–{clockText(minuteOf(toWall(zone, shown.end)))}
        </span>
      )}
      <PlumbHour plumb={plumb} axis={axis} zone={zone} home={home} />
    </div>
  )
}
