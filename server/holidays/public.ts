import { type Day, dayFromCivil, MINUTE } from '@marmot/core/time'
import Holidays from 'date-holidays'
import type { ThreadWork } from '../platform/threads.ts'

/** A public holiday: whole days, from the first to the last. */
export interface PublicHoliday {
  readonly first: Day
  readonly last: Day
  readonly name: string
  /** Whether it goes by the moon, so that its day is not certain before it is seen. */
  readonly uncertain: boolean
}

export interface HolidaysInput {
  readonly region: string
  readonly fromYear: number
  readonly toYear: number
}

/** A country, or a part of it, whose public holidays are known. */
export interface Region {
  /** As ISO 3166 names it: "AT", "AT-7". */
  readonly code: string
  readonly name: string
}

const LANGUAGE = 'en'
const DAY_MINUTES = 1440
const LONGEST_NAME = 120
/** Months of the calendar that goes by the moon that is seen, by which the package names such a feast's day. */
const BY_THE_MOON = /Muharram|Safar|Rabi|Jumada|Rajab|Shaban|Ramadan|Shawwal|Dhu/i

const reader = (region: string): Holidays => {
  const [country = '', state = '', part = ''] = region.split('-')
  return new Holidays(country, state, part, { languages: [LANGUAGE], types: ['public'] })
}

/** Whether the public holidays of a region are known. */
const isKnown = (region: string): boolean => {
  const [country = '', state, part] = region.split('-')
  const all = new Holidays()
  const states = all.getStates(country, LANGUAGE) ?? {}
  const parts = state ? (all.getRegions(country, state, LANGUAGE) ?? {}) : {}
  return (
    country in all.getCountries(LANGUAGE) &&
    (state === undefined || state in states) &&
    (part === undefined || part in parts)
  )
}

/** The public holidays of some years in a region; null where those of the region are not known. */
export const publicHolidays = ({ region, fromYear, toYear }: HolidaysInput): PublicHoliday[] | null => {
  if (!isKnown(region)) return null
  const holidays = reader(region)
  const found: PublicHoliday[] = []
  for (let year = fromYear; year <= toYear; year++)
    for (const one of holidays.getHolidays(year)) {
      const [date = ''] = one.date.split(' ')
      const [y = 0, month = 0, day = 0] = date.split('-').map(Number)
      const first = dayFromCivil(y, month, day)
      if (first === null) continue
      const days = Math.max(1, Math.round((one.end.getTime() - one.start.getTime()) / MINUTE / DAY_MINUTES))
      const name = one.name.trim().replaceAll("'", '’').slice(0, LONGEST_NAME)
      if (name) found.push({ first, last: first + days - 1, name, uncertain: BY_THE_MOON.test(one.rule) })
    }
  return found
}

/** Every region whose public holidays are known: countries by their names, each followed by its parts. */
export const knownRegions = (): Region[] => {
  const all = new Holidays()
  const byName = (a: readonly [string, string], b: readonly [string, string]) => a[1].localeCompare(b[1])
  return Object.entries(all.getCountries(LANGUAGE))
    .sort(byName)
    .flatMap(([country, name]) => [
      { code: country, name },
      ...Object.entries(all.getStates(country, LANGUAGE) ?? {})
        .sort(byName)
        .map(([state, part]) => ({ code: `${country}-${state}`, name: `${name}, ${part}` })),
    ])
}

/** The same in a thread of its own: what is known of the world's holidays is a few megabytes to read. */
export const readHolidays: ThreadWork<HolidaysInput, PublicHoliday[] | null> = async (input) =>
  publicHolidays(input)

export const readRegions: ThreadWork<object, Region[]> = async () => knownRegions()
