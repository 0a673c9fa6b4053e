import { type Span, workingSpans } from '../availability/index.ts'
import { isFree } from '../reservations/index.ts'
import { DAY, MINUTE, zoneTable } from '../time/index.ts'
import {
  allBits,
  atLeast,
  type Bits,
  bitAt,
  bitsFor,
  clearBits,
  countRows,
  keepBits,
  setRange,
} from './bits.ts'
import { type Steps, toEnd } from './breath.ts'
import type { PlacesWanted, SearchBrief, SearchPlace } from './brief.ts'
import { type Grid, indexFrom, startOf } from './grid.ts'

/** One place that has to be found: which of all places would do, as indices into `all`. */
export interface Slot {
  readonly siteId: string
  /** How many people should sit there. */
  readonly seats: number
  readonly features: Readonly<Record<string, number>>
  readonly places: readonly number[]
}

/**
 * The places that may be needed at all: those of a kind that is needed on a site where somebody is, those that were
 * named, and their like on their site, which may do in their place. What is reserved of all others nobody has to know.
 */
export const mayBeNeeded = <
  Known extends { readonly id: string; readonly kind: string; readonly siteId: string },
>(
  { ids, needs }: Pick<PlacesWanted, 'ids' | 'needs'>,
  sites: ReadonlySet<string>,
  all: readonly Known[],
): Known[] => {
  const like = (place: Known) => `${place.kind} ${place.siteId}`
  const named = new Set(all.filter((place) => ids.includes(place.id)).map(like))
  return all.filter(
    (place) =>
      named.has(like(place)) ||
      needs.some(
        (need) =>
          need.kind === place.kind &&
          (need.siteId === null ? sites.has(place.siteId) : need.siteId === place.siteId),
      ),
  )
}

/** How many of a brief's people are on each site; guests come to the organizer's. */
export const headcount = (brief: Pick<SearchBrief, 'people' | 'places'>): Map<string, number> => {
  const counts = new Map<string, number>()
  const add = (siteId: string, by: number) => {
    if (by > 0) counts.set(siteId, (counts.get(siteId) ?? 0) + by)
  }
  for (const person of brief.people) if (person.siteId) add(person.siteId, 1)
  if (brief.places) add(brief.places.homeSite, brief.places.guests)
  return counts
}

/** Wanted features that a place lacks, counted by quantity. */
export const featuresMissing = (
  wanted: Readonly<Record<string, number>>,
  place: Pick<SearchPlace, 'features'>,
): number =>
  Object.entries(wanted).reduce(
    (sum, [name, count]) => sum + Math.max(0, count - (place.features[name] ?? 0)),
    0,
  )

/**
 * What a brief asks of places, one slot for each: particular places first. A need of several places shares the people
 * out among them.
 */
export const slotsOf = (brief: Pick<SearchBrief, 'people' | 'places'>): Slot[] => {
  const wanted = brief.places
  if (!wanted) return []
  const { all } = wanted
  const counts = headcount(brief)
  const particular = wanted.ids.map((id): Slot => {
    const index = all.findIndex((place) => place.id === id)
    return { siteId: all[index]?.siteId ?? '', seats: 0, features: {}, places: index < 0 ? [] : [index] }
  })
  const asked = wanted.needs.flatMap((need) => {
    const sites =
      need.siteId === null
        ? [...counts].filter(([, count]) => count >= need.least).map(([siteId]) => siteId)
        : [need.siteId]
    return sites.flatMap((siteId): Slot[] => {
      const seats = Math.ceil((need.seats ?? counts.get(siteId) ?? 1) / need.count)
      const fits = (place: SearchPlace) =>
        place.kind === need.kind &&
        place.siteId === siteId &&
        place.mayTake &&
        !wanted.ids.includes(place.id) &&
        (need.kind === 'equipment' || place.seats >= seats) &&
        (!wanted.must || featuresMissing(need.features, place) === 0)
      const places = all.flatMap((place, i) => (fits(place) ? [i] : []))
      return Array.from({ length: need.count }, () => ({ siteId, seats, features: need.features, places }))
    })
  })
  return [...particular, ...asked]
}

