import { listDirectory, type Person, readPeople, searchPeople } from '@marmot/contract/people'
import { keepPreviousData, queryOptions, useQueries, useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'

const peopleKey = (...asked: readonly string[]) => ['people', ...asked]

/** People, and teams with who is in them, by their ids. */
export const usePeople = (ids: readonly string[], teams: readonly string[] = []) => {
  const key = [...ids].sort().join(',')
  const ofTeams = [...teams].sort().join(',')
  return useQuery({
    queryKey: peopleKey('of', key, ofTeams),
    queryFn: () => call(readPeople, { body: { ids: [...ids], teams: [...teams] } }),
    enabled: key !== '' || ofTeams !== '',
    placeholderData: keepPreviousData,
    staleTime: 300_000,
  })
}

/** Everybody of the directory, by name: nothing of their time. */
export const directoryQuery = queryOptions({
  queryKey: peopleKey('directory'),
  queryFn: () => call(listDirectory),
  staleTime: 300_000,
})

/** People and teams whose names begin with some letters, from so many letters on. */
export const usePeopleSearch = (letters: string, least = 1) =>
  useQuery({
    queryKey: peopleKey('search', letters),
    queryFn: ({ signal }) => call(searchPeople, { query: { q: letters }, signal }),
    enabled: letters.length >= least,
    staleTime: 60_000,
    placeholderData: (before) => before,
  })

/** A name of a list that was typed or pasted, and whom it may mean. */
export interface NamedOne {
  readonly text: string
  readonly people: readonly Person[]
}

/** More names than this are no list that one types. */
const MOST_NAMED = 60

/** The names of a list, by commas, semicolons or lines; nothing of a single name. */
export const namesIn = (text: string): string[] => {
  const names = text
    .split(/[,;\n]/)
    .map((name) => name.trim())
    .filter(Boolean)
  return names.length > 1 ? [...new Set(names)].slice(0, MOST_NAMED) : []
}

/** Whom each name of a list means, once all of them have been looked for; null until then. */
export const useNamed = (names: readonly string[]): readonly NamedOne[] | null => {
  const found = useQueries({
    queries: names.map((name) => ({
      // An address in a list comes with the name before it.
      queryKey: peopleKey('search', name),
      queryFn: ({ signal }: { signal: AbortSignal }) => call(searchPeople, { query: { q: name }, signal }),
      staleTime: 60_000,
    })),
  })
  if (names.length === 0 || found.some((one) => one.isPending)) return null
  return names.map((text, i) => {
    const people = found[i]?.data?.people ?? []
    const exact = people.filter((person) => person.name.toLowerCase() === text.toLowerCase())
    return { text, people: exact.length === 1 ? exact : people }
  })
}

/** "Ilse" of "Ilse Brandacher". */
export const firstName = (person: Pick<Person, 'name'>): string => person.name.split(' ')[0] ?? person.name
