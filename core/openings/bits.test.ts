import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import {
  allBits,
  bitAt,
  bitsFor,
  countAt,
  countBits,
  countRows,
  joinBits,
  nextBit,
  setRange,
  turnBits,
} from './bits.ts'

const SIZE = 200
const ranges = fc.array(
  fc
    .tuple(fc.integer({ min: 0, max: SIZE }), fc.integer({ min: 0, max: SIZE }))
    .map(([a, b]): [number, number] => [Math.min(a, b), Math.max(a, b)]),
  { maxLength: 5 },
)
const rowOf = (parts: readonly (readonly [number, number])[]) => {
  const bits = bitsFor(SIZE)
  for (const [low, high] of parts) setRange(bits, low, high)
  return bits
}
const isIn = (parts: readonly (readonly [number, number])[], i: number) =>
  parts.some(([low, high]) => i >= low && i < high)
const everyBit = Array.from({ length: SIZE }, (_, i) => i)

describe('rows of bits', () => {
  it('turn into their opposite, with nothing past their end', () => {
    fc.assert(
      fc.property(ranges, fc.integer({ min: 1, max: SIZE }), (parts, count) => {
        const inside = parts.map(([low, high]) => [Math.min(low, count), Math.min(high, count)] as const)
        const bits = bitsFor(count)
        for (const [low, high] of inside) setRange(bits, low, high)
        const turned = turnBits(bits.slice(), count)
        expect(countBits(turned)).toBe(count - countBits(bits))
        for (const i of everyBit.slice(0, count)) expect(bitAt(turned, i)).toBe(!isIn(inside, i))
      }),
    )
  })

  it('hold the ranges that were set, across words, and nothing else', () => {
    fc.assert(
      fc.property(ranges, (parts) => {
        const bits = rowOf(parts)
        for (const i of everyBit) expect(bitAt(bits, i)).toBe(isIn(parts, i))
        expect(countBits(bits)).toBe(everyBit.filter((i) => isIn(parts, i)).length)
      }),
    )
  })

  it('are counted and walked within bounds as one would by hand', () => {
    fc.assert(
      fc.property(ranges, fc.nat(SIZE), fc.nat(SIZE), (parts, low, high) => {
        const bits = rowOf(parts)
        expect(countBits(bits, low, high)).toBe(
          everyBit.filter((i) => i >= low && i < high && isIn(parts, i)).length,
        )
        expect(nextBit(bits, low)).toBe(everyBit.find((i) => i >= low && isIn(parts, i)) ?? -1)
      }),
    )
  })

  it('join to what is in either', () => {
    fc.assert(
      fc.property(ranges, ranges, (a, b) => {
        const both = bitsFor(SIZE)
        joinBits(both, rowOf(a), rowOf(b))
        for (const i of everyBit) expect(bitAt(both, i)).toBe(isIn(a, i) || isIn(b, i))
      }),
    )
  })

  it('are counted over many rows, where it is asked for', () => {
    fc.assert(
      fc.property(fc.array(ranges, { maxLength: 40 }), ranges, (rows, among) => {
        const asked = rowOf(among)
        const counter = countRows(rows.map(rowOf), asked)
        for (const i of everyBit)
          if (bitAt(asked, i)) expect(countAt(counter, i)).toBe(rows.filter((parts) => isIn(parts, i)).length)
      }),
      { numRuns: runs(40) },
    )
  })

  it('count as many as a brief can hold', () => {
    const one = rowOf([[7, 8]])
    const counter = countRows(
      Array.from({ length: 500 }, () => one),
      allBits(SIZE),
    )
    expect([countAt(counter, 6), countAt(counter, 7)]).toEqual([0, 500])
  })
})
