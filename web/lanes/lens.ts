import { type Day, weekStart } from '@marmot/core/time'

/** The days that the lanes show. */
export interface Lens {
  readonly first: Day
  readonly days: number
}

/** Whether a day is among those that the lanes show. */
export const inLens = (lens: Lens, day: Day): boolean => day >= lens.first && day < lens.first + lens.days

export const RIBBON_DAYS = 49
/** A lens on more days than this shows a year, and so does the ribbon under it. */
export const MONTHS_LENS = 42
const YEAR_RIBBON_DAYS = 385

/** How many days the ribbon has for a lens. */
export const ribbonDays = (lens: Lens): number => (lens.days > MONTHS_LENS ? YEAR_RIBBON_DAYS : RIBBON_DAYS)

/** The ribbon's first day for a lens: the beginning of a week, with the lens well inside. */
export const ribbonStart = (lens: Lens, today: Day, firstWeekday = 1): Day => {
  const usual = weekStart(today, firstWeekday)
  if (lens.first >= usual && lens.first + lens.days <= usual + ribbonDays(lens)) return usual
  return weekStart(lens.first, firstWeekday) - (lens.days > MONTHS_LENS ? 7 : lens.days > 21 ? 0 : 14)
}
