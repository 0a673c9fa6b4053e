import { MOST_NOTE } from '@marmot/core/entries'
import { type Series, seriesTrouble } from '@marmot/core/recurrence'
import { zoneTable } from '@marmot/core/time'
import { cleanNote } from '../platform/clean.ts'
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

/** Formatted text, cleaned. Cleaning makes links longer, and what is kept must be what can be sent again. */
export const noteOrProblem = (html: string): string => {
  const note = cleanNote(html)
  if (note.length > MOST_NOTE)
    throw new ProblemError(422, 'note-too-long', 'The description is too long. Nothing was changed.', {
      fields: [{ path: 'note', message: 'is too long' }],
    })
  return note
}
