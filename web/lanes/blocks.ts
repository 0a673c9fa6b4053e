import type { BusySpan } from '@marmot/core/availability'

/** What stands on a block: its title as far as it may be known, else its state in a word. */
export const blockWords = (span: BusySpan): string => {
  if (span.state === 'away') return span.title ? `away · ${span.title}` : 'away'
  if (span.title) return span.title
  return span.state
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
