import { dayOf, instantOf, toWall, wallOf, type ZoneTable, zoneTable } from '../time/index.ts'
import {
  addBits,
  allBits,
  atLeast,
  type Bits,
  bitAt,
  bitsFor,
  type Counter,
  clearBits,
  countAt,
  countBits,
  countRows,
  keepBits,
  nextBit,
} from './bits.ts'
import { type Steps, toEnd } from './breath.ts'
import { type Asked, checkBrief, type SearchBrief } from './brief.ts'
import { type Grid, indexFrom, startOf } from './grid.ts'
import type { Pattern } from './patterns.ts'
import { type PlaceRows, placesOnGrid, placing } from './places.ts'
import { type PersonRow, type Rows, rowsOf } from './rows.ts'
import {
  costOf,
  FAIRNESS,
  type Parts,
  partsOf,
  type Share,
  stretchCost,
  stretchIn,
  weatherAt,
} from './score.ts'

/** A time that satisfies the brief. `from` to `to` is how far its start can slide and stay one. Instants. */
export interface Opening {
  readonly start: number
  readonly end: number
  readonly from: number
  readonly to: number
  readonly parts: Parts
  /** The sum that the parts are ranked by, in minutes of trouble; for ranking, not for showing. */
  readonly cost: number
}

/** Where openings lie on the lanes: the sunlight. `missing` people who need not be there, `stretch` minutes at the least. */
export interface Band {
  readonly start: number
  readonly end: number
  readonly missing: number
  readonly stretch: number
}

export interface Found {
  /** Ranked, best first; at most `MOST_OPENINGS`. */
  readonly openings: readonly Opening[]
  readonly bands: readonly Band[]
  /** People, required or not, whose time cannot be seen: never counted as free. */
  readonly unknown: readonly string[]
  /** How many starts satisfy the brief, of how many that were tried. */
  readonly starts: number
  readonly tried: number
}

/** Openings that are weighed in all their parts; of more, the cheapest by stretch and people missing. */
export const MOST_OPENINGS = 80

const isMust = (asked: Asked): boolean => asked.required && !asked.group && asked.time.known

/** Everything a search rests on: who is free when, and where all that must be is. */
export interface Fit {
  readonly rows: Rows
  readonly places: PlaceRows | null
  /** The starts that satisfy the brief. */
  readonly free: Bits
  /** How many people who need not be there cannot come, at each start that satisfies the brief. */
  readonly missing: Counter
}

/** The starts at which every group has enough members who can come. */
const groupsFree = (rows: Rows, among: Bits): Bits => {
  const { brief, grid, people } = rows
  const free = allBits(grid.count)
  for (const group of brief.groups ?? []) {
    const members = people.filter((row) => row.asked.group === group.id)
    const known = members.filter((row) => row.asked.time.known)
    const blocked = countRows(
      known.map((row) => row.blocked),
      among,
    )
    // With one more who cannot come than the group can spare, it is too small.
    clearBits(free, atLeast(blocked, known.length - group.atLeast + 1, free.length))
  }
  return free
}

/** The starts that suit everybody who must come, groups counted, before any place is asked for. */
export const peopleFree = (rows: Rows): Bits => {
  const free = rows.asked.slice()
  const blocked = bitsFor(rows.grid.count)
  for (const row of rows.people) if (isMust(row.asked)) addBits(blocked, row.blocked)
  clearBits(free, blocked)
  if (rows.brief.groups?.length) keepBits(free, groupsFree(rows, free))
  return free
}

/** Joins rows to the starts that satisfy the brief. */
export function* fitting(rows: Rows): Steps<Fit> {
  const free = peopleFree(rows)
  const places = yield* placing(rows.brief, rows.grid)
  if (places?.wanted.must) keepBits(free, places.possible)
  const others = rows.people.filter((row) => !isMust(row.asked) && row.asked.time.known)
  const missing = countRows(
    others.map((row) => row.blocked),
    free,
  )
  return { rows, places, free, missing }
}

/** `fitting`, done at once. */
export const fitOf = (rows: Rows): Fit => toEnd(fitting(rows))

/**
 * What a start costs by the stretch of those who must come and how fairly it is shared: enough to choose the best of
 * neighbours. People of one pattern who bore as much lately are one step.
 */
const stretchCosts = (people: readonly PersonRow[], past: Readonly<Record<string, number>>) => {
  const alike = new Map<Pattern, Map<number, number>>()
  let everybody = 0
  for (const row of people) {
    if (!isMust(row.asked)) continue
    everybody++
    const bore = past[row.asked.id] ?? 0
    const counts = alike.get(row.pattern) ?? new Map<number, number>()
    alike.set(row.pattern, counts.set(bore, (counts.get(bore) ?? 0) + 1))
  }
  const groups = [...alike].map(([pattern, counts]) => ({ pattern, counts: [...counts] }))
  return (start: number, end: number): { cost: number; stretch: number } => {
    let cost = 0
    let stretch = 0
    let most = 0
    let sum = 0
    for (const { pattern, counts } of groups) {
      const minutes = stretchIn(pattern, start, end)
      for (const [bore, many] of counts) {
        stretch += many * minutes
        cost += many * stretchCost(minutes)
        most = Math.max(most, bore + minutes)
        sum += many * (bore + minutes)
      }
    }
    return { cost: cost + FAIRNESS * Math.round(most - sum / Math.max(1, everybody)), stretch }
  }
}

interface Run {
  readonly first: number
  readonly last: number
  readonly best: number
  readonly missing: number
  readonly stretch: number
  readonly cost: number
}

