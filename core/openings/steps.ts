import { type Day, dayOf, type Instant, instantOf, toWall, wallOf, zoneTable } from '../time/index.ts'
import { toEnd } from './breath.ts'
import { checkBrief, type SearchBrief } from './brief.ts'
import { type Help, helping } from './help.ts'
import { readingRows } from './rows.ts'
import { type Found, fitting, weighing } from './search.ts'
import { type WhyNot, whyNotIn } from './why-not.ts'

/** All that Marmot says to a brief. */
export interface Answer {
  readonly found: Found
  /** Why there is none, over the whole window; null when there is one. */
  readonly why: WhyNot | null
  /** Why there is none, for each day of the window without one, in the organizer's zone. */
  readonly days: readonly (WhyNot & { readonly day: Day })[]
  readonly help: readonly Help[]
}

/** What is known so far of a search, and how much of it is done (0 to 1). */
export interface Progress {
  readonly share: number
  readonly answer: Answer
}

/** Days without an opening are explained for windows up to this many days. */
const MOST_DAYS = 100
/** Finding is quick beside trying what would help; this much of the work is done when it is over. */
const FOUND = 0.2

/**
 * The whole search in steps, so that a caller can show what is found so far, and stop it between two steps (null: there is
 * nothing new to show): first the
 * openings with what stands in the way, then, when there is none, what would help. `organizerId` is never left out;
 * people's time is known up to `knownTo`. Throws `BadBrief` before the first step.
 */
export function* answering(
  brief: SearchBrief,
  organizerId: string,
  knownTo: Instant,
): Generator<Progress | null, Answer> {
  checkBrief(brief)
  const rows = yield* readingRows(brief)
  yield null
  const fit = yield* fitting(rows)
  const found = yield* weighing(fit)
  const none = found.starts === 0
  const why = none ? whyNotIn(fit, brief.from, brief.to) : null
  const days: (WhyNot & { readonly day: Day })[] = []
  for (const day of daysWithout(brief)) {
    const without = whyNotIn(fit, day.from, day.to)
    if (isWithout(without)) days.push({ ...without, day: day.day })
    yield null
  }
  const answer: Answer = { found, why, days, help: [] }
  if (!none) return answer
  yield { share: FOUND, answer }
  const steps = helping(brief, organizerId, knownTo)
  for (;;) {
    const { done, value } = steps.next()
    if (done) return { ...answer, help: value }
    yield value && { share: FOUND + (1 - FOUND) * value.share, answer: { ...answer, help: value.help } }
  }
}

const isWithout = (why: WhyNot): boolean =>
  why.people.length > 0 || why.places.length > 0 || why.rule !== null

const daysWithout = (brief: SearchBrief): { day: Day; from: Instant; to: Instant }[] => {
  const table = zoneTable(brief.zone)
  const first = dayOf(toWall(table, brief.from))
  const last = dayOf(toWall(table, brief.to - 1))
  if (last - first > MOST_DAYS) return []
  return Array.from({ length: last - first + 1 }, (_, i) => ({
    day: first + i,
    from: Math.max(brief.from, instantOf(table, wallOf(first + i))),
    to: Math.min(brief.to, instantOf(table, wallOf(first + i + 1))),
  }))
}

/** `answering` to its end, for a caller that waits. */
export const answerBrief = (brief: SearchBrief, organizerId: string, knownTo: Instant): Answer =>
  toEnd(answering(brief, organizerId, knownTo))
