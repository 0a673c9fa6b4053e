import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { BusySpan } from '../availability/index.ts'
import { MINUTE } from '../time/index.ts'
import { edgesOf, firstStart } from './edges.ts'

/** Spans of seconds, so that some begin and end within a minute. */
const span = fc
  .record({
    start: fc.integer({ min: 0, max: 60_000 }).map((seconds) => seconds * 1000),
    length: fc.integer({ min: 1, max: 18_000 }).map((seconds) => seconds * 1000),
    state: fc.constantFrom('busy', 'tentative', 'held', 'away', 'listed') as fc.Arbitrary<BusySpan['state']>,
  })
  .map(({ start, length, state }): BusySpan => ({ start, end: start + length, state }))

describe('edges', () => {
  it('are the spans that take time, in order, with what is soft among them', () => {
    fc.assert(
      fc.property(fc.array(span), (spans) => {
        const { starts, ends, soft, longest } = edgesOf(spans)
        const taking = spans.filter((each) => each.state !== 'listed').sort((a, b) => a.start - b.start)
        expect([...starts]).toEqual(taking.map((each) => Math.floor(each.start / MINUTE)))
        expect([...ends]).toEqual(taking.map((each) => Math.ceil(each.end / MINUTE)))
        expect([...soft].map(Boolean)).toEqual(
          taking.map((each) => each.state === 'tentative' || each.state === 'held'),
        )
        expect(longest).toBe(Math.max(0, ...taking.map((_, i) => (ends[i] ?? 0) - (starts[i] ?? 0))))
      }),
    )
  })

  it('of what lasts for ever reach as far as there are minutes, and never wrap round to the past', () => {
    const forEver: BusySpan = { start: Date.UTC(2026, 10, 23), end: Date.UTC(9999, 11, 31), state: 'busy' }
    const always: BusySpan = { start: -8.64e15, end: 8.64e15, state: 'away' }
    const { starts, ends } = edgesOf([forEver, always])
    expect([...starts]).toEqual([-(2 ** 31), Date.UTC(2026, 10, 23) / MINUTE])
    expect([...ends]).toEqual([2 ** 31 - 1, 2 ** 31 - 1])
  })

  it('are made once for a lane, and leave its spans as they were', () => {
    const spans: BusySpan[] = [
      { start: 5 * MINUTE, end: 6 * MINUTE, state: 'busy' },
      { start: MINUTE, end: 2 * MINUTE, state: 'busy' },
    ]
    expect(edgesOf(spans)).toBe(edgesOf(spans))
    expect(spans.map((each) => each.start)).toEqual([5 * MINUTE, MINUTE])
  })

  it('are found by bisection where going through them finds them', () => {
    fc.assert(
      fc.property(fc.array(span), fc.integer({ min: -10, max: 1400 }), (spans, at) => {
        const edges = edgesOf(spans)
        const plain = [...edges.starts].findIndex((start) => start >= at)
        expect(firstStart(edges, at)).toBe(plain < 0 ? edges.starts.length : plain)
      }),
    )
  })
})
