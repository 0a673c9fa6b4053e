import * as Zoned from 'temporal-polyfill/fns/ZonedDateTime'
import { DAY, type Instant, MINUTE, type Wall, wallFromText } from './days.ts'

/**
 * A zone's rules as numbers. `offsets[i]` (milliseconds to add to an instant to get wall time) holds from
 * `changes[i]` until `changes[i + 1]`. A Temporal call costs about 0.1 ms, so the changes between 2015 and 2046 are
 * found once for each zone and looked up afterwards; outside those years Temporal is asked each time. The polyfill is
 * called by name, also where the host has a Temporal of its own, so that page, worker and server agree.
 */
export interface ZoneTable {
  readonly zone: string
  readonly changes: Float64Array
  readonly offsets: Float64Array
}

const FROM: Instant = Date.UTC(2015, 0, 1)
const TO: Instant = Date.UTC(2046, 0, 1)
const tables = new Map<string, ZoneTable>()

/** Somebody named a zone that the IANA time zone database does not have. */
export class UnknownZone extends Error {
  constructor(readonly zone: string) {
    super(`There is no time zone called "${zone}".`)
  }
}

const zonedAt = (zone: string, instant: Instant) =>
  Zoned.create(BigInt(Math.floor(instant)) * 1_000_000n, zone)

const offsetByTemporal = (zone: string, instant: Instant): number =>
  Zoned.offsetNanoseconds(zonedAt(zone, instant)) / 1e6

/** The changes of offset in `[from, to)`, each with the offset that holds from it on, asked of Temporal. */
const changesByTemporal = (zone: string, from: Instant, to: Instant): { at: Instant; offset: number }[] => {
  const found: { at: Instant; offset: number }[] = []
  // A millisecond earlier, so that a change at `from` itself is the next one.
  let at = Zoned.getTimeZoneTransition(zonedAt(zone, from - 1), 'next')
  while (at && at.epochMilliseconds < to) {
    found.push({ at: at.epochMilliseconds, offset: Zoned.offsetNanoseconds(at) / 1e6 })
    at = Zoned.getTimeZoneTransition(at, 'next')
  }
  return found
}

const build = (zone: string): ZoneTable => {
  try {
    const changes = changesByTemporal(zone, FROM + 1, TO)
    return {
      zone,
      changes: Float64Array.from([FROM, ...changes.map((change) => change.at)]),
      offsets: Float64Array.from([offsetByTemporal(zone, FROM), ...changes.map((change) => change.offset)]),
    }
  } catch {
    throw new UnknownZone(zone)
  }
}

/** The table of a zone, made on first use. Throws `UnknownZone`. */
export const zoneTable = (zone: string): ZoneTable => {
  const known = tables.get(zone)
  if (known) return known
  // Offsets such as "+02:00" are no zones here: they know no daylight saving, so a series in one would drift.
  if (!/^[A-Za-z]/.test(zone)) throw new UnknownZone(zone)
  const made = build(zone)
  tables.set(zone, made)
  return made
}

/** A zone's name as the zone database writes it, whatever the case it is given in. Throws `UnknownZone`. */
export const zoneName = (zone: string): string => zonedAt(zoneTable(zone).zone, 0).timeZoneId

/** True when the zone exists. */
export const isZone = (zone: string): boolean => {
  try {
    zoneTable(zone)
    return true
  } catch {
    return false
  }
}

/** Index of the rule in force at an instant, by bisection. */
const ruleAt = (table: ZoneTable, instant: Instant): number => {
  let low = 0
  let high = table.changes.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if ((table.changes[middle] ?? 0) <= instant) low = middle
    else high = middle - 1
  }
  return low
}

/** Milliseconds to add to an instant to get the wall time in a zone. */
export const offsetAt = (table: ZoneTable, instant: Instant): number =>
  instant < FROM || instant >= TO
    ? offsetByTemporal(table.zone, instant)
    : (table.offsets[ruleAt(table, instant)] ?? 0)

/** The wall time in a zone at an instant. */
export const toWall = (table: ZoneTable, instant: Instant): Wall => instant + offsetAt(table, instant)

/** How a wall time met its instant: once, never (a gap: it was moved on), or twice (the first is taken). */
export type WallFit = 'exact' | 'gap' | 'overlap'

/**
 * The instant of a wall time. RFC 5545 section 3.3.5: a time in a daylight-saving gap is read with the offset before
 * the gap, so it moves on by the length of the gap; a time that comes twice is the first of the two.
 */
export const fromWall = (table: ZoneTable, wall: Wall): { instant: Instant; fit: WallFit } => {
  // No offset reaches a day, so the offsets a day on either side are those that can hold around this wall time.
  const before = offsetAt(table, wall - DAY)
  const after = offsetAt(table, wall + DAY)
  if (before === after) return { instant: wall - before, fit: 'exact' }
  const early = wall - before
  const late = wall - after
  const earlyHolds = offsetAt(table, early) === before
  const lateHolds = offsetAt(table, late) === after
  if (earlyHolds) return { instant: early, fit: lateHolds && late !== early ? 'overlap' : 'exact' }
  if (lateHolds) return { instant: late, fit: 'exact' }
  return { instant: early, fit: 'gap' }
}

/** `fromWall` for when only the instant matters. */
export const instantOf = (table: ZoneTable, wall: Wall): Instant => fromWall(table, wall).instant

/** The instant of a wall time written `YYYY-MM-DDTHH:mm` in a zone. Throws when the text is no time. */
export const instantFromText = (zone: string, text: string): Instant => {
  const wall = wallFromText(text)
  if (wall === null) throw new RangeError(`"${text}" is not a time like 2026-12-03T14:00`)
  return instantOf(zoneTable(zone), wall)
}

/** The years for which changes are asked at the most; no calendar of ours reaches beyond. */
const FIRST_CHANGE: Instant = Date.UTC(1900, 0, 1)
const LAST_CHANGE: Instant = Date.UTC(2200, 0, 1)

/** Changes of offset inside `[from, to)`, with the offsets on both sides, for rulers and VTIMEZONE. */
export const changesWithin = (
  table: ZoneTable,
  from: Instant,
  to: Instant,
): { at: Instant; before: number; after: number }[] => {
  const [first, last] = [Math.max(from, FIRST_CHANGE), Math.min(to, LAST_CHANGE)]
  const kept = [...table.changes].map((at, i) => ({ at, offset: table.offsets[i] ?? 0 })).slice(1)
  const all = [
    ...(first < FROM ? changesByTemporal(table.zone, first, Math.min(last, FROM + 1)) : []),
    ...kept.filter((change) => change.at >= first && change.at < last),
    ...(last > TO ? changesByTemporal(table.zone, Math.max(first, TO), last) : []),
  ]
  let before = offsetAt(table, first - 1)
  return all.map(({ at, offset }) => {
    const change = { at, before, after: offset }
    before = offset
    return change
  })
}

/** An offset as a person writes it: `UTC+1`, `UTC+5:45`, `UTC−3:30`. */
export const offsetInWords = (offset: number): string => {
  const minutes = Math.round(Math.abs(offset) / MINUTE)
  const rest = minutes % 60
  if (minutes === 0) return 'UTC'
  return `UTC${offset < 0 ? '−' : '+'}${Math.floor(minutes / 60)}${rest ? `:${String(rest).padStart(2, '0')}` : ''}`
}
