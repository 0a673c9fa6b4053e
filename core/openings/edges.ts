import type { BusySpan } from '../availability/index.ts'
import { MINUTE } from '../time/index.ts'

/**
 * Busy spans as typed arrays of whole minutes since 1970, sorted by their start: what the search goes through for each
 * person. Objects with two boxed numbers each would cost four times as much to read, and milliseconds, which do not fit
 * 32 bits, half as much again. What is only listed takes no time and is left out.
 */
export interface Edges {
  /** The minute that a span begins in. */
  readonly starts: Int32Array
  /** The first whole minute at or after a span's end. */
  readonly ends: Int32Array
  /** 1 where the time is only tentative or held. */
  readonly soft: Uint8Array
  /** 1 where it is only kept free beside a meeting: what must stay free before and after another may lie over it. */
  readonly gap: Uint8Array
  /** The longest span, in minutes: nothing that starts earlier than this before a window reaches into it. */
  readonly longest: number
}

/** Thirty-two bits of minutes reach from 2114 BC to the year 6053: what lies beyond, as "for ever" does, ends there. */
const FIRST_MINUTE = -(2 ** 31)
const LAST_MINUTE = 2 ** 31 - 1
const within = (minute: number): number => Math.max(FIRST_MINUTE, Math.min(LAST_MINUTE, minute))

const made = new WeakMap<readonly BusySpan[], Edges>()

/** The edges of a lane's spans; made once for each lane, as long as it is in memory. */
export const edgesOf = (spans: readonly BusySpan[]): Edges => {
  const known = made.get(spans)
  if (known) return known
  const taking = spans.filter((span) => span.state !== 'listed').sort((a, b) => a.start - b.start)
  const starts = Int32Array.from(taking, (span) => within(Math.floor(span.start / MINUTE)))
  const ends = Int32Array.from(taking, (span) => within(Math.ceil(span.end / MINUTE)))
  const edges = {
    starts,
    ends,
    soft: Uint8Array.from(taking, (span) => (span.state === 'tentative' || span.state === 'held' ? 1 : 0)),
    gap: Uint8Array.from(taking, (span) => (span.gap ? 1 : 0)),
    longest: starts.reduce((most, start, i) => Math.max(most, (ends[i] ?? 0) - start), 0),
  }
  made.set(spans, edges)
  return edges
}

/** The index of the first span that starts at or after a minute. */
export const firstStart = ({ starts }: Edges, minute: number): number => {
  let low = 0
  let high = starts.length
  while (low < high) {
    const middle = (low + high) >> 1
    if ((starts[middle] ?? 0) >= minute) high = middle
    else low = middle + 1
  }
  return low
}
