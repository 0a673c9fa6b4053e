import { setImmediate } from 'node:timers/promises'
import type { Brief } from '@marmot/contract/briefs'
import { answering, BadBrief, type Progress } from '@marmot/core/openings'
import type { ThreadWork } from '../platform/threads.ts'
import { prepareSearch } from './search.ts'

/** Progress is told no oftener than this, in milliseconds. */
const TELL_EVERY = 100

/** What a line says; the contract's schema of it is checked where it is read. */
type Line = Progress | { readonly refused: { readonly code: string; readonly detail: string } }

export interface SearchInput {
  readonly askerId: string
  readonly brief: Brief
  readonly now: number
}

/**
 * A search from the database to the answer, as lines of JSON: it tells what is found so far, and gives the whole, with
 * share 1, or why there is none. Written out here, so that the thread that answers has only to pass them on.
 */
export const searchBrief: ThreadWork<SearchInput, string> = async (
  { askerId, brief, now },
  { pool, tell, stopped },
) => {
  const lineOf = (line: Line): string => `${JSON.stringify(line)}\n`
  try {
    const { search, knownTo } = await prepareSearch(pool, { id: askerId }, brief, now)
    const steps = answering(search, askerId, knownTo)
    let told = performance.now()
    while (!stopped()) {
      const { done, value } = steps.next()
      if (done) return lineOf({ share: 1, answer: value })
      if (value && performance.now() - told > TELL_EVERY) {
        tell(lineOf(value))
        told = performance.now()
      }
      // Between two steps it is heard that nobody waits any more.
      await setImmediate()
    }
  } catch (error) {
    if (!(error instanceof BadBrief)) throw error
    return lineOf({ refused: { code: error.code, detail: error.message } })
  }
  return ''
}
