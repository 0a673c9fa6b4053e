import {
  type During,
  during,
  type LaneTime,
  MOST_STRETCH,
  mergeSpans,
  NEAR,
  workingSpans,
} from '../availability/index.ts'
import { DAY, dayOf, type Instant, MINUTE, toWall, zoneTable } from '../time/index.ts'

/** Somebody whose time an opening must, or should, fit. */
export interface Asked {
  readonly id: string
  readonly required: boolean
  readonly time: LaneTime
}

/** What a meeting needs, as far as the search goes. Instants in milliseconds, lengths in minutes. */
export interface SearchBrief {
  readonly people: readonly Asked[]
  readonly minutes: number
  /** The opening lies inside `[from, to)`; starts are tried on the grid of `step` minutes of the Unix clock. */
  readonly from: Instant
  readonly to: Instant
  readonly step: number
}

/** Every start that was tried, as rows of numbers: one position for each start, `first + i * stepMs`. */
export interface StartGrid {
  readonly first: Instant
  readonly stepMs: number
  readonly count: number
  readonly lengthMs: number
  /** 1 where every required person whose time is known is free. */
  readonly free: Uint8Array
  /** How many optional people are not free. */
  readonly missing: Uint16Array
  /** How far outside working hours, in minutes, summed over the required people. */
  readonly stretch: Uint32Array
}

/** A time that satisfies the brief. `from` to `to` is how far its start can slide and stay one. */
export interface Opening {
  readonly start: Instant
  readonly end: Instant
  readonly from: Instant
  readonly to: Instant
  /** How far it lies outside the required people's working hours, in minutes, summed. */
  readonly stretch: number
  readonly missing: number
}

/** Where openings lie on the lanes: the sunlight. `missing` optional people, `stretch` minutes at the least. */
export interface Band {
  readonly start: Instant
  readonly end: Instant
  readonly missing: number
  readonly stretch: number
}

export interface Found {
  readonly openings: readonly Opening[]
  readonly bands: readonly Band[]
  /** People, required or not, whose time cannot be seen: never counted as free. */
  readonly unknown: readonly string[]
  readonly grid: StartGrid
}

/** A search over more than this many starts is refused by `searchOpenings`: two years in five-minute steps. */
export const MOST_STARTS = 220_000

/**
 * When no time fits everybody's hours, openings that cost somewhat more than the least are shown beside it, so that
 * there is a choice: up to an hour more, or a quarter of the least where that is more.
 */
const SLACK_MINUTES = 60
const SLACK_SHARE = 0.25

/** A brief that cannot be searched; `code` is stable, the message is for a person. */
export class BadBrief extends Error {
  constructor(
    readonly code: 'no-window' | 'window-too-long' | 'bad-length' | 'bad-step' | 'nobody-required',
    message: string,
  ) {
    super(message)
  }
}

const check = (brief: SearchBrief): void => {
  if (!(brief.minutes > 0)) throw new BadBrief('bad-length', 'A meeting needs a length of at least a minute.')
  if (!(brief.step > 0)) throw new BadBrief('bad-step', 'The step must be at least a minute.')
  if (!(brief.to > brief.from)) throw new BadBrief('no-window', 'The window ends before it starts.')
  if ((brief.to - brief.from) / (brief.step * MINUTE) > MOST_STARTS)
    throw new BadBrief('window-too-long', 'The window is longer than two years.')
  if (!brief.people.some((person) => person.required))
    throw new BadBrief('nobody-required', 'At least one person has to be required.')
}

const emptyGrid = (brief: SearchBrief): StartGrid => {
  const stepMs = brief.step * MINUTE
  const lengthMs = brief.minutes * MINUTE
  const first = Math.ceil(brief.from / stepMs) * stepMs
  const count = Math.max(0, Math.floor((brief.to - lengthMs - first) / stepMs) + 1)
  return {
    first,
    stepMs,
    count,
    lengthMs,
    free: new Uint8Array(count),
    missing: new Uint16Array(count),
    stretch: new Uint32Array(count),
  }
}

/**
 * Adds 1 to `edges` at the first start that collides with a busy span and takes it away after the last. A start `s`
 * collides when `start - length < s < end`, which is exact for any length, also one that is no multiple of the step.
 * The sums of `edges` from the left are then the number of people who are blocked.
 */
