/** A row of bits, one for each start of a grid, 32 to a word; bits past the end of the grid are 0. */
export type Bits = Uint32Array

/** An empty row for `count` starts. */
export const bitsFor = (count: number): Bits => new Uint32Array((count + 31) >>> 5)

/** A row with the first `count` bits set. */
export const allBits = (count: number): Bits => {
  const bits = bitsFor(count)
  setRange(bits, 0, count)
  return bits
}

/** Sets the bits from `low` up to but not with `high`. Both must lie inside the row, `low` not after `high`. */
export const setRange = (bits: Bits, low: number, high: number): void => {
  if (high <= low) return
  const first = low >>> 5
  const last = (high - 1) >>> 5
  const head = -1 << (low & 31)
  const tail = -1 >>> (31 - ((high - 1) & 31))
  if (first === last) {
    bits[first] = (bits[first] ?? 0) | (head & tail)
    return
  }
  bits[first] = (bits[first] ?? 0) | head
  // Most ranges end in the next word, and calling `fill` for nothing costs more than marking.
  for (let w = first + 1; w < last; w++) bits[w] = 0xffffffff
  bits[last] = (bits[last] ?? 0) | tail
}

/** Turns a row of `count` starts into its opposite, in place, and gives it. */
export const turnBits = (bits: Bits, count: number): Bits => {
  for (let w = 0; w < bits.length; w++) bits[w] = ~(bits[w] ?? 0)
  if (count & 31) bits[bits.length - 1] = (bits[bits.length - 1] ?? 0) & (-1 >>> (32 - (count & 31)))
  return bits
}

/** Whether bit `i` is set. */
export const bitAt = (bits: Bits, i: number): boolean => (((bits[i >>> 5] ?? 0) >>> (i & 31)) & 1) === 1

/** `into |= other`. */
export const addBits = (into: Bits, other: Bits): void => {
  for (let w = 0; w < into.length; w++) into[w] = (into[w] ?? 0) | (other[w] ?? 0)
}

/** `into = a | b`. */
export const joinBits = (into: Bits, a: Bits, b: Bits): void => {
  for (let w = 0; w < into.length; w++) into[w] = (a[w] ?? 0) | (b[w] ?? 0)
}

/** `into &= ~other`. */
export const clearBits = (into: Bits, other: Bits): void => {
  for (let w = 0; w < into.length; w++) into[w] = (into[w] ?? 0) & ~(other[w] ?? 0)
}

/** `into &= other`. */
export const keepBits = (into: Bits, other: Bits): void => {
  for (let w = 0; w < into.length; w++) into[w] = (into[w] ?? 0) & (other[w] ?? 0)
}

/** How many bits of a word are set (the sum over ever wider fields). */
export const onesIn = (word: number): number => {
  const pairs = word - ((word >>> 1) & 0x55555555)
  const fours = (pairs & 0x33333333) + ((pairs >>> 2) & 0x33333333)
  return Math.imul((fours + (fours >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24
}

/** How many bits are set in `[low, high)`. */
export const countBits = (bits: Bits, low = 0, high = bits.length * 32): number => {
  let sum = 0
  for (let w = low >>> 5; w < bits.length && w * 32 < high; w++) {
    let word = bits[w] ?? 0
    if (word === 0) continue
    if (w * 32 < low) word &= -1 << (low & 31)
    if (w * 32 + 32 > high) word &= -1 >>> (32 - (high & 31))
    sum += onesIn(word)
  }
  return sum
}

/** The first set bit at or after `i`, or -1. */
export const nextBit = (bits: Bits, i: number): number => {
  let w = i >>> 5
  let word = (bits[w] ?? 0) & (-1 << (i & 31))
  while (word === 0) {
    if (++w >= bits.length) return -1
    word = bits[w] ?? 0
  }
  return w * 32 + (31 - Math.clz32(word & -word))
}

/** How many rows have each bit set: plane `k` holds bit `k` of the counts. */
export interface Counter {
  readonly planes: readonly Bits[]
}

/**
 * Counts how many of the rows have each bit set, in the words in which `among` has any; elsewhere the counts are 0. A row
 * is added to 32 counts at once, by carrying, and all rows are added to one word before the next, so that what is
 * counted stays in the processor.
 */
export const countRows = (rows: readonly Bits[], among: Bits): Counter => {
  const digits = new Uint32Array(32 - Math.clz32(rows.length))
  const planes = Array.from(digits, () => new Uint32Array(among.length))
  for (let w = 0; w < among.length; w++) {
    if (among[w] === 0) continue
    digits.fill(0)
    for (let r = 0; r < rows.length; r++) {
      let carry = rows[r]?.[w] ?? 0
      for (let k = 0; carry !== 0; k++) {
        const before = digits[k] ?? 0
        digits[k] = before ^ carry
        carry &= before
      }
    }
    for (let k = 0; k < digits.length; k++) {
      const plane = planes[k]
      if (plane) plane[w] = digits[k] ?? 0
    }
  }
  return { planes }
}

/** How many rows had bit `i` set. */
export const countAt = (counter: Counter, i: number): number => {
  const { planes } = counter
  let sum = 0
  for (let k = 0; k < planes.length; k++) sum += (((planes[k]?.[i >>> 5] ?? 0) >>> (i & 31)) & 1) << k
  return sum
}

/** The bits that at least `least` of the rows had set: the planes compared with the number, 32 counts at once. */
export const atLeast = ({ planes }: Counter, least: number, size: number): Bits => {
  const found = new Uint32Array(size)
  if (least <= 0) return found.fill(-1)
  if (least >= 2 ** planes.length) return found
  for (let w = 0; w < size; w++) {
    let more = 0
    let same = -1
    for (let k = planes.length - 1; k >= 0; k--) {
      const plane = planes[k]?.[w] ?? 0
      if ((least >>> k) & 1) same &= plane
      else {
        more |= same & plane
        same &= ~plane
      }
    }
    found[w] = more | same
  }
  return found
}
