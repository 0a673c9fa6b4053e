import { ruleInWords } from '../recurrence/index.ts'
import { clockText, dayOf, minuteOf, shortDay, type Wall } from '../time/index.ts'

/** So many dates that are off are named; nobody reads more. */
const MOST_OFF = 12

/** How a series repeats, or which dates it has, and each date that differs from it, in the meeting's own zone; nothing for a single meeting. */
export const seriesInWords = (series: {
  readonly rule: string | null
  readonly starts: Wall
  readonly added: readonly Wall[]
  readonly changes: readonly {
    readonly recurrence: Wall
    readonly starts: Wall | null
    readonly place: string | null
  }[]
  /** Dates that were left out of it from the beginning, or cancelled since. */
  readonly off: readonly Wall[]
}): string[] => {
  if (series.rule === null && series.added.length === 0) return []
  const moved = series.changes.map(({ recurrence, starts, place }) => {
    const time = starts === null ? '' : ` on ${shortDay(dayOf(starts))} at ${clockText(minuteOf(starts))}`
    return `but instead of ${shortDay(dayOf(recurrence))}${time}${place ? ` in ${place}` : ''}`
  })
  const off = [...series.off].sort((a, b) => a - b).map((wall) => shortDay(dayOf(wall)))
  const named = off.length > MOST_OFF ? [...off.slice(0, MOST_OFF), `${off.length - MOST_OFF} more`] : off
  const dates = [series.starts, ...series.added].map((wall) => shortDay(dayOf(wall)))
  return [
    series.rule === null ? `on ${dates.join(', ')}` : ruleInWords(series.rule, series.starts),
    ...moved,
    ...(off.length ? [`not on ${named.join(', ')}`] : []),
  ]
}
