import { type LaneTime, LONGEST_BREAK, MOST_STRETCH, type Span } from '../availability/index.ts'
import { isFree } from '../reservations/index.ts'
import {
  dayOf,
  type Instant,
  MINUTE,
  minuteOf,
  offsetAt,
  toWall,
  wallOf,
  weekdayOf,
  zoneTable,
} from '../time/index.ts'
import type { Asked, Rules, SearchBrief, SearchPlace } from './brief.ts'
import { type Assignment, featuresMissing, type Slot, slotsOf } from './places.ts'
import { costOf, FAIRNESS, type Parts, type Share, stretchCost } from './score.ts'
import type { Found, Opening } from './search.ts'

type Kind = 'worked' | 'break' | 'off'

/** Whether a minute of a weekday is worked, or in a break. */
const minuteKind = (hours: LaneTime['hours'], weekday: number, minute: number): Kind => {
  const moments = [
    { weekday, minute },
    { weekday: weekday === 1 ? 7 : weekday - 1, minute: minute + 1440 },
  ]
  const inside = moments.some((moment) =>
    hours.some(
      (part) => part.weekday === moment.weekday && moment.minute >= part.from && moment.minute < part.to,
    ),
  )
  if (inside) return 'worked'
  const paused = moments.some((moment) => {
    const today = hours.filter((part) => part.weekday === moment.weekday)
    const ended = Math.max(...today.filter((part) => part.to <= moment.minute).map((part) => part.to))
    const begins = Math.min(...today.filter((part) => part.from > moment.minute).map((part) => part.from))
    return Number.isFinite(ended) && Number.isFinite(begins) && begins - ended <= LONGEST_BREAK
  })
  return paused ? 'break' : 'off'
}

const FIRST = Date.UTC(2026, 5, 1)
const LAST = Date.UTC(2027, 6, 1)

interface Days {
  readonly days: readonly Span[]
  readonly breaks: readonly Span[]
}
const remembered = new Map<string, Days>()

/** Stretches of minutes of one kind: each minute of a week asked once for a pattern, each of a year of the clock on the wall. */
const minuteRuns = (time: LaneTime): Days => {
  const key = JSON.stringify([time.zone, time.hours])
  const known = remembered.get(key)
  if (known) return known
  const days: { start: number; end: number }[] = []
  const breaks: { start: number; end: number }[] = []
  const put = (runs: { start: number; end: number }[], at: number) => {
    const last = runs.at(-1)
    if (last?.end === at) last.end = at + MINUTE
    else runs.push({ start: at, end: at + MINUTE })
  }
  const week = Array.from({ length: 7 * 1440 }, (_, i) =>
    minuteKind(time.hours, Math.floor(i / 1440) + 1, i % 1440),
  )
  const table = zoneTable(time.zone)
  for (let at = FIRST; at < LAST; at += MINUTE) {
    const wall = toWall(table, at)
    const kind = week[(weekdayOf(dayOf(wall)) - 1) * 1440 + minuteOf(wall)]
    if (kind !== 'off') put(days, at)
    if (kind === 'break') put(breaks, at)
  }
  const found = { days, breaks }
  remembered.set(key, found)
  return found
}

const NEAR_MS = MOST_STRETCH * MINUTE

const stretchOfTime = (time: LaneTime, chosen: Span): number => {
  let least = MOST_STRETCH
  // Sorted days: those long before the time are passed over, those long after it end the walk.
  for (const day of minuteRuns(time).days) {
    if (day.end <= chosen.start - NEAR_MS) continue
    if (day.start >= chosen.end + NEAR_MS) break
    least = Math.min(
      least,
      (Math.max(0, day.start - chosen.start) + Math.max(0, chosen.end - day.end)) / MINUTE,
    )
  }
  return least
}

const overlapOf = (a: Span, b: Span): number =>
  Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start)) / MINUTE

