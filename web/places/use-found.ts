import type { Span } from '@marmot/core/availability'
import { findPlaces, isFree } from '@marmot/core/reservations'
import { useMemo } from 'react'
import { useMe, useNow } from '../platform/session.tsx'
import type { PlaceLane } from '../resources/resources.ts'
import { stateAt } from './place-state.ts'
import type { useWish } from './use-wish.ts'

/** In more places than this nobody has to look for room. */
const MOST_ROOM = 20
const NONE: readonly PlaceLane['resource'][] = []

/** The places that are looked for, best first; where there are none, which wish to give up. */
export const useFound = (
  places: readonly PlaceLane[],
  { wish, onlyFree }: Pick<ReturnType<typeof useWish>, 'wish' | 'onlyFree'>,
  chosen: Span | null,
) => {
  const { person } = useMe()
  const now = useNow()
  return useMemo(() => {
    const byId = new Map(places.map((place) => [place.id, place]))
    const isFreeThen = ({ id }: { readonly id: string }) => {
      const place = byId.get(id)
      return place !== undefined && (chosen ? isFree(place, chosen) : stateAt(place, now).free)
    }
    const { places: fitting, instead } = findPlaces(
      places.map((place) => place.resource),
      wish,
      onlyFree ? isFreeThen : null,
      person.siteId,
    )
    const taken =
      fitting.length === 0 && onlyFree && chosen
        ? findPlaces(
            places.map((place) => place.resource),
            wish,
            null,
            person.siteId,
          ).places
        : NONE
    return {
      shown: fitting.flatMap((one) => byId.get(one.id) ?? []),
      instead,
      /** Where nothing is free at the chosen time: what would fit, best first. */
      taken: taken.slice(0, MOST_ROOM).map((one) => one.id),
    }
  }, [places, wish, onlyFree, chosen, now, person.siteId])
}
