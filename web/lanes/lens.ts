import { type Day, weekStart } from '@marmot/core/time'

/** The days that the lanes show. */
export interface Lens {
  readonly first: Day
  readonly days: number
}

export const RIBBON_DAYS = 49

/** The ribbon's first day for a lens: a Monday, with the lens well inside. */
export const ribbonStart = (lens: Lens, today: Day): Day => {
  const usual = weekStart(today)
  if (lens.first >= usual && lens.first + lens.days <= usual + RIBBON_DAYS) return usual
  return weekStart(lens.first) - 14
}
