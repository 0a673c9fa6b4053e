import type { Person } from '@marmot/contract/people'
import { plainWords } from '@marmot/core/search'

/** Somebody as the directory lists them. */
export type Listed = Omit<Person, 'address'>

const made = new WeakMap<Listed, string>()

/** The words by which somebody is found, each after a space; made once, since with thousands of people a letter waited for it. */
const wordsOf = (one: Listed): string => {
  const known = made.get(one)
  if (known !== undefined) return known
  const words = ` ${plainWords(`${one.name} ${one.role}`).join(' ')}`
  made.set(one, words)
  return words
}

/** Those of a directory whose name or role has words that begin as those looked for, of a team and of a site where one is named. */
export const lookedFor = (
  everybody: readonly Listed[],
  { words, team, siteId }: { readonly words: string; readonly team: string; readonly siteId: string },
): Listed[] => {
  const looked = plainWords(words)
  return everybody.filter(
    (one) =>
      (!team || one.teams.includes(team)) &&
      (!siteId || one.siteId === siteId) &&
      (looked.length === 0 || looked.every((word) => wordsOf(one).includes(` ${word}`))),
  )
}
