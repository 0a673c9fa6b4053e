import type { Instant } from '../time/index.ts'

/** What somebody who takes turns has had lately. */
export interface Had {
  readonly visits: number
  /** When the last of them was given, in milliseconds; null for none. */
  readonly last: Instant | null
}

/**
 * Whose turn it is among those who are free: who had least lately, then whose last is longest ago, then in the order given. Null
 * where nobody is.
 */
export const nextInTurn = (free: readonly string[], had: ReadonlyMap<string, Had>): string | null => {
  const hadBy = (id: string): Had => had.get(id) ?? { visits: 0, last: null }
  return free.reduce<string | null>((best, id) => {
    if (best === null) return id
    const [mine, theirs] = [hadBy(id), hadBy(best)]
    const less = mine.visits - theirs.visits || (mine.last ?? 0) - (theirs.last ?? 0)
    return less < 0 ? id : best
  }, null)
}
