import { type BusySpan, type Span, STATE_WORDS } from '../availability/index.ts'

/** What stands on a block: its title as far as it may be known, else its state in a word. */
export const blockWords = (span: BusySpan): string => {
  if (span.state === 'away') return span.title ? `away · ${span.title}` : 'away'
  if (span.title) return span.title
  // What takes no time says so by being a bar along the edge.
  return span.state === 'listed' ? '' : STATE_WORDS[span.state]
}

const fills = (span: BusySpan): boolean => span.state === 'busy' || span.state === 'away'

/** How much of the lane's height a block takes: 0 all of it, 1 its lower half, 2 only its edge. */
const rankOf = (span: BusySpan): 0 | 1 | 2 => (fills(span) ? 0 : span.state === 'listed' ? 2 : 1)

const touch = (one: Span, other: Span): boolean => one.start < other.end && one.end > other.start

/** Where two blocks that fill the lane lie over one another: nobody can be at both. Whoever is away twice is away. */
export const clashesIn = (blocks: readonly BusySpan[]): { start: number; end: number; words: string }[] => {
  const full = blocks.filter(fills)
  return full.flatMap((one, i) =>
    full.slice(i + 1).flatMap((other) => {
      if (one.state === 'away' && other.state === 'away') return []
      const start = Math.max(one.start, other.start)
      const end = Math.min(one.end, other.end)
      return end > start
        ? [{ start, end, words: `${blockWords(one)} and ${blockWords(other)} at the same time` }]
        : []
    }),
  )
}

/** Which part of its height a block has, where several stand at the same time: the part `at`, from 0, of so many. */
export interface Share {
  readonly at: number
  readonly of: number
}

/** All of the height. */
export const ALONE: Share = { at: 0, of: 1 }

/** More than these in the same hour lie over one another: their parts would be too low to be pressed. */
const MOST_SHARES = 4

/** The longest time of a span on which none of the others lies. */
const longestBare = (span: Span, others: readonly Span[]): number => {
  const ends = others.map((other) => other.end).filter((end) => end > span.start && end < span.end)
  return [span.start, ...ends]
    .filter((from) => !others.some((other) => other.start <= from && other.end > from))
    .reduce((longest, from) => {
      const until = others.reduce(
        (until, other) => (other.start >= from ? Math.min(until, other.start) : until),
        span.end,
      )
      return Math.max(longest, until - from)
    }, 0)
}

/**
 * How the blocks of a lane, in the order in which they are drawn, share its height. One that would lie under others, but for less
 * than `least` milliseconds, could be neither seen nor pressed: those that stand within its time leave a part of the height to it.
 * Nothing of the lane is open there all the same, which is what its height says.
 */
export const sharesOf = (blocks: readonly BusySpan[], least: number): Share[] => {
  const at = blocks.map(() => 0)
  const group = blocks.map((_, i) => i)
  blocks.forEach((span, i) => {
    const over = blocks.flatMap((other, j) =>
      j > i && rankOf(other) === rankOf(span) && touch(other, span) ? [{ other, j }] : [],
    )
    if (over.length === 0) return
    const enough = (one: Span) => Math.min(least, (one.end - one.start) / 2)
    const bare = longestBare(
      span,
      over.map(({ other }) => other),
    )
    if (bare >= enough(span)) return
    for (const { other, j } of over) {
      const slack = enough(other)
      if (span.start - other.start >= slack || other.end - span.end >= slack) continue
      at[j] = Math.min(MOST_SHARES - 1, Math.max(at[j] ?? 0, (at[i] ?? 0) + 1))
      const [from, to] = [group[j], group[i]]
      for (const [k, each] of group.entries()) if (each === from) group[k] = to ?? each
    }
  })
  const most = new Map<number, number>()
  group.forEach((each, i) => {
    most.set(each, Math.max(most.get(each) ?? 0, at[i] ?? 0))
  })
  return blocks.map((_, i) => {
    const of = (most.get(group[i] ?? i) ?? 0) + 1
    return of === 1 ? ALONE : { at: at[i] ?? 0, of }
  })
}

/**
 * Whether a block that fills the lane, or one with which it shares the height, has its lower half under another: what can be seen of
 * it, its words too, has the upper half.
 */
export const isHalved = (blocks: readonly BusySpan[], shares: readonly Share[], n: number): boolean => {
  const span = blocks[n]
  if (!span || !fills(span)) return false
  const halves = blocks.filter((other) => rankOf(other) === 1)
  const together = shares[n] === ALONE ? [] : blocks.filter((other, i) => fills(other) && shares[i] !== ALONE)
  return [span, ...together.filter((other) => touch(other, span))].some((one) =>
    halves.some((half) => touch(half, one)),
  )
}

/**
 * Where the words of a block, the nth of those on its lane in the order in which they are drawn, can be read: not under the blocks
 * that are drawn over it, but for those that leave it a part of the height (`shares`). On a `low` lane the lower half, too, lies
 * across words. What is only listed has its words beneath it, where any other block, and the words of one that is listed before it,
 * would lie across them.
 */
export const readablePart = (
  blocks: readonly BusySpan[],
  n: number,
  shares: readonly Share[] = [],
  low = false,
): { start: number; end: number } => {
  const span = blocks[n]
  if (!span) return { start: 0, end: 0 }
  const leaves = (i: number) => (shares[i]?.at ?? 0) > (shares[n]?.at ?? 0)
  const covering = blocks
    .filter((other, i) => {
      if (span.state === 'listed') return other.state !== 'listed' || i < n
      return i > n && rankOf(other) <= (low ? 1 : rankOf(span)) && !leaves(i)
    })
    .sort((a, b) => a.start - b.start)
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

/**
 * In the order they are drawn: what takes all of the lane, then its half, then its edge, and the shorter over the longer, so that
 * none is hidden by what takes more room.
 */
export const inDrawingOrder = (a: BusySpan, b: BusySpan): number =>
  rankOf(a) - rankOf(b) || b.end - b.start - (a.end - a.start) || a.start - b.start

/**
 * Until when, at most `last`, a lane is free after the nth block, in drawing order: where its words can stand when it is too narrow
 * for them. `shares` as by `sharesOf`, on a lane where each part is high enough for words.
 */
export const freeUntil = (
  blocks: readonly BusySpan[],
  n: number,
  last: number,
  shares: readonly Share[] = [],
): number => {
  const end = blocks[n]?.end ?? last
  return blocks.reduce((until, other, i) => {
    // Of two that end together the words of one can stand there, unless each has its part of the height.
    if (i > n && other.end === end && other.state !== 'listed' && shares[i]?.at === shares[n]?.at) return end
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
