import { type Series, seriesTrouble } from '@marmot/core/recurrence'
import { zoneTable } from '@marmot/core/time'
import { ProblemError } from '../platform/problems.ts'

/** Refuses a repetition that nobody can have meant; `path` is the field that says it. */
export const checkSeries = (series: Series, zone: string, path = 'repetition.rule'): void => {
  let trouble: string | null
  try {
    trouble = seriesTrouble(series, zoneTable(zone))
  } catch {
    trouble = 'This repetition cannot be read.'
  }
  if (trouble) throw new ProblemError(422, 'bad-rule', trouble, { fields: [{ path, message: trouble }] })
}