const lunchOf = (time: LaneTime, chosen: Span): number =>
  minuteRuns(time).breaks.reduce((sum, pause) => sum + overlapOf(pause, chosen), 0)

const isSoft = (span: { state: string }) => span.state === 'tentative' || span.state === 'held'
const counted = (time: LaneTime) => time.spans.filter((span) => span.state !== 'listed')

const isBlocked = (person: Asked, rules: Rules, chosen: Span): boolean => {
  const { time } = person
  const wide = { start: chosen.start - rules.before * MINUTE, end: chosen.end + rules.after * MINUTE }
  const table = zoneTable(time.zone)
  const wall = toWall(table, chosen.start)
  if (
    counted(time).some(
      (span) => !(rules.tentative && isSoft(span)) && overlapOf(span, span.gap ? chosen : wide) > 0,
    )
  )
    return true
  if (rules.mostADay !== null) {
    const sameDay = counted(time).filter(
      (span) =>
        !span.gap &&
        span.state !== 'away' &&
        span.end - span.start < 1440 * MINUTE &&
        dayOf(toWall(table, span.start)) === dayOf(wall),
    )
    if (sameDay.length >= rules.mostADay) return true
  }
  if (rules.stretch !== null && stretchOfTime(time, chosen) > rules.stretch) return true
  if (rules.lunch && lunchOf(time, chosen) > 0) return true
  if (rules.earliest !== null && minuteOf(wall) < rules.earliest) return true
  return rules.latest !== null && toWall(table, chosen.end) > wallOf(dayOf(wall), rules.latest)
}

/** Every way to give each slot of a site a place or none, tried: no place is on two sites. */
const bestPlaces = (
  slots: readonly Slot[],
  all: readonly SearchPlace[],
  free: (place: SearchPlace) => boolean,
) => {
  const sites = [...new Set(slots.map((slot) => slot.siteId))]
  const best = sites.map((siteId) =>
    bestOnSite(
      slots.filter((slot) => slot.siteId === siteId),
      all,
      free,
    ),
  )
  return {
    cost: best.reduce((sum, each) => sum + each.cost, 0),
    lacking: best.reduce((sum, each) => sum + each.lacking, 0),
  }
}

const bestOnSite = (
  slots: readonly Slot[],
  all: readonly SearchPlace[],
  free: (place: SearchPlace) => boolean,
) => {
  let best: { cost: number; places: (SearchPlace | null)[] } = { cost: Number.POSITIVE_INFINITY, places: [] }
  const floor = (place: SearchPlace) => Number(/-?\d+/.exec(place.floor)?.[0] ?? Number.NaN)
  const apart = (a: SearchPlace, b: SearchPlace) =>
    a.siteId === b.siteId ? Math.abs(floor(a) - floor(b)) || 0 : 0
  const tryAll = (places: (SearchPlace | null)[]) => {
    const slot = slots[places.length]
    if (!slot) {
      let cost = 0
      for (const [i, place] of places.entries()) {
        const asked = slots[i]
        if (!place || !asked) {
          cost += 1000
          continue
        }
        if (asked.seats > 0) cost += Math.max(0, place.seats - asked.seats)
        cost += 30 * featuresMissing(asked.features, place)
        for (const other of places.slice(0, i)) if (other) cost += 5 * apart(other, place)
      }
      if (cost < best.cost) best = { cost, places }
      return
    }
    for (const index of slot.places) {
      const place = all[index]
      if (place && free(place) && !places.includes(place)) tryAll([...places, place])
    }
    tryAll([...places, null])
  }
  tryAll([])
  return { cost: best.cost, lacking: best.places.filter((place) => place === null).length }
}

/** One start as the plainest possible search sees it. */
export interface PlainStart {
  readonly start: Instant
  readonly free: boolean
  readonly missing: readonly string[]
  /** What the best places cost together; null when none are asked for. */
  readonly placeCost: number | null
}

const isMust = (person: Asked) => person.required && !person.group && person.time.known