const markBlocked = (edges: Int32Array, grid: StartGrid, time: LaneTime): void => {
  const blocking = time.spans.filter((span) => span.state !== 'listed')
  let reached = 0
  // Merged and in order, so no start is counted twice for one person.
  for (const span of mergeSpans(blocking)) {
    const low = Math.max(reached, Math.floor((span.start - grid.lengthMs - grid.first) / grid.stepMs) + 1)
    const high = Math.min(grid.count, Math.ceil((span.end - grid.first) / grid.stepMs))
    if (high <= low) continue
    edges[low] = (edges[low] ?? 0) + 1
    edges[high] = (edges[high] ?? 0) - 1
    reached = high
  }
}

/**
 * For every start, how far the opening lies outside somebody's working hours, in minutes: `stretchOf` for the whole
 * grid in one pass. `low` and `high` walk the sorted spans with the opening's two ends; the working time before each
 * end gives the minutes worked by subtraction, and the spans beside it the way to the nearest.
 */
const stretchRow = (grid: StartGrid, time: LaneTime): Uint32Array => {
  const table = zoneTable(time.zone)
  const last = grid.first + grid.count * grid.stepMs + grid.lengthMs
  const spans = workingSpans(time.hours, table, grid.first - NEAR, last + NEAR)
  const found = new Uint32Array(grid.count)
  let low = 0
  let high = 0
  let beforeLow = 0
  let beforeHigh = 0
  for (let i = 0; i < grid.count; i++) {
    const start = grid.first + i * grid.stepMs
    const end = start + grid.lengthMs
    for (let span = spans[low]; span && span.end <= start; span = spans[++low])
      beforeLow += span.end - span.start
    for (let span = spans[high]; span && span.end <= end; span = spans[++high])
      beforeHigh += span.end - span.start
    const lowSpan = spans[low]
    const highSpan = spans[high]
    const untilStart = beforeLow + (lowSpan ? Math.max(0, start - lowSpan.start) : 0)
    const untilEnd = beforeHigh + (highSpan ? Math.max(0, end - highSpan.start) : 0)
    const worked = untilEnd - untilStart
    let minutes = (grid.lengthMs - worked) / MINUTE
    if (worked === 0) {
      const before = spans[low - 1]
      const wayBack = before ? start - before.end : NEAR
      const wayOn = lowSpan ? Math.max(0, lowSpan.start - end) : NEAR
      minutes += Math.min(wayBack, wayOn) / MINUTE
    }
    found[i] = Math.min(MOST_STRETCH, Math.round(minutes))
  }
  return found
}

const patternOf = (time: LaneTime): string =>
  `${time.zone} ${time.hours.map((part) => `${part.weekday}:${part.from}-${part.to}`).join(' ')}`

/**
 * Fills the grid of starts. Cost: the sort of the busy spans, then one pass over the starts for the counts and one
 * for each different working pattern (people of one site mostly share theirs).
 */
export const fillGrid = (brief: SearchBrief): StartGrid => {
  const grid = emptyGrid(brief)
  const required = new Int32Array(grid.count + 1)
  const optional = new Int32Array(grid.count + 1)
  const patterns = new Map<string, { time: LaneTime; people: number }>()
  for (const person of brief.people) {
    if (!person.time.known) continue
    markBlocked(person.required ? required : optional, grid, person.time)
    if (!person.required) continue
    const key = patternOf(person.time)
    const known = patterns.get(key)
    if (known) known.people++
    else patterns.set(key, { time: person.time, people: 1 })
  }
  let blocked = 0
  let missing = 0
  for (let i = 0; i < grid.count; i++) {
    blocked += required[i] ?? 0
    missing += optional[i] ?? 0
    grid.free[i] = blocked === 0 ? 1 : 0
    grid.missing[i] = missing
  }
  for (const { time, people } of patterns.values()) {
    const row = stretchRow(grid, time)
    for (let i = 0; i < grid.count; i++) grid.stretch[i] = (grid.stretch[i] ?? 0) + people * (row[i] ?? 0)
  }
  return grid
}

/**
 * The most stretch that still counts as an opening: none when some time fits everybody's hours, else the least there
 * is and the slack beyond it. -1 when no start is free at all.
 */
