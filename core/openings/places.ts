import { type Span, workingSpans } from '../availability/index.ts'
import { isFree } from '../reservations/index.ts'
import { DAY, MINUTE, zoneTable } from '../time/index.ts'
import {
  addBits,
  allBits,
  type Bits,
  bitAt,
  bitsFor,
  clearBits,
  keepBits,
  nextBit,
  setRange,
} from './bits.ts'
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

/** Whether every slot can have a place of its own at a start: a matching by augmenting paths (Kuhn). */
const allMatched = (slots: readonly Slot[], free: (index: number) => boolean): boolean => {
  const heldBy = new Map<number, number>()
  const place = (slot: number, seen: Set<number>): boolean => {
    for (const index of slots[slot]?.places ?? []) {
      if (seen.has(index) || !free(index)) continue
      seen.add(index)
      const holder = heldBy.get(index)
      if (holder === undefined || place(holder, seen)) {
        heldBy.set(index, slot)
        return true
      }
    }
    return false
  }
  return slots.every((_, slot) => place(slot, new Set()))
}

/** Puts the slots of a brief's places on its grid; null when it asks for none. `among` narrows where they are matched. */
export const placeRowsOf = (brief: SearchBrief, grid: Grid, among: Bits): PlaceRows | null => {
  const slots = slotsOf(brief)
  if (!brief.places || slots.length === 0) return null
  const rows = new Map<number, Bits>()
  for (const slot of slots)
    for (const index of slot.places) {
      const place = brief.places.all[index]
      if (place && !rows.has(index)) rows.set(index, placeRow(grid, place))
    }
  const possible = allBits(grid.count)
  for (const slot of slots) {
    const some = bitsFor(grid.count)
    for (const index of slot.places) {
      const row = rows.get(index)
      if (row) addBits(some, row)
    }
    keepBits(possible, some)
  }
  const shared =
    new Set(slots.flatMap((slot) => slot.places)).size < slots.reduce((n, slot) => n + slot.places.length, 0)
  if (shared) {
    const candidates = possible.slice()
    keepBits(candidates, among)
    for (let i = nextBit(candidates, 0); i >= 0; i = nextBit(candidates, i + 1))
      if (!allMatched(slots, (index) => freeAt(rows, index, i)))
        possible[i >>> 5] = (possible[i >>> 5] ?? 0) & ~(1 << (i & 31))
  }
  return { wanted: brief.places, slots, rows, possible }
}

/** Costs of a place that fits less than well, in minutes of trouble. */
const SEAT_WASTED = 1
const FEATURE_MISSING = 30
const FLOOR_APART = 5
/** A slot that stays empty costs more than any bad fit. */
const NO_PLACE = 1000
/** Of the places that would do, so many of the best are tried for each slot. */
const TRIED = 12

const floorOf = (place: SearchPlace): number | null => {
  const found = /-?\d+/.exec(place.floor)
  return found ? Number(found[0]) : null
}

/** Floors between two places of one site; 0 where that is not known. */
const floorsBetween = (a: SearchPlace, b: SearchPlace): number => {
  if (a.siteId !== b.siteId) return 0
  const [one, other] = [floorOf(a), floorOf(b)]
  return one === null || other === null ? 0 : Math.abs(one - other)
}

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

/**
 * The best places for all slots together: the least sum of seats left empty, features that are missing and floors
 * between places of one site. A search with bounds over the `TRIED` best of each slot; at most eight slots come here.
 */
export const assignPlaces = (
  slots: readonly Slot[],
  all: readonly SearchPlace[],
  free: (index: number) => boolean,
): Assignment => {
  const ownCost = (slot: Slot, place: SearchPlace): number =>
    (slot.seats > 0 ? Math.max(0, place.seats - slot.seats) * SEAT_WASTED : 0) +
    featuresMissing(slot.features, place) * FEATURE_MISSING
  const choices = slots.map((slot) =>
    slot.places
      .flatMap((index) => {
        const place = all[index]
        return place && free(index) ? [{ place, cost: ownCost(slot, place) }] : []
      })
      .sort((a, b) => a.cost - b.cost || a.place.name.localeCompare(b.place.name))
      .slice(0, TRIED),
  )
  let best: { cost: number; places: (SearchPlace | null)[] } = { cost: Number.POSITIVE_INFINITY, places: [] }
  const chosen: (SearchPlace | null)[] = []
  const tryFrom = (slot: number, cost: number, after: number): void => {
    if (cost >= best.cost) return
    const here = choices[slot]
    if (!here) {
      best = { cost, places: [...chosen] }
      return
    }
    // Slots of one need are alike: taken in one order only, eight of them are hundreds of tries and not millions.
    const alike = slot > 0 && slots[slot]?.places === slots[slot - 1]?.places
    for (const [k, { place, cost: own }] of here.entries()) {
      if ((alike && k <= after) || chosen.includes(place)) continue
      const apart = chosen.reduce((sum, other) => sum + (other ? floorsBetween(other, place) : 0), 0)
      chosen.push(place)
      tryFrom(slot + 1, cost + own + apart * FLOOR_APART, k)
      chosen.pop()
    }
    chosen.push(null)
    tryFrom(slot + 1, cost + NO_PLACE, here.length)
    chosen.pop()
  }
  tryFrom(0, 0, -1)
  const places = best.places
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
    cost: best.cost,
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
