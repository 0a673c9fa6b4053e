export * from './line.ts'
export * from './names.ts'
export * from './note.ts'
export * from './plan.ts'
export * from './scope.ts'

import {
  DAY,
  fromWall,
  type Instant,
  instantOf,
  isZone,
  MINUTE,
  minuteOf,
  type WallFit,
  wallFromText,
  zoneTable,
} from '../time/index.ts'

/** The longest a single date may be: 31 days, so that a search for what touches a day need not look back further. */
export const LONGEST_MINUTES = (31 * DAY) / MINUTE

/** The longest formatted text of an entry, in characters of HTML: what can be typed can be imported, and the other way. */
export const MOST_NOTE = 50_000

/** What is wrong with a time, with the field at fault. `code` is stable; the message is for a person. */
export interface TimeProblem {
  readonly code: 'unknown-zone' | 'bad-time' | 'no-length' | 'ends-before-start' | 'too-long'
  readonly field: 'zone' | 'starts' | 'minutes'
  readonly message: string
}

/** A checked time. `fit` is `gap` when daylight saving skipped the hour and the start moved on. */
export interface CheckedTime {
  readonly start: Instant
  readonly end: Instant
  readonly fit: WallFit
}

/**
 * Checks a wall time (`YYYY-MM-DDTHH:mm`), zone and length in minutes, and gives the instants they mean. The length of an
 * all-day entry is days on the calendar, so that a day of 23 hours is a day.
 */
export const checkTime = (
  starts: string,
  minutes: number,
  zone: string,
  allDay = false,
): CheckedTime | TimeProblem => {
  if (!isZone(zone))
    return { code: 'unknown-zone', field: 'zone', message: `There is no time zone called "${zone}".` }
  const wall = wallFromText(starts)
  if (wall === null)
    return { code: 'bad-time', field: 'starts', message: `"${starts}" is not a time like 2026-12-03T14:00.` }
  if (minutes === 0)
    return { code: 'no-length', field: 'minutes', message: 'It ends when it starts. Give it a length.' }
  if (minutes < 0)
    return { code: 'ends-before-start', field: 'minutes', message: 'It ends before it starts.' }
  if (minutes > LONGEST_MINUTES)
    return {
      code: 'too-long',
      field: 'minutes',
      message: 'It is longer than 31 days, the most a single entry can be.',
    }
  const table = zoneTable(zone)
  if (!allDay) {
    const { instant, fit } = fromWall(table, wall)
    return { start: instant, end: instant + minutes * MINUTE, fit }
  }
  if (minuteOf(wall) !== 0 || minutes % 1440 !== 0)
    return {
      code: 'bad-time',
      field: 'minutes',
      message: 'An all-day entry begins at midnight and lasts whole days.',
    }
  return { start: instantOf(table, wall), end: instantOf(table, wall + minutes * MINUTE), fit: 'exact' }
}

/** Tells a problem from a checked time. */
export const isTimeProblem = (checked: CheckedTime | TimeProblem): checked is TimeProblem => 'code' in checked