const allowedStretch = (grid: StartGrid): number => {
  let least = Number.POSITIVE_INFINITY
  for (let i = 0; i < grid.count; i++) if (grid.free[i]) least = Math.min(least, grid.stretch[i] ?? 0)
  if (least === Number.POSITIVE_INFINITY) return -1
  return least === 0 ? 0 : least + Math.max(SLACK_MINUTES, least * SLACK_SHARE)
}

/** Fewer missing first, then less stretch, then sooner. */
export const rankOpenings = (a: Opening, b: Opening): number =>
  a.missing - b.missing || a.stretch - b.stretch || a.start - b.start

/**
 * The openings of a brief: starts at which every required person whose time is known is free, inside everybody's
 * working hours, or else with the fewest minutes of stretch. Neighbouring starts are one opening, taken where it
 * costs least; `from` and `to` tell how far it slides. Ranked, best first. Throws `BadBrief`, `UnknownZone`.
 */
export const searchOpenings = (brief: SearchBrief): Found => {
  check(brief)
  const grid = fillGrid(brief)
  const allowed = allowedStretch(grid)
  const fits = (i: number) => grid.free[i] === 1 && (grid.stretch[i] ?? 0) <= allowed
  const openings: Opening[] = []
  const bands: Band[] = []
  for (let i = 0; i < grid.count; i++) {
    if (!fits(i)) continue
    let last = i
    let best = i
    while (last + 1 < grid.count && fits(last + 1) && grid.missing[last + 1] === grid.missing[i]) {
      last++
      if ((grid.stretch[last] ?? 0) < (grid.stretch[best] ?? 0)) best = last
    }
    const from = grid.first + i * grid.stepMs
    const to = grid.first + last * grid.stepMs
    const start = grid.first + best * grid.stepMs
    const missing = grid.missing[i] ?? 0
    const stretch = grid.stretch[best] ?? 0
    openings.push({ start, end: start + grid.lengthMs, from, to, stretch, missing })
    bands.push({ start: from, end: to + grid.lengthMs, missing, stretch })
    i = last
  }
  return {
    openings: openings.sort(rankOpenings),
    bands,
    unknown: brief.people.filter((person) => !person.time.known).map((person) => person.id),
    grid,
  }
}

/** The nearest opening after (`way` 1) or before (-1) a start, or null. */
export const nextOpening = (openings: readonly Opening[], start: Instant, way: 1 | -1): Opening | null => {
  const ahead = openings.filter((opening) => (way === 1 ? opening.start > start : opening.start < start))
  return ahead.reduce<Opening | null>(
    (near, opening) => (near === null || (opening.start - near.start) * way < 0 ? opening : near),
    null,
  )
}

/** How each asked person stands at a chosen time, in the order asked. */
export const reasonsFor = (
  people: readonly Asked[],
  chosen: { start: Instant; end: Instant },
): { id: string; required: boolean; how: During }[] =>
  people.map((person) => ({
    id: person.id,
    required: person.required,
    how: during(person.time, zoneTable(person.time.zone), chosen),
  }))

/** The best opening of each day in a zone, best first, at most `most`: what the cards show. */
export const bestOfEachDay = (openings: readonly Opening[], zone: string, most: number): Opening[] => {
  const table = zoneTable(zone)
  const days = new Set<number>()
  const best: Opening[] = []
  for (const opening of openings) {
    const day = dayOf(toWall(table, opening.start))
    if (days.has(day)) continue
    days.add(day)
    best.push(opening)
    if (best.length === most) break
  }
  return best
}

/** For each day from `firstDay`, the share of its hours (0 to 1, of eight) that openings cover: the ribbon's fill. */
export const ribbonFill = (
  bands: readonly Band[],
  zone: string,
  firstDay: number,
  days: number,
): Float32Array => {
  const table = zoneTable(zone)
  const fill = new Float32Array(days)
  for (const band of bands) {
    let at = toWall(table, band.start)
    const end = toWall(table, band.end)
    while (at < end) {
      const day = dayOf(at)
      const until = Math.min(end, (day + 1) * DAY)
      const index = day - firstDay
      if (index >= 0 && index < days) fill[index] = (fill[index] ?? 0) + (until - at) / (8 * 60 * MINUTE)
      at = until
    }
  }
  return fill.map((part) => Math.min(1, part))
}
