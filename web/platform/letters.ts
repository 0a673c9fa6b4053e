/** Letters beyond those of English and its neighbours, which are in the part of the typeface that is always here. */
const RARE = /[^ -\u00ff]/g

/** The family that everything is set in, as the style sheet names it. */
const family = (): string => getComputedStyle(document.body).fontFamily

/**
 * Fetches the parts of the typeface that these words need. It comes in parts by alphabet, and each is fetched when a letter of it is
 * first drawn; the whole page is laid out anew then, in the middle of scrolling through a list of names for instance.
 */
export const fetchLetters = (words: Iterable<string>): void => {
  const letters = new Set<string>()
  for (const one of words) for (const letter of one.match(RARE) ?? []) letters.add(letter)
  if (letters.size > 0)
    void document.fonts?.load(`1em ${family()}`, [...letters].join('')).catch(() => undefined)
}
