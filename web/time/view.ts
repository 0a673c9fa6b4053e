import type { WorkingHours } from '@marmot/core/availability'
import { type Day, weekdayOf, weekStart } from '@marmot/core/time'
import type { Lens } from '../lanes/lens.ts'

/** The ways of looking at My time. A lens of another size is none of them, and fine. */
export const VIEWS = [
  { id: 'day', name: 'Day', key: 'd' },
  { id: 'work', name: 'Working days', key: 'k' },
  { id: 'week', name: 'Week', key: 'w' },
  { id: 'four', name: '4 weeks', key: 'm' },
  { id: 'six', name: '6 weeks', key: 'x' },
  { id: 'year', name: 'Year', key: 'y' },
] as const
export type ViewId = (typeof VIEWS)[number]['id']

export const YEAR_DAYS = 53 * 7

/** The working days of a week in one stretch, from the first worked weekday to the last. */
const workingStretch = (hours: readonly WorkingHours[], firstWeekday: number) => {
  const places = hours.map((part) => (part.weekday - firstWeekday + 7) % 7)
  return places.length ? { from: Math.min(...places), to: Math.max(...places) } : { from: 0, to: 4 }
}

/** The lens that a view puts on the days around `day`. */
export const lensFor = (
  view: ViewId,
  day: Day,
  firstWeekday: number,
  hours: readonly WorkingHours[],
): Lens => {
  const week = weekStart(day, firstWeekday)
  switch (view) {
    case 'day':
      return { first: day, days: 1 }
    case 'work': {
      const { from, to } = workingStretch(hours, firstWeekday)
      return { first: week + from, days: to - from + 1 }
    }
    case 'week':
      return { first: week, days: 7 }
    case 'four':
      return { first: week, days: 28 }
    case 'six':
      return { first: week, days: 42 }
    case 'year':
      return { first: week - 7 * 4, days: YEAR_DAYS }
  }
}

/** Which view a lens is, if any. */
export const viewOf = (lens: Lens, firstWeekday: number, hours: readonly WorkingHours[]): ViewId | null => {
  const anchor = lens.days > 42 ? lens.first + 28 : lens.first
  return (
    VIEWS.find(({ id }) => {
      const fits = lensFor(id, anchor, firstWeekday, hours)
      return fits.days === lens.days && (id === 'day' || fits.first === lens.first)
    })?.id ?? null
  )
}

export const isWeekend = (day: Day): boolean => weekdayOf(day) > 5
