import { readAvailability } from '@marmot/contract/availability'
import { searchPlaceOf } from '@marmot/contract/openings'
import { type Person, searchPeople } from '@marmot/contract/people'
import {
  listReservations,
  listResources,
  type ReservationOnWire,
  type Resource,
} from '@marmot/contract/resources'
import type { SearchPlace } from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { call } from '../app/api.ts'

const iso = (at: Instant) => new Date(at).toISOString()

/** People of the directory by their ids. */
export const usePeople = (ids: readonly string[]) => {
  const key = [...ids].sort().join(',')
  return useQuery({
    queryKey: ['people', key],
    queryFn: () => call(searchPeople, { query: { ids: key } }),
    enabled: key !== '',
    placeholderData: keepPreviousData,
    staleTime: 300_000,
  })
}

/** What the server lets me see of people's time in a range. */
export const useTime = (ids: readonly string[], from: Instant, to: Instant) => {
  const key = [...ids].sort().join(',')
  return useQuery({
    queryKey: ['time', key, from, to],
    queryFn: ({ signal }) =>
      call(readAvailability, { query: { people: key, from: iso(from), to: iso(to) }, signal }),
    enabled: key !== '',
    placeholderData: keepPreviousData,
  })
}

export interface PlaceLane extends SearchPlace {
  readonly resource: Resource
  readonly reservations: readonly ReservationOnWire[]
}

/** Every place with what is reserved of it in a range. */
export const usePlaces = (from: Instant, to: Instant, enabled = true, hold: string | null = null) => {
  const resources = useQuery({
    queryKey: ['resources'],
    queryFn: () => call(listResources),
    enabled,
    staleTime: 300_000,
  })
  const reservations = useQuery({
    queryKey: ['reservations', from, to],
    queryFn: ({ signal }) => call(listReservations, { query: { from: iso(from), to: iso(to) }, signal }),
    placeholderData: keepPreviousData,
    enabled,
  })
  const places = useMemo<PlaceLane[]>(() => {
    const byResource = new Map<string, ReservationOnWire[]>()
    for (const each of reservations.data?.reservations ?? []) {
      const list = byResource.get(each.resourceId)
      if (list) list.push(each)
      else byResource.set(each.resourceId, [each])
    }
    return (resources.data?.resources ?? []).map((resource) => {
      const taken = byResource.get(resource.id) ?? []
      return {
        ...searchPlaceOf(resource, taken, hold),
        resource,
        reservations: taken,
      }
    })
  }, [resources.data, reservations.data, hold])
  return {
    places,
    pending: resources.isPending || reservations.isPending,
    error: resources.error ?? reservations.error,
  }
}

/** A place without what only the screen needs: what the search is given, and the worker is sent. */
export const searchPlace = ({ resource: _, reservations: __, ...place }: PlaceLane): SearchPlace => place

/** "Ilse" of "Ilse Brandacher". */
export const firstName = (person: Pick<Person, 'name'>): string => person.name.split(' ')[0] ?? person.name