/**
 * Neighbouring starts of one day and with as many people missing are one opening, taken where it stretches people
 * least and most fairly, and out of doors in the best weather, the earliest of equals.
 */
const runsOf = (fit: Fit, table: ZoneTable): Run[] => {
  const { grid, people, brief } = fit.rows
  const stretchAt = stretchCosts(people, brief.past ?? {})
  const outdoors = brief.outdoors?.avoid.length ? brief.outdoors : null
  // Inside everybody's hours nothing stretches anybody, so the strict rule has no start to weigh, under a roof.
  const strict = brief.rules.stretch === 0 && !outdoors
  const costAt = (start: number, end: number) => {
    const here = brief.rules.stretch === 0 ? NOTHING : stretchAt(start, end)
    return outdoors ? { ...here, cost: here.cost + weatherAt(outdoors, { start, end }).cost } : here
  }
  const runs: Run[] = []
  // Where the next day begins on the grid: looked up once a day, not at each start.
  let tomorrow = 0
  let i = nextBit(fit.free, 0)
  while (i >= 0) {
    const missing = countAt(fit.missing, i)
    if (i >= tomorrow) {
      const day = dayOf(toWall(table, startOf(grid, i)))
      tomorrow = indexFrom(grid, instantOf(table, wallOf(day + 1)))
    }
    let last = i
    let best = i
    let least = strict ? NOTHING : costAt(startOf(grid, i), startOf(grid, i) + grid.lengthMs)
    while (last + 1 < tomorrow && bitAt(fit.free, last + 1) && countAt(fit.missing, last + 1) === missing) {
      last++
      if (strict) continue
      const here = costAt(startOf(grid, last), startOf(grid, last) + grid.lengthMs)
      if (here.cost < least.cost) {
        least = here
        best = last
      }
    }
    runs.push({ first: i, last, best, missing, ...least })
    i = nextBit(fit.free, last + 1)
  }
  return runs
}

const NOTHING = { cost: 0, stretch: 0 }

const openingOf = (fit: Fit, run: Run): Opening => {
  const { grid, people, brief } = fit.rows
  const start = startOf(grid, run.best)
  const chosen = { start, end: start + grid.lengthMs }
  const standing = people.map((row) => ({
    asked: row.asked,
    pattern: row.pattern,
    blocked: bitAt(row.blocked, run.best),
  }))
  const parts = partsOf(brief, standing, chosen, fit.places ? placesOnGrid(fit.places, run.best) : null)
  return {
    ...chosen,
    from: startOf(grid, run.first),
    to: startOf(grid, run.last),
    parts,
    cost: costOf(parts),
  }
}

/** Less trouble first, then sooner. */
export const rankOpenings = (a: Opening, b: Opening): number => a.cost - b.cost || a.start - b.start

/** So many openings are weighed in one step: of six sites with eight rooms each, one can take five milliseconds. */
const WEIGHED_A_STEP = 2

/** The openings of what fits, ranked. */
export function* weighing(fit: Fit): Steps<Found> {
  const { grid, brief } = fit.rows
  const runs = runsOf(fit, zoneTable(brief.zone))
  yield null
  const weighed =
    runs.length <= MOST_OPENINGS
      ? runs
      : [...runs]
          .sort((a, b) => a.missing - b.missing || a.cost - b.cost || a.best - b.best)
          .slice(0, MOST_OPENINGS)
  const openings: Opening[] = []
  for (const [i, run] of weighed.entries()) {
    openings.push(openingOf(fit, run))
    if (i % WEIGHED_A_STEP === 0) yield null
  }
  return {
    openings: openings.sort(rankOpenings),
    bands: runs.map((run) => ({
      start: startOf(grid, run.first),
      end: startOf(grid, run.last) + grid.lengthMs,
      missing: run.missing,
      stretch: run.stretch,
    })),
    unknown: brief.people.filter((person) => !person.time.known).map((person) => person.id),
    starts: countBits(fit.free),
    tried: grid.count,
  }
}

/** `weighing`, done at once. */
export const openingsOf = (fit: Fit): Found => toEnd(weighing(fit))

/** How many openings there are, as `openingsOf` counts them, without weighing any. */
export const countOpenings = (free: Bits, grid: Grid, table: ZoneTable): number => {
  let count = 0
  let day = Number.NaN
  let before = -2
  for (let i = nextBit(free, 0); i >= 0; i = nextBit(free, i + 1)) {
    const here = dayOf(toWall(table, startOf(grid, i)))
    if (i !== before + 1 || here !== day) count++
    before = i
    day = here
  }
  return count
}

/**
 * The openings of a brief: the starts at which everybody required whose time is known can come within the rules, groups
 * have enough members, and the places can be had together. Each with its reasons, ranked, best first. The same brief
 * always gives the same answer. Throws `BadBrief`, `UnknownZone`.
 */
export const searchOpenings = (brief: SearchBrief): Found => {
  checkBrief(brief)
  return openingsOf(fitOf(rowsOf(brief)))
}

/** Every start that satisfies a brief, in order, weighed in nothing: what is offered to somebody who only chooses. Throws `BadBrief`. */
export const startsThatFit = (brief: SearchBrief): number[] => {
  checkBrief(brief)
  const { rows, free } = fitOf(rowsOf(brief))
  const starts: number[] = []
  for (let i = nextBit(free, 0); i >= 0; i = nextBit(free, i + 1)) starts.push(startOf(rows.grid, i))
  return starts
}

/** The sum of minutes over people. */
export const minutesOf = (shares: readonly Share[]): number =>
  shares.reduce((sum, share) => sum + share.minutes, 0)
