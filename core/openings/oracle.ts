import type { LaneTime } from '../availability/index.ts'
import { MOST_STRETCH } from '../availability/index.ts'
import { dayOf, MINUTE, minuteOf, toWall, weekdayOf, zoneTable } from '../time/index.ts'
import type { SearchBrief } from './index.ts'

/** One start as the plainest possible search sees it. */
export interface PlainStart {
  readonly start: number
  readonly free: boolean
  readonly missing: number
  readonly stretch: number
}

/** Whether a minute is worked, asked of the clock on the wall. */
const isWorked = (time: LaneTime, at: number): boolean => {
  const wall = toWall(zoneTable(time.zone), at)
  const minute = minuteOf(wall)
  const weekday = weekdayOf(dayOf(wall))
  const before = weekday === 1 ? 7 : weekday - 1
  return time.hours.some(
    (part) =>
      (part.weekday === weekday && minute >= part.from && minute < part.to) ||
      (part.weekday === before && minute + 1440 >= part.from && minute + 1440 < part.to),
  )
}

const isFree = (time: LaneTime, start: number, end: number): boolean =>
  !time.spans.some((span) => span.state !== 'listed' && span.start < end && span.end > start)

const FIRST = Date.UTC(2026, 0, 1)
const MINUTES = 2 * 366 * 1440
const remembered = new Map<string, Int8Array>()

/** `isWorked`, each minute of 2026 and 2027 asked once for a zone and pattern: the same ones come up again and again. */
const workedMinutes = (time: LaneTime) => {
  const key = JSON.stringify([time.zone, time.hours])
  const minutes = remembered.get(key) ?? new Int8Array(MINUTES)
  remembered.set(key, minutes)
  return (at: number): boolean => {
    const index = (at - FIRST) / MINUTE
    if (!minutes[index]) minutes[index] = isWorked(time, at) ? 1 : -1
    return minutes[index] === 1
  }
}

const stretchByMinutes = (worked: (at: number) => boolean, start: number, end: number): number => {
  let outside = 0
  for (let at = start; at < end; at += MINUTE) if (!worked(at)) outside++
  if (outside * MINUTE < end - start) return outside
  for (let away = 0; away < MOST_STRETCH; away++) {
    if (worked(start - MINUTE - away * MINUTE) || worked(end + away * MINUTE))
      return Math.min(MOST_STRETCH, outside + away)
  }
  return MOST_STRETCH
}

/**
 * The search as one would do it by hand: every start, every person, every busy span, every minute. Slow, and plainly
 * right; what `fillGrid` gives must be the same.
 */
export const plainSearch = (brief: SearchBrief): PlainStart[] => {
  const known = brief.people.filter((person) => person.time.known)
  const worked = new Map(known.map((person) => [person.id, workedMinutes(person.time)]))
  const found: PlainStart[] = []
  const step = brief.step * MINUTE
  for (
    let start = Math.ceil(brief.from / step) * step;
    start + brief.minutes * MINUTE <= brief.to;
    start += step
  ) {
    const end = start + brief.minutes * MINUTE
    let free = true
    let missing = 0
    let stretch = 0
    for (const person of known) {
      const theirs = isFree(person.time, start, end)
      if (!person.required) {
        if (!theirs) missing++
        continue
      }
      if (!theirs) free = false
      const minutes = worked.get(person.id)
      stretch +=
        minutes && person.time.hours.length > 0 ? stretchByMinutes(minutes, start, end) : MOST_STRETCH
    }
    found.push({ start, free, missing, stretch })
  }
  return found
}