/** The starts at which a place can be had, its hours, closures and turnaround counted. */
export const placeRow = (grid: Grid, place: SearchPlace): Bits => {
  const free = bitsFor(grid.count)
  const end = startOf(grid, grid.count) + grid.lengthMs
  const table = zoneTable(place.time.zone)
  for (const open of workingSpans(place.time.hours, table, grid.first - DAY, end + DAY))
    setRange(
      free,
      indexFrom(grid, open.start),
      Math.max(
        indexFrom(grid, open.start),
        Math.min(grid.count, Math.floor((open.end - grid.lengthMs - grid.first) / grid.stepMs) + 1),
      ),
    )
  const taken = bitsFor(grid.count)
  const turnaround = place.turnaround * MINUTE
  const touch = (span: Span) => {
    const low = Math.floor((span.start - turnaround - grid.lengthMs - grid.first) / grid.stepMs) + 1
    setRange(taken, Math.max(0, Math.min(grid.count, low)), indexFrom(grid, span.end))
  }
  for (const span of place.time.spans) if (span.state !== 'listed') touch(span)
  for (const shut of place.time.closed ?? []) touch(shut)
  clearBits(free, taken)
  return free
}

/** The places of a brief on its grid. */
export interface PlaceRows {
  readonly wanted: PlacesWanted
  readonly slots: readonly Slot[]
  /** A row for each place that some slot can use, by index into `all`: the starts at which it is free. */
  readonly rows: ReadonlyMap<number, Bits>
  /** Where all slots can be had together. */
  readonly possible: Bits
}

const freeAt = (rows: ReadonlyMap<number, Bits>, index: number, i: number): boolean => {
  const row = rows.get(index)
  return row !== undefined && bitAt(row, i)
}

/** Slots that are alike, as the four of "four rooms": each would do with the same places. */
interface Alike {
  readonly many: number
  readonly places: readonly number[]
}

const alikeSlots = (slots: readonly Slot[]): Alike[] => {
  const found: { many: number; places: readonly number[] }[] = []
  for (const slot of slots) {
    const last = found.at(-1)
    if (last?.places === slot.places) last.many++
    else found.push({ many: 1, places: slot.places })
  }
  return found
}

/** Slots that can compete for a place, together: those of one part have nothing to do with any other. */
const competing = (slots: readonly Alike[]): Alike[][] => {
  const parts: { slots: Alike[]; places: Set<number> }[] = []
  for (const slot of slots) {
    const touching = parts.filter((part) => slot.places.some((index) => part.places.has(index)))
    const joined = {
      slots: [...touching.flatMap((part) => part.slots), slot],
      places: new Set([...touching.flatMap((part) => [...part.places]), ...slot.places]),
    }
    parts.splice(0, parts.length, ...parts.filter((part) => !touching.includes(part)), joined)
  }
  return parts.map((part) => part.slots)
}

/**
 * Keeps the starts at which all slots of a part can have places of their own. By Hall's theorem that is where every set
 * of slots has as many free places among those that any of them would do with; of slots that are alike only all of them
 * together can be too many. At most eight places are asked for, so at most 255 sets are counted, 32 starts at once.
 */
const keepMatched = (part: readonly Alike[], rows: ReadonlyMap<number, Bits>, possible: Bits): void => {
  for (let set = 1; set < 1 << part.length; set++) {
    const chosen = part.filter((_, n) => (set >>> n) & 1)
    const union = [...new Set(chosen.flatMap((slot) => slot.places))]
    const many = chosen.reduce((sum, slot) => sum + slot.many, 0)
    const free = countRows(
      union.flatMap((index) => rows.get(index) ?? []),
      possible,
    )
    keepBits(possible, atLeast(free, many, possible.length))
  }
}

/** So many places are put on the grid in one step: a few milliseconds for 8 weeks of 5-minute starts. */
const ROWS_A_STEP = 40

