import {
  civilOf,
  DAY,
  type Day,
  dayFromCivil,
  dayOf,
  fromWall,
  type Instant,
  MINUTE,
  minuteOf,
  toWall,
  type Wall,
  wallOf,
  weekdayOf,
  weekStart,
  zoneTable,
} from '../time/index.ts'
import { type Bits, bitAt, bitsFor, nextBit, setRange } from './bits.ts'
import { toEnd } from './breath.ts'
import { checkBrief, type SearchBrief, type SearchPlace } from './brief.ts'
import { type Grid, indexFrom, startOf } from './grid.ts'
import { assignPlaces, freeRows, type PlaceRows, placeRowsOf } from './places.ts'
import { type Rows, rowsOf } from './rows.ts'
import { stretchIn } from './score.ts'
import { peopleFree } from './search.ts'
import { type Blocker, hindranceAt } from './why-not.ts'

/** How a series repeats: every so many weeks, or on the same weekday of every so many months (the 2nd Tuesday). */
export interface SeriesRule {
  readonly every: number
  readonly unit: 'week' | 'month'
  readonly count: number
}

export const MOST_DATES = 60
const MOST_SLOTS = 12

const BYDAY = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU']

/** The nth weekday of its month that a day is: 1 to 5. */
const nthOf = (day: Day): number => Math.ceil(civilOf(day).date / 7)

/** The RRULE of a series that begins on a day (RFC 5545 section 3.3.10). */
export const seriesRule = (rule: SeriesRule, first: Day): string => {
  const interval = rule.every === 1 ? '' : `;INTERVAL=${rule.every}`
  const weekday = BYDAY[weekdayOf(first) - 1]
  return rule.unit === 'week'
    ? `FREQ=WEEKLY${interval};COUNT=${rule.count};BYDAY=${weekday}`
    : `FREQ=MONTHLY${interval};COUNT=${rule.count};BYDAY=${nthOf(first)}${weekday}`
}

/** The dates of a series from its first on, on the clock on the wall. A month without a 5th Tuesday is passed over. */
export const seriesWalls = (rule: SeriesRule, first: Wall): Wall[] => {
  const day = dayOf(first)
  const within = first - wallOf(day)
  if (rule.unit === 'week')
    return Array.from({ length: rule.count }, (_, k) => first + k * rule.every * 7 * DAY)
  const nth = nthOf(day)
  const weekday = weekdayOf(day)
  const { year, month } = civilOf(day)
  const walls: Wall[] = []
  for (let k = 0; walls.length < rule.count; k += rule.every) {
    const months = year * 12 + (month - 1) + k
    const start = dayFromCivil(Math.floor(months / 12), (months % 12) + 1, 1) ?? 0
    const date = start + ((weekday - weekdayOf(start) + 7) % 7) + (nth - 1) * 7
    if (civilOf(date).month === (months % 12) + 1) walls.push(wallOf(date) + within)
  }
  return walls
}

/** Another way for one date of a series. */
export type Repair =
  | { readonly kind: 'time' | 'day'; readonly start: Instant }
  | { readonly kind: 'place'; readonly start: Instant; readonly instead: readonly string[] }

/** One date of a series: when it should be, what is in the way, and what else there is. */
export interface SeriesDate {
  /** Wall time in the organizer's zone: iCalendar's RECURRENCE-ID. */
  readonly recurrence: Wall
  readonly start: Instant
  readonly blockers: readonly Blocker[]
  /** Places of the series that are taken then, by id. */
  readonly placesTaken: readonly string[]
  readonly repairs: readonly Repair[]
}

/** A weekday and hour for a whole series. */
export interface SeriesSlot {
  readonly first: Instant
  readonly clashes: number
  /** Minutes of stretch, summed over people and dates that do not clash. */
  readonly stretch: number
  readonly dates: readonly SeriesDate[]
  /** The places it would take, by id: those that are free on most of its dates. */
  readonly places: readonly string[]
}

interface Ground {
  readonly brief: SearchBrief
  readonly rows: Rows
  readonly grid: Grid
  readonly able: Bits
  readonly free: Bits
  readonly places: PlaceRows | null
}

const LONGEST_MONTH = 31

/** The end of the window that a series needs: its last date and the week around it. */
export const seriesEnd = (brief: Pick<SearchBrief, 'from'>, rule: SeriesRule): Instant => {
  const period = rule.every * (rule.unit === 'week' ? 7 : LONGEST_MONTH)
  // A 5th weekday is missing from about two months of three.
  const missing = rule.unit === 'month' ? 3 : 1
  return brief.from + (period * rule.count * missing + 14) * DAY
}

