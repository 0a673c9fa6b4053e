import type { Opening } from '../openings/index.ts'
import { DAY, dayOf, type Instant, instantOf, MINUTE, toWall, weekdayOf, zoneTable } from '../time/index.ts'

/** What narrows openings to the times that are asked about. Minutes since midnight in the asker's zone. */
export interface Narrowing {
  readonly fromMinute: number
  readonly toMinute: number
  /** 1 is Monday; none is any. */
  readonly weekdays: readonly number[]
  /** Whether times are left out at which somebody whose time is known cannot come. */
  readonly all: boolean
  /** At most so many on one day, and in all. */
  readonly aDay: number
  readonly most: number
  /** None begins before that instant. */
  readonly earliest: Instant
}

/** The start within an opening that lies nearest to its best one and within the hours, or null. */
const startWithin = (
  { start, end, from, to }: Pick<Opening, 'start' | 'end' | 'from' | 'to'>,
  zone: string,
  { fromMinute, toMinute, weekdays, earliest: notBefore }: Narrowing,
): Instant | null => {
  const table = zoneTable(zone)
  const day = dayOf(toWall(table, start))
  if (weekdays.length > 0 && !weekdays.includes(weekdayOf(day))) return null
  const earliest = Math.max(from, notBefore, instantOf(table, day * DAY + fromMinute * MINUTE))
  const latest = Math.min(to, instantOf(table, day * DAY + toMinute * MINUTE) - (end - start))
  return earliest > latest ? null : Math.min(latest, Math.max(earliest, start))
}

/**
 * The starts to ask about, of openings that come best first: within the hours and weekdays, no two that overlap, so many a day.
 * In order of time; instants in milliseconds.
 */
export const candidateStarts = (
  openings: readonly Opening[],
  zone: string,
  narrowing: Narrowing,
): Instant[] => {
  const table = zoneTable(zone)
  const chosen: { start: Instant; end: Instant; day: number }[] = []
  for (const opening of openings) {
    if (chosen.length >= narrowing.most) break
    if (narrowing.all && opening.parts.missing.length > 0) continue
    const start = startWithin(opening, zone, narrowing)
    if (start === null) continue
    const end = start + (opening.end - opening.start)
    const day = dayOf(toWall(table, start))
    if (chosen.some((one) => one.start < end && start < one.end)) continue
    if (chosen.filter((one) => one.day === day).length >= narrowing.aDay) continue
    chosen.push({ start, end, day })
  }
  return chosen.map((one) => one.start).sort((a, b) => a - b)
}
