/** Longest of what is said at once. In characters. */
export const MOST_WORDS = 4000

const isLetter = (sign: string | undefined): boolean => sign !== undefined && /[\p{L}\p{N}]/u.test(sign)

/** A stretch of what was said: words, or the name of somebody who is meant by it. */
export interface Said {
  /** Where it begins. */
  readonly at: number
  readonly words: string
  readonly meant: boolean
}

/**
 * What was said, cut where somebody is meant: an "@" before a whole name out of `names`, in whatever case. The longest
 * name counts, so that "@Ann Lee" is not Ann.
 */
export const meantIn = (text: string, names: readonly string[]): readonly Said[] => {
  const longest = [...names].filter(Boolean).sort((a, b) => b.length - a.length)
  const said: Said[] = []
  let begin = 0
  for (let at = text.indexOf('@'); at >= 0; at = text.indexOf('@', at + 1)) {
    if (isLetter(text[at - 1])) continue
    const rest = text.slice(at + 1, at + 1 + (longest[0]?.length ?? 0)).toLowerCase()
    const name = longest.find(
      (one) => rest.startsWith(one.toLowerCase()) && !isLetter(text[at + 1 + one.length]),
    )
    if (!name) continue
    if (at > begin) said.push({ at: begin, words: text.slice(begin, at), meant: false })
    begin = at + 1 + name.length
    said.push({ at, words: text.slice(at, begin), meant: true })
  }
  if (begin < text.length) said.push({ at: begin, words: text.slice(begin), meant: false })
  return said
}

/** Those who are meant in what was said, by their names as they are called. */
export const namesMeant = (text: string, names: readonly string[]): string[] => {
  const meant = new Set(
    meantIn(text, names).flatMap((one) => (one.meant ? one.words.slice(1).toLowerCase() : [])),
  )
  return names.filter((name) => meant.has(name.toLowerCase()))
}

/** The name that is being typed after an "@" just before the caret, and where it begins; null where none is. */
export const beingMeant = (
  text: string,
  caret: number,
): { readonly from: number; readonly typed: string } | null => {
  const found = /(^|[^\p{L}\p{N}])@([^@\n]{0,40})$/u.exec(text.slice(0, caret))
  return found ? { from: caret - (found[2] ?? '').length - 1, typed: found[2] ?? '' } : null
}
