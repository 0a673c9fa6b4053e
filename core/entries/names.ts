import { type Day, dayOf, type Wall } from '../time/index.ts'

/** A date of an entry as it was, by its name for good. */
export interface NamedDate {
  readonly id: string
  /** The wall time that its series gave for it (RECURRENCE-ID). */
  readonly recurrence: Wall
  /** The series gives it no more. */
  readonly gone: boolean
}

/**
 * Which of the dates that an entry has now is which of those that it had: what belongs to a date (answers, places,
 * reminders) goes on with it. A date is found again where the change moved it (`by`, in milliseconds on the wall), else
 * where it was, else on its day; an entry's only date is always the same one; one that had gone comes back. Gives the
 * name of each date that goes on, by its wall time now; each name is given once.
 */
export const namesOf = (before: readonly NamedDate[], dates: readonly Wall[], by = 0): Map<Wall, string> => {
  const names = new Map<Wall, string>()
  const free = new Set(dates)
  const lost = new Set(before.filter((one) => !one.gone))
  const goesOn = (one: NamedDate, at: Wall | undefined) => {
    if (at === undefined || !free.delete(at)) return
    names.set(at, one.id)
    lost.delete(one)
  }
  for (const one of lost) goesOn(one, one.recurrence + by)
  for (const one of lost) goesOn(one, one.recurrence)
  const onDay = new Map<Day, Wall[]>()
  for (const wall of free) onDay.set(dayOf(wall), [...(onDay.get(dayOf(wall)) ?? []), wall])
  for (const one of lost) goesOn(one, onDay.get(dayOf(one.recurrence + by))?.shift())
  const [only, ...more] = before.filter((one) => !one.gone)
  if (only && more.length === 0 && dates.length === 1 && lost.has(only)) goesOn(only, dates[0])
  for (const one of before) if (one.gone) goesOn(one, one.recurrence)
  return names
}
