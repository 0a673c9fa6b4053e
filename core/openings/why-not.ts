import type { BusySpan, Span } from '../availability/index.ts'
import { type Instant, MINUTE } from '../time/index.ts'
import { type Bits, bitAt, bitsFor, clearBits, countBits, keepBits, setRange } from './bits.ts'
import type { SearchBrief } from './brief.ts'
import { type Grid, indexFrom, startOf } from './grid.ts'
import { type Assignment, placesAt, type Slot } from './places.ts'
import { type PersonRow, rowsOf } from './rows.ts'
import { costOf, type Parts, partsOf } from './score.ts'
import { type Fit, peopleFree } from './search.ts'

/** What keeps somebody from coming. `full`: their day holds as much as it may; `gap`: too close to something else. */
export type Hindrance =
  | 'away'
  | 'busy'
  | 'held'
  | 'tentative'
  | 'hours'
  | 'lunch'
  | 'bounds'
  | 'gap'
  | 'full'
  | 'group'

/** Who is in the way, or a group of whom too few can come, and from when until when, where one thing is. */
export interface Blocker {
  readonly id: string
  readonly kind: Hindrance
  readonly since: Instant | null
  readonly until: Instant | null
  /** As far as the asker may know. */
  readonly title: string | null
}

/** Why there is no opening in `[from, to)`. Empty lists and no rule: there is one. */
export interface WhyNot {
  readonly from: Instant
  readonly to: Instant
  /** Together they block every start; whoever blocks most comes first. */
  readonly people: readonly Blocker[]
  /** Places that cannot be had while everybody could come. */
  readonly places: readonly Slot[]
  /** The organizer's own rule, when it leaves no start at all. */
  readonly rule: 'weekdays' | 'notice' | 'window' | null
}

const isBlocking = (row: PersonRow): boolean => row.asked.required && !row.asked.group && row.asked.time.known

/** The entry that takes most of a span. */
const mostOf = (spans: readonly BusySpan[], span: Span): BusySpan | null => {
  let most: BusySpan | null = null
  let least = 0
  for (const each of spans) {
    if (each.state === 'listed') continue
    const inside = Math.min(each.end, span.end) - Math.max(each.start, span.start)
    if (inside > least) {
      least = inside
      most = each
    }
  }
  return most
}

const byEntry = (row: PersonRow, span: BusySpan): Blocker => ({
  id: row.asked.id,
  kind: span.state === 'listed' ? 'busy' : span.state,
  since: span.start,
  until: span.end,
  title: span.title ?? null,
})

const byRule = (row: PersonRow, kind: Hindrance): Blocker => ({
  id: row.asked.id,
  kind,
  since: null,
  until: null,
  title: null,
})

/** How many of `among` a row has. */
const share = (row: Bits, among: Bits): number => {
  const both = row.slice()
  keepBits(both, among)
  return countBits(both)
}

/** What mainly keeps somebody from the starts of `among`: their time, or else the rule that takes most of them. */
const hindranceOver = (row: PersonRow, among: Bits, span: Span): Blocker => {
  const within = among.slice()
  clearBits(within, row.pattern.hours)
  clearBits(within, row.pattern.bounds)
  const inHours = countBits(within)
  const taken = inHours > 0 ? share(row.taken(), within) : 0
  const entry = mostOf(row.asked.time.spans, span)
  if (entry && (entry.state === 'away' || taken * 2 > inHours) && share(row.taken(), among) > 0)
    return byEntry(row, entry)
  const hours = share(row.pattern.hours, among)
  const bounds = share(row.pattern.bounds, among)
  return byRule(row, bounds > hours ? 'bounds' : 'hours')
}

/**
 * Who or what is in the way of every start in `[from, to)`: first everybody who blocks all of it alone; if nobody does,
 * the few who do together, whoever blocks most of what is left taken first.
 */
