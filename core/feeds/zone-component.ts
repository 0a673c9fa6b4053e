import ICAL from 'ical.js'
import { changesWithin, DAY, type Instant, offsetAt, type Wall, wallText, zoneTable } from '../time/index.ts'

const utcOffset = (ms: number): string => {
  const minutes = Math.round(Math.abs(ms) / 60_000)
  return `${ms < 0 ? '-' : '+'}${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`
}

/** A wall time as iCalendar writes it, with no zone. */
export const plainTime = (wall: Wall): ICAL.Time => ICAL.Time.fromDateTimeString(`${wallText(wall)}:00`)

/** An instant as iCalendar writes it, in UTC. */
export const utcTime = (at: Instant): ICAL.Time =>
  ICAL.Time.fromDateTimeString(`${new Date(Math.floor(at / 1000) * 1000).toISOString().slice(0, 19)}Z`)

/**
 * A VTIMEZONE (RFC 5545 section 3.6.5) with the offsets in force around `[from, to)`, each change written out by its
 * own date: exact for what it travels with, whatever the reader's zone database says.
 */
export const zoneComponent = (zone: string, from: Instant, to: Instant): ICAL.Component => {
  const table = zoneTable(zone)
  const component = new ICAL.Component('vtimezone')
  component.addPropertyWithValue('tzid', zone)
  const begin = from - 370 * DAY
  const changes = changesWithin(table, begin, to + 370 * DAY)
  const standard = Math.min(offsetAt(table, begin), ...changes.map((change) => change.after))
  const observance = (offset: number, before: number, startsAt: Instant) => {
    const part = new ICAL.Component(offset > standard ? 'daylight' : 'standard')
    part.addPropertyWithValue('dtstart', plainTime(startsAt + before))
    part.addPropertyWithValue('tzoffsetfrom', ICAL.UtcOffset.fromString(utcOffset(before)))
    part.addPropertyWithValue('tzoffsetto', ICAL.UtcOffset.fromString(utcOffset(offset)))
    component.addSubcomponent(part)
  }
  observance(offsetAt(table, begin), offsetAt(table, begin), begin)
  for (const change of changes) observance(change.after, change.before, change.at)
  return component
}

/** A property that is a wall time in a zone. */
export const zonedProperty = (name: string, wall: Wall, zone: string): ICAL.Property => {
  const property = new ICAL.Property(name)
  property.setValue(plainTime(wall))
  property.setParameter('tzid', zone)
  return property
}