/** Every start of the window, every person, every span, every minute, every place. Slow, and plainly right. */
export const plainStarts = (brief: SearchBrief): PlainStart[] => {
  const home = zoneTable(brief.zone)
  const offset = offsetAt(home, brief.from)
  const length = brief.minutes * MINUTE
  const slots = slotsOf(brief)
  const found: PlainStart[] = []
  for (let start = brief.from; start + length <= brief.to; start += MINUTE) {
    if ((start + offset) % (brief.step * MINUTE) !== 0) continue
    const chosen = { start, end: start + length }
    const blocked = new Set(
      brief.people
        .filter((one) => one.time.known && isBlocked(one, brief.rules, chosen))
        .map((one) => one.id),
    )
    const enough = (brief.groups ?? []).every((group) => {
      const members = brief.people.filter((one) => one.group === group.id && one.time.known)
      return members.filter((one) => !blocked.has(one.id)).length >= group.atLeast
    })
    const wanted =
      start >= brief.now + brief.rules.notice * MINUTE &&
      brief.rules.weekdays.includes(weekdayOf(dayOf(toWall(home, start))))
    const places =
      brief.places && slots.length
        ? bestPlaces(slots, brief.places.all, (place) => isFree(place, chosen))
        : null
    found.push({
      start,
      free:
        wanted &&
        enough &&
        !brief.people.some((one) => isMust(one) && blocked.has(one.id)) &&
        !(brief.places?.must && places && places.lacking > 0),
      missing: brief.people.filter((one) => !isMust(one) && blocked.has(one.id)).map((one) => one.id),
      placeCost: places?.cost ?? null,
    })
  }
  return found
}

const positive = (people: readonly Asked[], minutes: (person: Asked) => number): Share[] =>
  people.map((person) => ({ id: person.id, minutes: minutes(person) })).filter((share) => share.minutes > 0)

/** The minutes free before and after a time, to an entry or, with `edges`, to the end of the working day around it. */
const freeAround = (time: LaneTime, chosen: Span, edges: boolean): [number, number] => {
  const before = counted(time)
    .filter((span) => span.end <= chosen.start)
    .map((span) => span.end)
  const after = counted(time)
    .filter((span) => span.start >= chosen.end)
    .map((span) => span.start)
  if (edges)
    for (const day of minuteRuns(time).days) {
      if (day.start <= chosen.start && day.end > chosen.start) before.push(day.start)
      if (day.start < chosen.end && day.end >= chosen.end) after.push(day.end)
    }
  return [(chosen.start - Math.max(...before)) / MINUTE, (Math.min(...after) - chosen.end) / MINUTE]
}

const plainParts = (brief: SearchBrief, at: PlainStart): Omit<Parts, 'places' | 'weather'> => {
  const chosen = { start: at.start, end: at.start + brief.minutes * MINUTE }
  const bearing = brief.people.filter(
    (one) => one.time.known && (one.required || one.group) && !at.missing.includes(one.id),
  )
  const stretch = positive(bearing, (person) => stretchOfTime(person.time, chosen))
  const past = (id: string) => brief.past?.[id] ?? 0
  const after = bearing.map(
    (one) => past(one.id) + (stretch.find((share) => share.id === one.id)?.minutes ?? 0),
  )
  const worst = Math.max(0, ...bearing.map((one) => past(one.id)))
  const scrap = (minutes: number) => (minutes > 0 && minutes < 30 ? minutes : 0)
  const home = zoneTable(brief.zone)
  return {
    missing: at.missing,
    tentative: brief.rules.tentative
      ? positive(bearing, (person) =>
          person.time.spans.filter(isSoft).reduce((sum, span) => sum + overlapOf(span, chosen), 0),
        )
      : [],
    stretch,
    lunch: positive(bearing, (person) => lunchOf(person.time, chosen)),
    squeezed: positive(bearing, (person) =>
      freeAround(person.time, chosen, false).reduce((sum, free) => sum + Math.max(0, 15 - free), 0),
    ),
    scraps: bearing.reduce(
      (sum, person) =>
        sum + freeAround(person.time, chosen, true).reduce((each, free) => each + scrap(free), 0),
      0,
    ),
    days: dayOf(toWall(home, at.start)) - dayOf(toWall(home, brief.from)),
    fairness: Math.round(
      Math.max(0, ...after) - after.reduce((sum, each) => sum + each, 0) / Math.max(1, after.length),
    ),
    spared:
      worst >= 60 && stretch.length
        ? bearing
            .filter((one) => past(one.id) === worst && !stretch.some((share) => share.id === one.id))
            .map((one) => one.id)
        : [],
  }
}

