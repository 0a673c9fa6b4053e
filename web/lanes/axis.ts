import {
  clockText,
  type Day,
  dayOf,
  HOUR,
  type Instant,
  instantOf,
  MINUTE,
  minuteOf,
  offsetAt,
  shortDay,
  toWall,
  wallOf,
  type ZoneTable,
} from '@marmot/core/time'

/** Joins time and place on a lane: `at` gives 0 to 1 from left to right, `instant` goes back. */
export interface Axis {
  readonly from: Instant
  readonly to: Instant
  readonly at: (instant: Instant) => number
  readonly instant: (fraction: number) => Instant
}

/** True to elapsed time: every lane on it shows the same moment at the same place, whatever its zone. */
export const instantAxis = (from: Instant, to: Instant): Axis => ({
  from,
  to,
  at: (instant) => (instant - from) / (to - from),
  instant: (fraction) => from + fraction * (to - from),
})

/** True to the clock on the wall: days under one another keep their hours in line, through daylight saving too. */
export const wallAxis = (table: ZoneTable, day: Day, fromMinute: number, toMinute: number): Axis => {
  const start = wallOf(day, fromMinute)
  const length = (toMinute - fromMinute) * MINUTE
  return {
    from: instantOf(table, start),
    to: instantOf(table, start + length),
    at: (instant) => (toWall(table, instant) - start) / length,
    instant: (fraction) => instantOf(table, start + fraction * length),
  }
}

/**
 * Several days beside one another, each with the same hours on the wall: what lies outside them falls on the edge between
 * two days. `fromMinute` and `toMinute` count from midnight.
 */
export const daysAxis = (
  table: ZoneTable,
  first: Day,
  days: number,
  fromMinute: number,
  toMinute: number,
): Axis => {
  const length = (toMinute - fromMinute) * MINUTE
  return {
    from: instantOf(table, wallOf(first)),
    to: instantOf(table, wallOf(first + days)),
    at: (instant) => {
      const wall = toWall(table, instant)
      const day = dayOf(wall)
      const within = (wall - wallOf(day, fromMinute)) / length
      return (day - first + Math.max(0, Math.min(1, within))) / days
    },
    instant: (fraction) => {
      const day = Math.max(0, Math.min(days - 1, Math.floor(fraction * days)))
      return instantOf(table, wallOf(first + day, fromMinute) + (fraction * days - day) * length)
    },
  }
}

/** The nearest time on the grid of `step` minutes, counted in the wall time of a zone. */
export const snap = (instant: Instant, step: number, table: ZoneTable): Instant => {
  const offset = offsetAt(table, instant)
  const grid = step * MINUTE
  return Math.round((instant + offset) / grid) * grid - offset
}

export interface Tick {
  readonly fraction: number
  readonly clock: string
  /** The day, where it begins or at the first tick. */
  readonly day: string | null
}

const SPACINGS = [1, 2, 3, 4, 6, 12, 24, 48, 168]

/**
 * Ticks of a ruler `width` pixels wide: in line under one another on every ruler, each saying the local time of its
 * own zone there. The spacing is the least that leaves 58 pixels a label.
 */
export const ticksOf = (axis: Axis, home: ZoneTable, zone: ZoneTable, width: number): Tick[] => {
  const hours = (axis.to - axis.from) / HOUR
  const spacing = SPACINGS.find((each) => (width / hours) * each >= 58) ?? 168
  const ticks: Tick[] = []
  const first = toWall(home, axis.from)
  const midnight = wallOf(dayOf(first))
  let before: number | null = null
  let last = Number.NEGATIVE_INFINITY
  for (let wall = midnight; ; wall += spacing * HOUR) {
    const instant = instantOf(home, wall)
    if (instant >= axis.to) break
    // An hour that daylight saving skips falls on the next one, which has its tick.
    if (instant < axis.from || instant === last) continue
    last = instant
    const local = toWall(zone, instant)
    const day = dayOf(local)
    ticks.push({
      fraction: axis.at(instant),
      clock: clockText(minuteOf(local)),
      day: day === before ? null : shortDay(day),
    })
    before = day
  }
  return ticks
}
