import {
  BadBrief,
  type SearchBrief,
  type SeriesRule,
  type SeriesSlot,
  searchSeries,
  seriesAt,
} from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'

/** A series to be searched; `start` is the time that was chosen for its first date, if one was. */
export interface SeriesQuestion {
  readonly id: number
  readonly brief: SearchBrief
  readonly rule: SeriesRule
  readonly start: Instant | null
}

/** What comes back, once: weekdays and hours, best first, or why there are none. */
export interface SeriesTold {
  readonly id: number
  readonly slots: readonly SeriesSlot[]
  readonly refused: string | null
}

/** The answer to a question, as it is worked out beside the page. */
export const answerSeries = ({ id, brief, rule, start }: SeriesQuestion): SeriesTold => {
  try {
    const best = searchSeries(brief, rule)
    if (start === null) return { id, slots: best, refused: null }
    // Whoever chose a time means that one: it comes first, with its clashes, and the best are offered beside it.
    const own = seriesAt(brief, rule, start)
    return { id, slots: [own, ...best.filter((each) => each.first !== own.first)], refused: null }
  } catch (problem) {
    if (problem instanceof BadBrief) return { id, slots: [], refused: problem.message }
    throw problem
  }
}

addEventListener('message', ({ data }: MessageEvent<SeriesQuestion>) => postMessage(answerSeries(data)))
