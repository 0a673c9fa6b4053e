import ICAL from 'ical.js'
import {
  changesWithin,
  civilOf,
  DAY,
  dayFromCivil,
  dayOf,
  dayText,
  type Instant,
  offsetAt,
  type Wall,
  wallText,
  weekdayOf,
  type ZoneTable,
  zoneTable,
} from '../time/index.ts'

const utcOffset = (ms: number): string => {
  const minutes = Math.round(Math.abs(ms) / 60_000)
  return `${ms < 0 ? '-' : '+'}${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`
}

/** A wall time as iCalendar writes it, with no zone. */
export const plainTime = (wall: Wall): ICAL.Time => ICAL.Time.fromDateTimeString(`${wallText(wall)}:00`)

/** An instant as iCalendar writes it, in UTC. */
export const utcTime = (at: Instant): ICAL.Time =>
  ICAL.Time.fromDateTimeString(`${new Date(Math.floor(at / 1000) * 1000).toISOString().slice(0, 19)}Z`)

interface Change {
  readonly at: Instant
  readonly before: number
  readonly after: number
}

/** All seven dates on which a weekday of a month can fall come round within 28 years. */
const CYCLE_YEARS = 28
const DAY_NAMES = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const

/** The rule that changes of clocks follow, one a year, as RRULE has it; null when no rule of a weekday in a month does. */
const yearlyRule = (changes: readonly Change[]): string | null => {
  const walls = changes.map((change) => change.at + change.before)
  const days = walls.map((wall) => ({
    ...civilOf(dayOf(wall)),
    weekday: weekdayOf(dayOf(wall)),
    clock: wall % DAY,
  }))
  const [first] = days
  if (!first) return null
  const steady = days.every(
    (day, i) =>
      day.month === first.month &&
      day.weekday === first.weekday &&
      day.clock === first.clock &&
      day.year === first.year + i &&
      changes[i]?.before === changes[0]?.before &&
      changes[i]?.after === changes[0]?.after,
  )
  const least = Math.min(...days.map((day) => day.date))
  const most = Math.max(...days.map((day) => day.date))
  if (!steady || most - least !== 6) return null
  const day = DAY_NAMES[first.weekday - 1]
  const { month, year } = first
  const begin = `FREQ=YEARLY;BYMONTH=${month}`
  if ((least - 1) % 7 === 0) return `${begin};BYDAY=${(least - 1) / 7 + 1}${day}`
  // The last week of the month, which is the same every year but in February.
  if (month !== 2 && dayFromCivil(year, month, most + 1) === null) return `${begin};BYDAY=-1${day}`
  const dates = Array.from({ length: 7 }, (_, i) => least + i)
  return `${begin};BYMONTHDAY=${dates.join()};BYDAY=${day}`
}

/** The two changes of a year from an instant on, each as its rule; null where they follow none. */
const rulesFrom = (table: ZoneTable, from: Instant): { first: Change; rule: string }[] | null => {
  const changes = changesWithin(table, from, from + (CYCLE_YEARS + 1) * 366 * DAY)
  if (changes.length === 0) return []
  const rules = [0, 1].map((turn) => {
    const own = changes.filter((_, i) => i % 2 === turn).slice(0, CYCLE_YEARS)
    const rule = own.length === CYCLE_YEARS ? yearlyRule(own) : null
    return own[0] && rule ? { first: own[0], rule } : null
  })
  return rules.every((rule) => rule !== null) ? rules : null
}

/** So far a zone whose clocks follow no rule of a weekday is written out, where it is asked for without end. */
const LAST_WRITTEN: Instant = Date.UTC(2087, 0, 1)

/**
 * A VTIMEZONE (RFC 5545 section 3.6.5) with the offsets in force around `[from, to)`, each change written out by its
 * own date: exact for what it travels with, whatever the reader's zone database says. With `forEver`, for a series
 * without an end, the changes after `to` are there too: as the rules they follow, or written out to 2086.
 */
export const zoneComponent = (zone: string, from: Instant, to: Instant, forEver = false): ICAL.Component => {
  const table = zoneTable(zone)
  const component = new ICAL.Component('vtimezone')
  component.addPropertyWithValue('tzid', zone)
  const begin = from - 370 * DAY
  const written = to + 370 * DAY
  const rules = forEver ? rulesFrom(table, written) : []
  const changes = changesWithin(table, begin, rules === null ? Math.max(written, LAST_WRITTEN) : written)
  const standard = Math.min(offsetAt(table, begin), ...changes.map((change) => change.after))
  const observance = (offset: number, before: number, startsAt: Instant, rule: string | null) => {
    const part = new ICAL.Component(offset > standard ? 'daylight' : 'standard')
    part.addPropertyWithValue('dtstart', plainTime(startsAt + before))
    part.addPropertyWithValue('tzoffsetfrom', ICAL.UtcOffset.fromString(utcOffset(before)))
    part.addPropertyWithValue('tzoffsetto', ICAL.UtcOffset.fromString(utcOffset(offset)))
    if (rule) part.addPropertyWithValue('rrule', ICAL.Recur.fromString(rule))
    component.addSubcomponent(part)
  }
  observance(offsetAt(table, begin), offsetAt(table, begin), begin, null)
  for (const change of changes) observance(change.after, change.before, change.at, null)
  for (const { first, rule } of rules ?? []) observance(first.after, first.before, first.at, rule)
  return component
}

/** A property that is a wall time in a zone. */
export const zonedProperty = (name: string, wall: Wall, zone: string): ICAL.Property => {
  const property = new ICAL.Property(name)
  property.setValue(plainTime(wall))
  property.setParameter('tzid', zone)
  return property
}

const dateTime = (wall: Wall): ICAL.Time => ICAL.Time.fromDateString(dayText(dayOf(wall)))

/** In which zone a time is, or of whole days in none. */
export interface Timed {
  readonly zone: string
  readonly allDay: boolean
}

/** A wall time as a property: in its zone, or of whole days a date in none (RFC 5545 section 3.3.4). */
export const timeProperty = (name: string, wall: Wall, { zone, allDay }: Timed): ICAL.Property => {
  if (!allDay) return zonedProperty(name, wall, zone)
  const property = new ICAL.Property(name)
  property.setValue(dateTime(wall))
  return property
}