/** The starts at which each of these places, by their index into `all`, can be had. */
export function* freeRows(
  all: readonly SearchPlace[],
  indices: readonly number[],
  grid: Grid,
): Steps<ReadonlyMap<number, Bits>> {
  const rows = new Map<number, Bits>()
  for (const index of new Set(indices)) {
    const place = all[index]
    if (place) rows.set(index, placeRow(grid, place))
    if (rows.size % ROWS_A_STEP === 0) yield null
  }
  return rows
}

/** Puts the slots of a brief's places on its grid; null when it asks for none. */
export function* placing(brief: SearchBrief, grid: Grid): Steps<PlaceRows | null> {
  const slots = slotsOf(brief)
  if (!brief.places || slots.length === 0) return null
  const rows = yield* freeRows(
    brief.places.all,
    slots.flatMap((slot) => slot.places),
    grid,
  )
  const possible = allBits(grid.count)
  for (const part of competing(alikeSlots(slots))) {
    keepMatched(part, rows, possible)
    yield null
  }
  return { wanted: brief.places, slots, rows, possible }
}

/** `placing`, done at once. */
export const placeRowsOf = (brief: SearchBrief, grid: Grid): PlaceRows | null => toEnd(placing(brief, grid))

/** Costs of a place that fits less than well, in minutes of trouble. */
const SEAT_WASTED = 1
const FEATURE_MISSING = 30
const FLOOR_APART = 5
/** A slot that stays empty costs more than any bad fit. */
const NO_PLACE = 1000
/** Of the places that would do, so many of the best are tried for each slot. */
const TRIED = 12
/** After so many tries on one site the best found so far is taken: well under a millisecond. */
const MOST_TRIES = 5000

/** The floor's number; NaN where it has none, and is then no floors apart from any. */
const floorOf = (place: SearchPlace): number => Number(/-?\d+/.exec(place.floor)?.[0] ?? Number.NaN)

/** Floors between two places of one site; 0 where that is not known. */
const floorsBetween = (a: SearchPlace, b: SearchPlace): number =>
  a.siteId === b.siteId ? Math.abs(floorOf(a) - floorOf(b)) || 0 : 0

/** A place for each slot by its id, in the slots' order; null where none was left. */
export interface Assignment {
  readonly places: readonly (string | null)[]
  readonly seatsWasted: number
  readonly featuresMissing: number
  readonly floorsApart: number
  /** How many slots stay empty. */
  readonly lacking: number
  /** All of it together, in minutes of trouble. */
  readonly cost: number
}

const ownCost = (slot: Slot, place: SearchPlace): number =>
  (slot.seats > 0 ? Math.max(0, place.seats - slot.seats) * SEAT_WASTED : 0) +
  featuresMissing(slot.features, place) * FEATURE_MISSING

/**
 * The best places for the slots of one site. A search over the `TRIED` best of each slot that turns back where even the
 * cheapest places for all the rest would cost as much as the best found so far.
 */