export const whyNotIn = (fit: Fit, from: Instant, to: Instant): WhyNot => {
  const { rows, places, free } = fit
  const { grid, brief } = rows
  const low = indexFrom(grid, from)
  const high = indexFrom(grid, to)
  const none: WhyNot = { from, to, people: [], places: [], rule: null }
  if (countBits(free, low, high) > 0) return none
  const range = bitsFor(grid.count)
  setRange(range, low, high)
  const left = range.slice()
  keepBits(left, rows.asked)
  if (countBits(left) === 0) {
    const soon = brief.now + brief.rules.notice * MINUTE
    return {
      ...none,
      rule: high <= low ? 'window' : to <= soon || startOf(grid, high - 1) < soon ? 'notice' : 'weekdays',
    }
  }
  const able = peopleFree(rows)
  keepBits(able, range)
  if (countBits(able) > 0) return { ...none, places: lackingSlots(fit, able) }
  const span = { start: from, end: to }
  const whole = countBits(left)
  const blocking = rows.people.filter(isBlocking)
  const alone = blocking.filter((row) => share(row.blocked, left) === whole)
  if (alone.length > 0)
    return { ...none, people: alone.map((row) => hindranceOver(row, left, span)).sort(firmFirst) }
  const people: Blocker[] = []
  const remaining = new Set(blocking)
  while (countBits(left) > 0 && remaining.size > 0) {
    const most = [...remaining].reduce((a, b) => (share(b.blocked, left) > share(a.blocked, left) ? b : a))
    if (share(most.blocked, left) === 0) break
    const main = hindranceOver(most, left, span)
    people.push(main)
    // Whoever is away for part of it, and out of hours for the rest, is named for both.
    if (
      main.kind === 'away' &&
      share(most.pattern.hours, left) > 0 &&
      share(most.taken(), left) < countBits(left)
    )
      people.push(byRule(most, 'hours'))
    clearBits(left, most.blocked)
    remaining.delete(most)
  }
  if (countBits(left) > 0)
    for (const group of brief.groups ?? [])
      people.push({ id: group.id, kind: 'group', since: null, until: null, title: group.name })
  return { ...none, people, places: places && people.length === 0 ? places.slots : [] }
}

const FIRM: readonly Hindrance[] = ['away', 'busy', 'held', 'tentative']

/** What somebody cannot change comes before what a rule could. */
const firmFirst = (a: Blocker, b: Blocker): number =>
  Number(FIRM.includes(b.kind)) - Number(FIRM.includes(a.kind))

/** The slots for which no place is free at any of these starts; all of them when only together they cannot be had. */
const lackingSlots = (fit: Fit, among: Bits): readonly Slot[] => {
  if (!fit.places) return []
  const { slots, rows } = fit.places
  const lacking = slots.filter((slot) =>
    slot.places.every((index) => {
      const row = rows.get(index)
      return !row || share(row, among) === 0
    }),
  )
  return lacking.length > 0 ? lacking : slots
}

/** What keeps somebody from one start; null when they can come. */
export const hindranceAt = (
  row: PersonRow,
  rules: SearchBrief['rules'],
  grid: Grid,
  i: number,
): Blocker | null => {
  if (!bitAt(row.blocked, i)) return null
  const start = startOf(grid, i)
  const span = { start, end: start + grid.lengthMs }
  if (bitAt(row.taken(), i)) {
    const wide = { start: start - rules.before * MINUTE, end: span.end + rules.after * MINUTE }
    const usable = row.asked.time.spans.filter(
      (each) => !(rules.tentative && (each.state === 'tentative' || each.state === 'held')),
    )
    const entry = mostOf(usable, span)
    if (entry) return byEntry(row, entry)
    const near = mostOf(
      usable.filter((each) => !each.gap),
      wide,
    )
    if (near) return { ...byEntry(row, near), kind: 'gap' }
    return byRule(row, 'full')
  }
  if (bitAt(row.pattern.hours, i)) return byRule(row, 'hours')
  if (bitAt(row.pattern.bounds, i)) return byRule(row, 'bounds')
  return byRule(row, 'lunch')
}

/** How a chosen time stands by a brief, whether it is an opening or not. */
export interface Judged {
  readonly fits: boolean
  readonly parts: Parts
  readonly cost: number
  /** Everybody who cannot come, required or not, with what keeps them. */
  readonly blockers: readonly Blocker[]
  readonly places: Assignment | null
}

/** Weighs one time, on the grid of steps or not, with the same rows and parts as the search. Cost: one start. */
export const judge = (brief: SearchBrief, chosen: Span): Judged => {
  const minutes = Math.round((chosen.end - chosen.start) / MINUTE)
  const one = { ...brief, from: chosen.start, to: chosen.end, minutes }
  const grid: Grid = {
    first: chosen.start,
    stepMs: brief.step * MINUTE,
    count: 1,
    lengthMs: minutes * MINUTE,
  }
  const rows = rowsOf(one, grid)
  const blockers = rows.people.flatMap((row) => hindranceAt(row, brief.rules, grid, 0) ?? [])
  const standing = rows.people.map((row) => ({ ...row, blocked: bitAt(row.blocked, 0) }))
  const places = placesAt(brief, chosen)
  const parts = partsOf(brief, standing, chosen, places)
  const able = bitAt(peopleFree(rows), 0)
  return {
    fits: able && !(brief.places?.must && places && places.lacking > 0),
    parts,
    cost: costOf(parts),
    blockers,
    places,
  }
}