const groundOf = (brief: SearchBrief, rule: SeriesRule): Ground => {
  // Half-hour changes of clocks move dates off a grid of whole hours.
  const step = brief.step === 60 ? 30 : brief.step
  const whole = { ...brief, step, to: Math.min(seriesEnd(brief, rule), brief.from + 731 * DAY) }
  checkBrief(whole)
  const rows = rowsOf(whole)
  const able = peopleFree(rows)
  const places = placeRowsOf(whole, rows.grid)
  const free = able.slice()
  if (places?.wanted.must)
    for (let w = 0; w < free.length; w++) free[w] = (free[w] ?? 0) & (places.possible[w] ?? 0)
  return { brief: whole, rows, grid: rows.grid, able, free, places }
}

const indexOf = (grid: Grid, at: Instant): number => {
  const i = (at - grid.first) / grid.stepMs
  return Number.isInteger(i) && i >= 0 && i < grid.count ? i : -1
}

interface Candidate {
  readonly wall: Wall
  readonly starts: readonly Instant[]
  readonly clashes: number
  readonly stretch: number
}

const weigh = (ground: Ground, rule: SeriesRule, wall: Wall): Candidate => {
  const table = zoneTable(ground.brief.zone)
  const { grid, free, rows } = ground
  const starts = seriesWalls(rule, wall).map((each) => fromWall(table, each).instant)
  let clashes = 0
  let stretch = 0
  for (const start of starts) {
    const i = indexOf(grid, start)
    if (i < 0 || !bitAt(free, i)) {
      clashes++
      continue
    }
    for (const row of rows.people)
      if (row.asked.required && row.asked.time.known)
        stretch += stretchIn(row.pattern, start, start + grid.lengthMs)
  }
  return { wall, starts, clashes, stretch }
}

/** Fewest clashes first, then least stretch, then soonest. */
const rankCandidates = (a: Candidate, b: Candidate): number =>
  a.clashes - b.clashes || a.stretch - b.stretch || a.wall - b.wall

/** The free start in `[low, high)` for which `far` is least, or -1. */
const nearestFree = (free: Bits, low: number, high: number, far: (i: number) => number): number => {
  let best = -1
  for (let i = nextBit(free, low); i >= 0 && i < high; i = nextBit(free, i + 1))
    if (best < 0 || far(i) < far(best)) best = i
  return best
}

/** Another time that day, another day that week (at the same hour where it can be), other places. */
const repairsFor = (ground: Ground, start: Instant, taken: readonly SearchPlace[]): Repair[] => {
  const { grid, free, able, places, brief } = ground
  const table = zoneTable(brief.zone)
  const wall = toWall(table, start)
  const day = dayOf(wall)
  const startOfDay = (each: Day) => indexFrom(grid, fromWall(table, wallOf(each)).instant)
  const repairs: Repair[] = []
  const i = indexOf(grid, start)
  if (taken.length > 0 && i >= 0 && bitAt(able, i) && places) {
    // A place of the same kind on the same site, with as many seats, for each that is taken.
    const slots = taken.map((place) => ({
      siteId: place.siteId,
      seats: place.seats,
      features: {},
      places: places.wanted.all.flatMap((other, index) =>
        other.kind === place.kind &&
        other.siteId === place.siteId &&
        other.mayTake &&
        other.id !== place.id &&
        other.seats >= place.seats
          ? [index]
          : [],
      ),
    }))
    const indices = slots.flatMap((slot) => slot.places)
    const others = toEnd(freeRows(places.wanted.all, indices, grid))
    const found = assignPlaces(slots, places.wanted.all, (index) => {
      const row = others.get(index)
      return row !== undefined && bitAt(row, i)
    })
    if (found.lacking === 0)
      repairs.push({ kind: 'place', start, instead: found.places.flatMap((id) => id ?? []) })
  }
  const sameDay = nearestFree(free, startOfDay(day), startOfDay(day + 1), (each) =>
    Math.abs(startOf(grid, each) - start),
  )
  if (sameDay >= 0) repairs.push({ kind: 'time', start: startOf(grid, sameDay) })
  const monday = weekStart(day)
  const otherDay = nearestFree(free, startOfDay(monday), startOfDay(monday + 7), (each) => {
    const there = toWall(table, startOf(grid, each))
    if (dayOf(there) === day) return Number.POSITIVE_INFINITY
    return Math.abs(dayOf(there) - day) * 60 + Math.abs(minuteOf(there) - minuteOf(wall))
  })
  if (otherDay >= 0 && dayOf(toWall(table, startOf(grid, otherDay))) !== day)
    repairs.push({ kind: 'day', start: startOf(grid, otherDay) })
  return repairs
}