const assignSite = (
  slots: readonly Slot[],
  all: readonly SearchPlace[],
  free: (index: number) => boolean,
): { cost: number; places: readonly (SearchPlace | null)[] } => {
  const isAlike = (slot: number) => slot > 0 && slots[slot]?.places === slots[slot - 1]?.places
  const choices: { place: SearchPlace; cost: number; floor: number }[][] = []
  for (const [i, slot] of slots.entries()) {
    const before = choices[i - 1]
    if (isAlike(i) && before) choices.push(before)
    else
      choices.push(
        slot.places
          .flatMap((index) => {
            const place = all[index]
            return place && free(index) ? [{ place, cost: ownCost(slot, place), floor: floorOf(place) }] : []
          })
          .sort((a, b) => a.cost - b.cost || a.place.name.localeCompare(b.place.name))
          .slice(0, TRIED),
      )
  }
  // What the slots from each on cost at the least, whatever the others take: of those that are alike, each the next best.
  const rest = new Float64Array(slots.length + 1)
  let turn = 0
  const turns = slots.map((_, i) => {
    turn = isAlike(i) ? turn + 1 : 0
    return turn
  })
  for (let i = slots.length - 1; i >= 0; i--)
    rest[i] = (rest[i + 1] ?? 0) + Math.min(choices[i]?.[turns[i] ?? 0]?.cost ?? NO_PLACE, NO_PLACE)
  let best: { cost: number; places: (SearchPlace | null)[] } = { cost: Number.POSITIVE_INFINITY, places: [] }
  let tries = 0
  const chosen: (SearchPlace | null)[] = []
  const floors: number[] = []
  const tryFrom = (slot: number, cost: number, after: number): void => {
    if (cost + (rest[slot] ?? 0) >= best.cost || tries > MOST_TRIES) return
    tries++
    const here = choices[slot]
    if (!here) {
      best = { cost, places: [...chosen] }
      return
    }
    // Slots of one need are alike: taken in one order only, eight of them are hundreds of tries and not millions.
    for (let k = isAlike(slot) ? after + 1 : 0; k < here.length; k++) {
      const one = here[k]
      if (!one || chosen.includes(one.place)) continue
      let apart = 0
      for (const floor of floors) apart += Math.abs(floor - one.floor) || 0
      chosen.push(one.place)
      floors.push(one.floor)
      tryFrom(slot + 1, cost + one.cost + apart * FLOOR_APART, k)
      chosen.pop()
      floors.pop()
    }
    chosen.push(null)
    tryFrom(slot + 1, cost + NO_PLACE, here.length)
    chosen.pop()
  }
  tryFrom(0, 0, -1)
  return best
}

/**
 * The best places for all slots together: the least sum of seats left empty, features that are missing and floors
 * between places of one site. No place is on two sites, so each site is a matter of its own.
 */
export const assignPlaces = (
  slots: readonly Slot[],
  all: readonly SearchPlace[],
  free: (index: number) => boolean,
): Assignment => {
  const sites = [...new Set(slots.map((slot) => slot.siteId))].map((siteId) => {
    const own = slots.flatMap((slot, i) => (slot.siteId === siteId ? [{ slot, i }] : []))
    const found = assignSite(
      own.map(({ slot }) => slot),
      all,
      free,
    )
    return { ...found, own }
  })
  const places: (SearchPlace | null)[] = slots.map(() => null)
  for (const { own, places: found } of sites)
    for (const [n, { i }] of own.entries()) places[i] = found[n] ?? null
  const pairs = places.flatMap((one, i) =>
    places.slice(i + 1).map((other) => (one && other ? floorsBetween(one, other) : 0)),
  )
  const sum = (of: (slot: Slot, place: SearchPlace) => number) =>
    slots.reduce((total, slot, i) => {
      const place = places[i]
      return total + (place ? of(slot, place) : 0)
    }, 0)
  return {
    places: places.map((place) => place?.id ?? null),
    seatsWasted: sum((slot, place) => (slot.seats > 0 ? Math.max(0, place.seats - slot.seats) : 0)),
    featuresMissing: sum((slot, place) => featuresMissing(slot.features, place)),
    floorsApart: pairs.reduce((total, each) => total + each, 0),
    lacking: places.filter((place) => place === null).length,
    cost: sites.reduce((total, site) => total + site.cost, 0),
  }
}

/** The best places for a brief at one time, asked of the places themselves: for a chosen time, on the grid or not. */
export const placesAt = (brief: Pick<SearchBrief, 'people' | 'places'>, chosen: Span): Assignment | null => {
  const slots = slotsOf(brief)
  const { places } = brief
  if (!places || slots.length === 0) return null
  return assignPlaces(slots, places.all, (index) => {
    const place = places.all[index]
    return place !== undefined && isFree(place, chosen)
  })
}

/** The best places at a start of the grid. */
export const placesOnGrid = (given: PlaceRows, i: number): Assignment =>
  assignPlaces(given.slots, given.wanted.all, (index) => freeAt(given.rows, index, i))
