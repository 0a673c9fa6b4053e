import { ProblemError } from './problems.ts'

const LONGEST_MS = 2 * 366 * 86_400_000

/** A range from a query, in milliseconds: not empty, at most two years. */
export const readRange = (query: { from: string; to: string }): { from: number; to: number } => {
  const from = Date.parse(query.from)
  const to = Date.parse(query.to)
  if (!(to > from)) throw new ProblemError(422, 'empty-range', 'The range ends before it starts.')
  if (to - from > LONGEST_MS)
    throw new ProblemError(422, 'range-too-long', 'A range can be two years at most.')
  return { from, to }
}

/** Ids written with commas between them; anything that is no id is a problem. */
export const readIds = (text: string): string[] => {
  const ids = text.split(',').filter(Boolean)
  const wrong = ids.find((id) => !/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(id))
  if (wrong !== undefined) throw new ProblemError(422, 'bad-id', `"${wrong.slice(0, 60)}" is not an id.`)
  return ids
}
