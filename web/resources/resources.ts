import { type Apart, holidaysEvent } from '@marmot/contract/availability'
import {
  listReservations,
  listResources,
  placesEvent,
  type ReservationOnWire,
  type Resource,
  reservationsEvent,
  searchPlaceOf,
} from '@marmot/contract/resources'
import type { SearchPlace } from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'

const iso = (at: Instant) => new Date(at).toISOString()

const resourcesKey = () => ['resources']
const reservationsKey = (...asked: readonly unknown[]) => ['reservations', ...asked]

export interface PlaceLane extends SearchPlace {
  readonly resource: Resource
  readonly reservations: readonly ReservationOnWire[]
}

/** Some places: those of some kinds on some sites, and particular ones; with `alike` also what may do in place of those. */
export interface SomePlaces {
  readonly sites: readonly string[]
  readonly kinds: readonly string[]
  readonly places: readonly string[]
  readonly alike?: boolean
}

/** Those places without `alike`: particular ones are then among their like, and taking one in hand asks for nothing new. */
const withAlike = (of: SomePlaces, all: readonly Resource[]): SomePlaces => {
  if (!of.alike) return of
  const named = all.filter((one) => of.places.includes(one.id))
  return {
    places: [],
    sites: [...of.sites, ...named.map((one) => one.siteId)],
    kinds: [...of.kinds, ...named.map((one) => one.kind)],
  }
}

const EVERY = 'every'

/** Every place there is, without what is reserved of it. */
export const useResources = (enabled = true) =>
  useQuery({
    queryKey: resourcesKey(),
    queryFn: () => call(listResources),
    enabled,
    staleTime: 300_000,
    meta: { heeds: [heed(placesEvent), heed(holidaysEvent)] },
  })

interface Asked {
  readonly enabled?: boolean
  readonly hold?: string | null
  /** A meeting of mine whose own reservations are left out. */
  readonly apart?: Apart | null
  readonly of?: SomePlaces
}

/**
 * Places with what is reserved of them in a range: of every place, or of some. A place of which nothing was asked is not
 * among them, since it would look free; `resources` are all there are.
 */
export const usePlaces = (
  from: Instant,
  to: Instant,
  { enabled = true, hold = null, apart = null, of }: Asked = {},
) => {
  const resources = useResources(enabled)
  const some = of && withAlike(of, resources.data?.resources ?? NO_RESOURCES)
  const key = some
    ? [some.sites, some.kinds, some.places].map((each) => [...new Set(each)].sort().join())
    : EVERY
  const reservations = useQuery({
    queryKey: reservationsKey(from, to, key, apart?.entryId, apart?.recurrence),
    queryFn: async ({ signal }) => {
      const query = {
        from: iso(from),
        to: iso(to),
        ...(apart ? { apart: apart.entryId } : {}),
        ...(apart?.recurrence ? { apartDate: apart.recurrence } : {}),
      }
      const [sites, kinds, places] = key
      const asked = key === EVERY ? query : { ...query, sites, kinds, places }
      const { reservations } = await call(listReservations, { query: asked, signal })
      return { reservations, key }
    },
    placeholderData: keepPreviousData,
    enabled,
    meta: { heeds: [heed(reservationsEvent)] },
  })
  const { data } = reservations
  const places = useMemo<PlaceLane[]>(() => {
    if (!data) return []
    const byResource = new Map<string, ReservationOnWire[]>()
    for (const each of data.reservations) {
      const list = byResource.get(each.resourceId)
      if (list) list.push(each)
      else byResource.set(each.resourceId, [each])
    }
    const isAsked = askedBy(data.key)
    return (resources.data?.resources ?? []).filter(isAsked).map((resource) => {
      const taken = byResource.get(resource.id) ?? []
      return {
        ...searchPlaceOf(resource, taken, hold),
        resource,
        reservations: taken,
      }
    })
  }, [resources.data, data, hold])
  return {
    places,
    resources: resources.data?.resources ?? NO_RESOURCES,
    pending: resources.isPending || reservations.isPending,
    /** True while what is shown was asked for another range, or other places. */
    stale: reservations.isPlaceholderData,
    error: resources.error ?? reservations.error,
  }
}

const NO_RESOURCES: readonly Resource[] = []

/** Which places an answer is about, by what was asked: the question of before may still be on the screen. */
const askedBy = (key: string | readonly string[]) => {
  if (key === EVERY) return () => true
  const [sites, kinds, places] = [...key].map((each) => new Set(each.split(',')))
  return ({ id, kind, siteId }: Resource): boolean =>
    (sites?.has(siteId) && kinds?.has(kind)) || places?.has(id) || false
}

/** A place with more of what is reserved of it; what is known already counts once. */
export const withReserved = (place: PlaceLane, more: readonly ReservationOnWire[]): PlaceLane => {
  const byId = new Map([...more, ...place.reservations].map((one) => [one.id, one]))
  const reservations = [...byId.values()].sort((a, b) => Date.parse(a.start) - Date.parse(b.start))
  return { ...searchPlaceOf(place.resource, reservations), resource: place.resource, reservations }
}

/** A place without what only the screen needs: what the search is given, and the worker is sent. */
export const searchPlace = ({ resource: _, reservations: __, ...place }: PlaceLane): SearchPlace => place
