/** A small seeded generator (mulberry32): the same seed gives the same numbers, so the same demo. */
export const seeded = (seed: number) => {
  let state = seed >>> 0
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
  /** A whole number from 0 up to, not with, `below`. */
  const below = (limit: number): number => Math.floor(next() * limit)
  const pick = <T>(list: readonly T[]): T => {
    const chosen = list[below(list.length)]
    if (chosen === undefined) throw new RangeError('nothing to pick from')
    return chosen
  }
  const chance = (share: number): boolean => next() < share
  const uuid = (): string => {
    const hex = Array.from({ length: 32 }, () => below(16).toString(16))
    hex[12] = '4'
    hex[16] = '89ab'[below(4)] ?? '8'
    const text = hex.join('')
    return [text.slice(0, 8), text.slice(8, 12), text.slice(12, 16), text.slice(16, 20), text.slice(20)].join(
      '-',
    )
  }
  return { next, below, pick, chance, uuid }
}

export type Random = ReturnType<typeof seeded>
