import type { Run } from '@marmot/contract/runs'
import type { Span } from '@marmot/core/availability'
import { BadRule, datesWithin } from '@marmot/core/recurrence'
import { DAY, toWall, wallText, zoneTable } from '@marmot/core/time'
import { ProblemError } from '../platform/problems.ts'
import { checkSeries } from './checks.ts'
import { horizonOf, seriesOf } from './dates.ts'
import { timeOrProblem } from './time.ts'

/** One date to make: its place in the series, when it is, and the places it takes. */
export interface DateToMake {
  readonly recurrence: string
  readonly starts: string
  readonly span: Span
  readonly placeIds: readonly string[]
}

/** A series of more dates than this takes too much in one act. */
const MOST_DATES = 400
/** So many dates, in so long a time, are looked at to see that there are too many, or that some lie too far away. */
const MOST_SEEN = 5000
const LIFETIME = 36_600 * DAY

/** When it is and how it repeats, as an entry keeps it. */
export const runTime = ({ starts, minutes, zone, allDay, series }: Run) => ({
  starts,
  minutes,
  zone,
  allDay,
  rule: series?.rule ?? null,
  added: series?.added ?? [],
  excepted: series?.excepted ?? [],
})

const tooLong = (message: string): ProblemError =>
  new ProblemError(422, 'series-too-long', message, {
    fields: [{ path: 'series.rule', message: 'has too many dates' }],
  })

/** The dates that a series has by its rule, each by its wall time. It has an end, since each date takes its places now. */
const wallsOf = (body: Run, now: number): string[] => {
  const series = seriesOf(runTime(body))
  const table = zoneTable(body.zone)
  checkSeries(series, body.zone, 'series.rule')
  const last = toWall(table, horizonOf(now).to) - DAY
  let dates: number[]
  try {
    dates = datesWithin(series, table, series.starts - DAY, series.starts + LIFETIME, MOST_SEEN)
  } catch (error) {
    if (error instanceof BadRule) throw tooLong('It has too many dates. Give it an end, or fewer dates.')
    throw error
  }
  if (dates.some((wall) => wall > last))
    throw tooLong('A series can run for a year and a half at most. Give it an end, or fewer dates.')
  if (dates.length > MOST_DATES)
    throw tooLong(`A series can have ${MOST_DATES} dates at most. Give it an end, or fewer dates.`)
  if (dates.length === 0)
    throw new ProblemError(422, 'no-dates', 'Every date of it is left out. Nothing was made.', {
      fields: [{ path: 'series.excepted', message: 'leaves out every date' }],
    })
  return dates.map(wallText)
}

/**
 * The dates of a meeting, one or a series with its repairs; none is over. Throws when a change is for no date of it.
 */
export const datesToMake = (body: Run, now: number): DateToMake[] => {
  const dateAt = (recurrence: string): DateToMake => {
    const change = body.series?.changes.find((each) => each.recurrence === recurrence)
    const starts = change?.starts ?? recurrence
    const span = timeOrProblem({ ...body, starts })
    return {
      recurrence,
      starts,
      span,
      placeIds: change?.places ?? body.places,
    }
  }
  const all = (dates: DateToMake[]): DateToMake[] => {
    if (dates.some((date) => date.span.end <= now))
      throw new ProblemError(422, 'in-the-past', 'That time is over. Choose one that is still to come.', {
        fields: [{ path: 'starts', message: 'is in the past' }],
      })
    return dates
  }
  if (!body.series) return all([dateAt(body.starts)])
  const walls = wallsOf(body, now)
  const stray = body.series.changes.findIndex((change) => !walls.includes(change.recurrence))
  if (stray >= 0)
    throw new ProblemError(
      422,
      'no-such-date',
      'One of the changed dates is no date of the series. Nothing was sent.',
      {
        fields: [{ path: `series.changes.${stray}.recurrence`, message: 'is no date of the series' }],
      },
    )
  const dates = walls.map(dateAt)
  return all(dates)
}
