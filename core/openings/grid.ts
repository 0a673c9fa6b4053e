import { type Instant, MINUTE, offsetAt, zoneTable } from '../time/index.ts'
import { type Bits, setRange } from './bits.ts'
import type { SearchBrief } from './brief.ts'

/** Every start that is tried: `first + i * stepMs` for `i` from 0 up to `count`; instants and lengths in milliseconds. */
export interface Grid {
  readonly first: Instant
  readonly stepMs: number
  readonly count: number
  readonly lengthMs: number
}

/** The starts of a brief's window, on the clock of the organizer's zone as it stands when the window begins. */
export const gridOf = (brief: Pick<SearchBrief, 'from' | 'to' | 'step' | 'minutes' | 'zone'>): Grid => {
  const stepMs = brief.step * MINUTE
  const lengthMs = brief.minutes * MINUTE
  const offset = offsetAt(zoneTable(brief.zone), brief.from)
  const first = Math.ceil((brief.from + offset) / stepMs) * stepMs - offset
  const count = Math.max(0, Math.floor((brief.to - lengthMs - first) / stepMs) + 1)
  return { first, stepMs, count, lengthMs }
}

export const startOf = (grid: Grid, i: number): Instant => grid.first + i * grid.stepMs

/** The first start at or after an instant, within `[0, count]`. */
export const indexFrom = (grid: Grid, at: Instant): number =>
  Math.max(0, Math.min(grid.count, Math.ceil((at - grid.first) / grid.stepMs)))

/** Marks the starts at which a meeting would touch `[start, end)`: `start - length < s < end`. */
export const markTouching = (bits: Bits, grid: Grid, start: Instant, end: Instant): void => {
  const low = Math.max(0, Math.floor((start - grid.lengthMs - grid.first) / grid.stepMs) + 1)
  setRange(bits, low, indexFrom(grid, end))
}

/** Marks the starts `s` with `from <= s <= last`. */
export const markStarts = (bits: Bits, grid: Grid, from: Instant, last: Instant): void =>
  setRange(
    bits,
    indexFrom(grid, from),
    Math.min(grid.count, Math.floor((last - grid.first) / grid.stepMs) + 1),
  )
