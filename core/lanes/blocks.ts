import { type BusySpan, STATE_WORDS } from '../availability/index.ts'

/** What stands on a block: its title as far as it may be known, else its state in a word. */
export const blockWords = (span: BusySpan): string => {
  if (span.state === 'away') return span.title ? `away · ${span.title}` : 'away'
  if (span.title) return span.title
  // What takes no time says so by being a bar along the edge.
  return span.state === 'listed' ? '' : STATE_WORDS[span.state]
}

const fills = (span: BusySpan): boolean => span.state === 'busy' || span.state === 'away'

/** Where two blocks that fill the lane lie over one another: nobody can be at both. */
export const clashesIn = (blocks: readonly BusySpan[]): { start: number; end: number; words: string }[] => {
  const full = blocks.filter(fills)
  return full.flatMap((one, i) =>
    full.slice(i + 1).flatMap((other) => {
      const start = Math.max(one.start, other.start)
      const end = Math.min(one.end, other.end)
      return end > start
        ? [{ start, end, words: `${blockWords(one)} and ${blockWords(other)} at the same time` }]
        : []
    }),
  )
}

/**
 * Where the words of a block, the nth of those on its lane in the order in which they are drawn, can be read: not under the blocks
 * that are drawn over it. What is only listed has its words beneath it, where any other block, and the words of one that is listed
 * before it, would lie across them.
 */
export const readablePart = (blocks: readonly BusySpan[], n: number): { start: number; end: number } => {
  const span = blocks[n]
  if (!span) return { start: 0, end: 0 }
  const over = blocks.slice(n + 1)
  const covering =
    span.state === 'listed'
      ? blocks.filter((other, i) => other.state !== 'listed' || i < n)
      : fills(span)
        ? over.filter(fills)
        : over.filter((other) => other.state !== 'listed')
  const start = covering.reduce(
    (from, other) => (other.start <= from && other.end > from ? other.end : from),
    span.start,
  )
  return {
    start,
    end: covering.reduce(
      (end, other) => (other.start > start && other.start < end ? other.start : end),
      span.end,
    ),
  }
}

/** In the order they are drawn: earlier first, and of those that begin together the shorter on top. */
export const inDrawingOrder = (a: BusySpan, b: BusySpan): number => a.start - b.start || b.end - a.end

/**
 * Until when, at most `last`, a lane is free after the nth block, in drawing order: where its words can stand when it is too narrow
 * for them.
 */
export const freeUntil = (blocks: readonly BusySpan[], n: number, last: number): number => {
  const end = blocks[n]?.end ?? last
  return blocks.reduce((until, other, i) => {
    if (i === n || other.end <= end) return until
    if (other.state !== 'listed') return Math.min(until, Math.max(end, other.start))
    // What is only listed, too, has its words: where it can be read.
    const { start } = readablePart(blocks, i)
    return start < end ? until : Math.min(until, start)
  }, last)
}

const LETTER_PX = 6.9
const PADDING_PX = 14
/** This much of long words is enough to know them by. */
const KNOWN_PX = 70
/** On a tall lane words can take several lines, so a narrow block is enough. */
const WRAPPED_PX = 34

/**
 * Where a block's words stand: inside it where they fit or enough of them would be seen, else on the free time to its right, else
 * nowhere; a screen reader and the pointer get them all the same. Widths in pixels.
 */
export const wordsAt = (given: {
  readonly words: string
  readonly note: string
  readonly inside: number
  readonly beside: number
  readonly listed: boolean
  readonly roomy: boolean
}): 'inside' | 'beside' | null => {
  const { words, note, inside, beside, listed, roomy } = given
  const whole = (words.length + note.length) * LETTER_PX + PADDING_PX
  if (listed) return roomy && inside >= Math.min(whole, WRAPPED_PX) ? 'inside' : null
  if (inside >= Math.min(whole, KNOWN_PX)) return 'inside'
  if (beside >= Math.min(whole, KNOWN_PX)) return 'beside'
  return roomy && inside >= WRAPPED_PX ? 'inside' : null
}
