/** More words than this are not looked for: whoever knows as many has found it by the first. */
const MOST_WORDS = 6
const MOST_LETTERS = 40

/**
 * The words that somebody typed, as they are looked for: each is the beginning of a word of what is found. Signs between
 * them do not count, and the same word twice is one.
 */
export const wordsIn = (text: string): string[] =>
  [
    ...new Set(
      (text.toLowerCase().match(/[\p{L}\p{N}\p{M}]+/gu) ?? []).map((one) => one.slice(0, MOST_LETTERS)),
    ),
  ].slice(0, MOST_WORDS)

/** All words of a text as they are compared where a page looks through its own rows: small, and without their accents. */
export const plainWords = (text: string): string[] =>
  // Most text has nothing that would have to be made plain: looking for accents took three quarters of all time.
  (PLAIN.test(text)
    ? text.toLowerCase().match(/[a-z0-9]+/g)
    : text
        .normalize('NFD')
        .replace(/\p{M}/gu, '')
        .toLowerCase()
        .match(/[\p{L}\p{N}]+/gu)) ?? []

const PLAIN = /^[ -~\s]*$/

/** When something is that was found; null where it has no date any more. In milliseconds. */
interface Dated {
  readonly start: number
  readonly end: number
}

/** The order in which what was found is shown: what is still to come first, soonest first, then what was, latest first. */
export const bySoonest =
  (now: number) =>
  (one: Dated, other: Dated): number => {
    const [ahead, otherAhead] = [one.end > now, other.end > now]
    if (ahead !== otherAhead) return ahead ? -1 : 1
    return ahead ? one.start - other.start : other.start - one.start
  }
