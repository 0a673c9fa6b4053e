import ICAL from 'ical.js'
import { findIana } from 'windows-iana'
import { datesWithin, readRule, writeRule } from '../recurrence/index.ts'
import {
  DAY,
  dayFromCivil,
  dayOf,
  isZone,
  offsetAt,
  type Wall,
  wallOf,
  zoneName,
  zoneTable,
} from '../time/index.ts'

/** What a time of the file shows on the wall, its zone aside. NaN when it is on no calendar. */
export const wallOfTime = (time: ICAL.Time): Wall => {
  const day = dayFromCivil(time.year, time.month, time.day)
  return day === null ? Number.NaN : wallOf(day, time.hour * 60 + time.minute)
}

/** The offset of an IANA zone at an instant, without making its table: only a few moments are asked of many zones. */
const offsetOf = (zone: string, instant: number): number => {
  const text =
    new Intl.DateTimeFormat('en-GB', { timeZone: zone, timeZoneName: 'longOffset' })
      .formatToParts(instant)
      .find((part) => part.type === 'timeZoneName')?.value ?? ''
  const found = /GMT(?:([+-])(\d{2}):(\d{2}))?/.exec(text)
  if (!found?.[1]) return 0
  return (found[1] === '-' ? -1 : 1) * (Number(found[2]) * 60 + Number(found[3])) * 60_000
}

/** A VTIMEZONE as its observances, each from an instant on, in order. */
interface Observed {
  readonly at: number
  readonly offset: number
}

const MOST_OBSERVANCES = 2000
/** Some files begin their zones in the year 1 or 1601; nothing of ours is before this. */
const EARLIEST: Wall = Date.UTC(1890, 0, 1)
const YEARS_READ = 20 * 366 * DAY

/** A VTIMEZONE read as far as `until`: from which wall time on it says anything, and which offset held before. */
interface Observances {
  readonly until: Wall
  readonly first: Wall
  readonly before: number
  readonly observed: readonly Observed[]
}

const observancesOf = (component: ICAL.Component, until: Wall): Observances => {
  const observed: Observed[] = []
  let earliest = { wall: Number.POSITIVE_INFINITY, from: 0 }
  for (const part of component.getAllSubcomponents()) {
    const start = part.getFirstPropertyValue('dtstart')
    const from = part.getFirstPropertyValue('tzoffsetfrom')
    const to = part.getFirstPropertyValue('tzoffsetto')
    if (!(start instanceof ICAL.Time) || !(from instanceof ICAL.UtcOffset) || !(to instanceof ICAL.UtcOffset))
      continue
    const [fromMs, toMs] = [from.toSeconds() * 1000, to.toSeconds() * 1000]
    const first = wallOfTime(start)
    if (first < earliest.wall) earliest = { wall: first, from: fromMs }
    const walls = [first]
    for (const property of part.getAllProperties('rdate'))
      for (const value of property.getValues()) if (value instanceof ICAL.Time) walls.push(wallOfTime(value))
    const rule = part.getFirstPropertyValue('rrule')
    if (rule instanceof ICAL.Recur && first < until) {
      // An UNTIL here is in UTC, and the wall times are by TZOFFSETFROM (RFC 5545 section 3.6.5).
      const series = { starts: first, minutes: 1, rule: ruleInWall(rule, fromMs), added: [], excepted: [] }
      walls.push(
        ...datesWithin(series, zoneTable('UTC'), Math.max(first, EARLIEST), until).slice(0, MOST_OBSERVANCES),
      )
    }
    for (const wall of walls) observed.push({ at: wall - fromMs, offset: toMs })
  }
  observed.sort((a, b) => a.at - b.at)
  return { until, first: earliest.wall, before: earliest.from, observed: observed.slice(0, MOST_OBSERVANCES) }
}

const ruleInWall = (rule: ICAL.Recur, offset: number): string => {
  const read = readRule(rule.toString())
  const { until } = read
  return writeRule(until?.utc ? { ...read, until: { wall: until.wall + offset, utc: false } } : read)
}

/**
 * The moments at which zones are compared: the noon of the entry's own day, and of one in each season after it. At noon
 * no clocks change; and not further, since many files describe their zone for a year or two only.
 */
const momentsAround = (wall: Wall): Wall[] =>
  [0, 91, 182, 273].map((days) => wallOf(dayOf(wall) + days, 12 * 60))

/**
 * Finds our zones for the TZIDs of a file. A VTIMEZONE that comes along decides (RFC 5545 section 3.6.5): a zone of
 * ours is taken only where it has the same offsets, whatever the file calls it. Null when there is none.
 */
export const zoneFinder = (components: ReadonlyMap<string, ICAL.Component>, home: string) => {
  const found = new Map<string, string | null>()
  const read = new Map<string, Observances>()

  const observances = (tzid: string, component: ICAL.Component, wall: Wall): Observances => {
    const known = read.get(tzid)
    if (known && known.until >= wall + DAY) return known
    const made = observancesOf(component, wall + YEARS_READ)
    read.set(tzid, made)
    return made
  }

  /**
   * The offset by the file's own rules, in milliseconds; null when it brings none. Before the first observance the
   * offset is the one it changes from.
   */
  const offsetByFile = (tzid: string, wall: Wall): number | null => {
    const component = components.get(tzid)
    if (!component) return null
    const { before, observed } = observances(tzid, component, wall)
    let offset = before
    for (const one of observed) {
      if (one.at > wall - offset) break
      offset = one.offset
    }
    return offset
  }

  /** Our zones that a TZID may mean: by its own name, by the end of a path, or by its name on other systems (CLDR). */
  const namedBy = (tzid: string): string[] =>
    [...tzid.split('/').map((_, i, parts) => parts.slice(i).join('/')), ...findIana(tzid)]
      .filter(isZone)
      .map(zoneName)

  const search = (tzid: string, wall: Wall): string | null => {
    const named = namedBy(tzid)
    const component = components.get(tzid)
    if (!component) return named[0] ?? null
    // Where the file is silent, since it describes its zone from a later day on, the zone of that name decides.
    if (named[0] && wall < observances(tzid, component, wall).first) return named[0]
    const asked = momentsAround(wall).map((moment) => ({ moment, offset: offsetByFile(tzid, moment) ?? 0 }))
    const fits = (offset: (instant: number) => number) =>
      asked.every((one) => offset(one.moment - one.offset) === one.offset)
    const near = [...named, home].find((zone) => fits((instant) => offsetAt(zoneTable(zone), instant)))
    if (near) return near
    return (
      Intl.supportedValuesOf('timeZone').find((zone) => fits((instant) => offsetOf(zone, instant))) ?? null
    )
  }

  return {
    offsetByFile,
    /** Our zone for a TZID around a wall time. */
    zoneFor: (tzid: string, wall: Wall): string | null => {
      const key = `${tzid} ${Math.floor(wall / (366 * DAY))}`
      const known = found.get(key)
      if (known !== undefined) return known
      const zone = search(tzid, wall)
      found.set(key, zone)
      return zone
    },
  }
}