/** An opening as the plain search finds it: its places are weighed, and not named, since two sets can be as good. */
export type PlainOpening = Omit<Opening, 'parts'> & {
  readonly parts: Omit<Parts, 'places' | 'weather'>
  readonly placeCost: number | null
}

/** The search as one would do it by hand; what `searchOpenings` gives must be the same. */
export const plainSearch = (
  brief: SearchBrief,
): Omit<Found, 'openings'> & { readonly openings: PlainOpening[] } => {
  const starts = plainStarts(brief)
  const home = zoneTable(brief.zone)
  const length = brief.minutes * MINUTE
  const runs: PlainStart[][] = []
  for (const [i, start] of starts.entries()) {
    if (!start.free) continue
    const run = runs.at(-1)
    const last = run?.at(-1)
    const joins =
      last !== undefined &&
      last === starts[i - 1] &&
      last.missing.length === start.missing.length &&
      dayOf(toWall(home, last.start)) === dayOf(toWall(home, start.start))
    if (joins) run?.push(start)
    else runs.push([start])
  }
  const must = brief.people.filter(isMust)
  const stretches = (start: Instant) =>
    must.map((person) => stretchOfTime(person.time, { start, end: start + length }))
  const costAt = (start: Instant): number => {
    const borne = stretches(start)
    const after = must.map((person, k) => (brief.past?.[person.id] ?? 0) + (borne[k] ?? 0))
    const mean = after.reduce((sum, each) => sum + each, 0) / Math.max(1, must.length)
    return (
      borne.reduce((sum, minutes) => sum + stretchCost(minutes), 0) +
      FAIRNESS * Math.round(Math.max(0, ...after) - mean)
    )
  }
  // Within everybody's hours the first of equals is taken, whatever was borne before.
  const best = runs.map((run) =>
    brief.rules.stretch === 0
      ? (run[0] ?? { start: 0, free: false, missing: [], placeCost: null })
      : run.reduce((a, b) => (costAt(b.start) < costAt(a.start) ? b : a)),
  )
  const openings = best.map((at, k): PlainOpening => {
    const parts = plainParts(brief, at)
    return {
      start: at.start,
      end: at.start + length,
      from: runs[k]?.[0]?.start ?? 0,
      to: runs[k]?.at(-1)?.start ?? 0,
      parts,
      placeCost: at.placeCost,
      cost: costOf({ ...parts, places: null, weather: null }) + (at.placeCost ?? 0),
    }
  })
  return {
    openings: openings.sort((a, b) => a.cost - b.cost || a.start - b.start),
    bands: runs.map((run, k) => ({
      start: run[0]?.start ?? 0,
      end: (run.at(-1)?.start ?? 0) + length,
      missing: run[0]?.missing.length ?? 0,
      stretch: stretches(best[k]?.start ?? 0).reduce((sum, minutes) => sum + minutes, 0),
    })),
    unknown: brief.people.filter((person) => !person.time.known).map((person) => person.id),
    starts: starts.filter((start) => start.free).length,
    tried: starts.length,
  }
}

/** The cost of the places of an opening, for comparing with the plain one. */
export const placeCostOf = (places: Assignment | null): number | null => places?.cost ?? null
