import ICAL from 'ical.js'
import { DAY, dayOf, isZone, offsetAt, type Wall, wallOf, zoneTable } from '../time/index.ts'

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

const timeOf = (wall: Wall): ICAL.Time => {
  const at = new Date(wall)
  const parts = {
    year: at.getUTCFullYear(),
    month: at.getUTCMonth() + 1,
    day: at.getUTCDate(),
    hour: at.getUTCHours(),
    minute: at.getUTCMinutes(),
    second: 0,
    isDate: false,
  }
  return new ICAL.Time(parts, ICAL.Timezone.localTimezone)
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
  const timezones = new Map<string, ICAL.Timezone>()

  /** The offset by the file's own rules, in milliseconds; null when it brings none. */
  const offsetByFile = (tzid: string, wall: Wall): number | null => {
    const component = components.get(tzid)
    if (!component) return null
    const timezone = timezones.get(tzid) ?? new ICAL.Timezone({ component, tzid })
    timezones.set(tzid, timezone)
    return timezone.utcOffset(timeOf(wall)) * 1000
  }

  const search = (tzid: string, wall: Wall): string | null => {
    const named = [tzid, ...tzid.split('/').map((_, i, parts) => parts.slice(i).join('/'))].filter(isZone)
    if (!components.has(tzid)) return named[0] ?? null
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
