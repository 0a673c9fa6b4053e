import { listDirectory, type Person, readPeople, searchPeople } from '@marmot/contract/people'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
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
export const useDirectory = () =>
  useQuery({ queryKey: peopleKey('directory'), queryFn: () => call(listDirectory), staleTime: 300_000 })

/** People and teams whose names begin with some letters, from so many letters on. */
export const usePeopleSearch = (letters: string, least = 1) =>
  useQuery({
    queryKey: peopleKey('search', letters),
    queryFn: ({ signal }) => call(searchPeople, { query: { q: letters }, signal }),
    enabled: letters.length >= least,
    staleTime: 60_000,
    placeholderData: (before) => before,
  })

/** "Ilse" of "Ilse Brandacher". */
export const firstName = (person: Pick<Person, 'name'>): string => person.name.split(' ')[0] ?? person.name
