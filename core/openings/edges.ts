import type { BusySpan } from '../availability/index.ts'
import type { Instant } from '../time/index.ts'

/**
 * Busy spans as typed arrays, sorted by their start: what the search goes through for each person. Objects with two
 * boxed numbers each would cost four times as much to read. What is only listed takes no time and is left out.
 */
export interface Edges {
  readonly starts: Float64Array
  readonly ends: Float64Array
  /** 1 where the time is only tentative or held. */
  readonly soft: Uint8Array
  /** The longest span, in milliseconds: nothing that starts earlier than this before a window reaches into it. */
  readonly longest: number
}

const made = new WeakMap<readonly BusySpan[], Edges>()

/** The edges of a lane's spans; made once for each lane, as long as it is in memory. */
export const edgesOf = (spans: readonly BusySpan[]): Edges => {
  const known = made.get(spans)
  if (known) return known
  const taking = spans.filter((span) => span.state !== 'listed').sort((a, b) => a.start - b.start)
  const edges = {
    starts: Float64Array.from(taking, (span) => span.start),
    ends: Float64Array.from(taking, (span) => span.end),
    soft: Uint8Array.from(taking, (span) => (span.state === 'tentative' || span.state === 'held' ? 1 : 0)),
    longest: taking.reduce((most, span) => Math.max(most, span.end - span.start), 0),
  }
  made.set(spans, edges)
  return edges
}

/** The index of the first start at or after an instant. */
export const firstStart = ({ starts }: Edges, at: Instant): number => {
  let low = 0
  let high = starts.length
  while (low < high) {
    const middle = (low + high) >> 1
    if ((starts[middle] ?? 0) >= at) high = middle
    else low = middle + 1
  }
  return low
}