/** The places a series takes: for each slot the assignment that is free on most of the dates that suit the people. */
const placesOf = (ground: Ground, starts: readonly Instant[]): SearchPlace[] => {
  const { places, grid } = ground
  if (!places) return []
  const counts = new Map<number, number>()
  for (const start of starts) {
    const i = indexOf(grid, start)
    if (i < 0) continue
    for (const [index, row] of places.rows) if (bitAt(row, i)) counts.set(index, (counts.get(index) ?? 0) + 1)
  }
  const most = Math.max(0, ...counts.values())
  const often = (slot: number) =>
    (places.slots[slot]?.places ?? []).reduce((top, index) => Math.max(top, counts.get(index) ?? 0), 0)
  const found = assignPlaces(
    places.slots.map((slot, k) => ({
      ...slot,
      places: slot.places.filter((index) => (counts.get(index) ?? 0) >= Math.min(most, often(k))),
    })),
    places.wanted.all,
    () => true,
  )
  return found.places.flatMap((id) => places.wanted.all.find((place) => place.id === id) ?? [])
}

const dateOf = (
  ground: Ground,
  start: Instant,
  recurrence: Wall,
  places: readonly SearchPlace[],
): SeriesDate => {
  const { grid, rows, free, able } = ground
  const i = indexOf(grid, start)
  const blockers =
    i < 0 || bitAt(able, i)
      ? []
      : rows.people.flatMap((row) =>
          row.asked.required && !row.asked.group ? (hindranceAt(row, ground.brief.rules, grid, i) ?? []) : [],
        )
  const taken = places.filter((place) => {
    const row = ground.places?.rows.get(ground.places.wanted.all.indexOf(place))
    return i < 0 || !row || !bitAt(row, i)
  })
  const clashes = i < 0 || !bitAt(free, i) || taken.length > 0
  return {
    recurrence,
    start,
    blockers,
    placesTaken: taken.map((place) => place.id),
    repairs: clashes ? repairsFor(ground, start, taken) : [],
  }
}

/** Whether a date stands in somebody's way, or its places are taken. */
export const isClash = (date: SeriesDate): boolean =>
  date.repairs.length > 0 || date.blockers.length > 0 || date.placesTaken.length > 0

const slotFrom = (ground: Ground, rule: SeriesRule, candidate: Candidate): SeriesSlot => {
  const walls = seriesWalls(rule, candidate.wall)
  const places = placesOf(ground, candidate.starts)
  const dates = candidate.starts.map((start, k) => dateOf(ground, start, walls[k] ?? candidate.wall, places))
  return {
    first: candidate.starts[0] ?? 0,
    clashes: dates.filter(isClash).length,
    stretch: candidate.stretch,
    dates,
    places: places.map((place) => place.id),
  }
}

/** One weekday and hour for a series, with its clashes and their repairs: for a time that was chosen by hand. */
export const seriesAt = (brief: SearchBrief, rule: SeriesRule, start: Instant): SeriesSlot => {
  const ground = groundOf({ ...brief, from: Math.min(brief.from, start) }, rule)
  return slotFrom(ground, rule, weigh(ground, rule, toWall(zoneTable(brief.zone), start)))
}

/**
 * The weekdays and hours with the fewest clashes over the whole run of a series, whose first date lies in the brief's
 * window and no later than one period from its beginning. Neighbouring starts of a day with as many clashes are one,
 * taken where it stretches people least. Throws `BadBrief`.
 */
export const searchSeries = (brief: SearchBrief, rule: SeriesRule): SeriesSlot[] => {
  checkBrief(brief)
  const ground = groundOf(brief, rule)
  const { grid, rows } = ground
  const period = rule.every * (rule.unit === 'week' ? 7 : LONGEST_MONTH) * DAY
  const high = indexFrom(grid, Math.min(brief.to - brief.minutes * MINUTE + 1, brief.from + period))
  const range = bitsFor(grid.count)
  setRange(range, 0, high)
  const table = zoneTable(brief.zone)
  const best: Candidate[] = []
  let before: { candidate: Candidate; i: number } | null = null
  const take = (candidate: Candidate) => {
    if (candidate.clashes < rule.count) best.push(candidate)
  }
  for (let i = nextBit(range, 0); i >= 0; i = nextBit(range, i + 1)) {
    const wall = toWall(table, startOf(grid, i))
    if (!bitAt(rows.asked, i) || minuteOf(wall) % brief.step !== 0) continue
    const candidate = weigh(ground, rule, wall)
    const near = before && i - before.i <= 2 && dayOf(before.candidate.wall) === dayOf(wall)
    if (before && near && before.candidate.clashes === candidate.clashes) {
      before = {
        candidate: rankCandidates(candidate, before.candidate) < 0 ? candidate : before.candidate,
        i,
      }
      continue
    }
    if (before) take(before.candidate)
    before = { candidate, i }
  }
  if (before) take(before.candidate)
  return best
    .sort(rankCandidates)
    .slice(0, MOST_SLOTS)
    .map((candidate) => slotFrom(ground, rule, candidate))
    .sort((a, b) => a.clashes - b.clashes || a.stretch - b.stretch || a.first - b.first)
}
