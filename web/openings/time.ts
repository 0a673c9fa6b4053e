import type { PersonTime } from '@marmot/contract/availability'
import { readAvailability } from '@marmot/contract/availability'
import { type Person, searchPeople } from '@marmot/contract/people'
import {
  listReservations,
  listResources,
  placeOf,
  type ReservationOnWire,
  type Resource,
} from '@marmot/contract/resources'
import type { LaneTime } from '@marmot/core/availability'
import type { Place } from '@marmot/core/reservations'
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

/** A person's time as the lane that core judges. Somebody who shares nothing is unknown, never free. */
export const laneOf = (time: PersonTime): LaneTime => ({
  zone: time.zone,
  known: time.sees !== 'nothing',
  hours: time.hours,
  outside: 'outside',
  spans: time.spans.map((span) => ({ ...span, start: Date.parse(span.start), end: Date.parse(span.end) })),
})

/** A lane of which nothing is known: a guest's, or one that is still on its way. */
export const unknownLane = (zone: string): LaneTime => ({
  zone,
  known: false,
  hours: [],
  outside: 'outside',
  spans: [],
})

export interface PlaceLane extends Place {
  readonly resource: Resource
  readonly reservations: readonly ReservationOnWire[]
}

/** Every place with what is reserved of it in a range. */
export const usePlaces = (from: Instant, to: Instant, enabled = true) => {
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
        ...placeOf(resource, taken),
        resource,
        reservations: taken,
      }
    })
  }, [resources.data, reservations.data])
  return {
    places,
    pending: resources.isPending || reservations.isPending,
    error: resources.error ?? reservations.error,
  }
}

/** "Ilse" of "Ilse Brandacher". */
export const firstName = (person: Pick<Person, 'name'>): string => person.name.split(' ')[0] ?? person.name
