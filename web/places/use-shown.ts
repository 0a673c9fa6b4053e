import { readFill } from '@marmot/contract/reservations'
import { KINDS } from '@marmot/contract/resources'
import { dayText, HOUR, instantOf, wallOf } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import type { View } from '../lanes/use-lens.ts'
import { call } from '../platform/api.ts'
import { useMe } from '../platform/session.tsx'
import { type PlaceLane, usePlaces, withReserved } from '../resources/resources.ts'

/** How far beyond the days that are shown what is reserved is known: until when a place is free may lie there. */
const BEYOND = 12 * HOUR

/** Every place with what is reserved of it in the days that are shown, and today: not in all weeks that the ribbon has. */
export const useShown = ({ lens, today }: Pick<View, 'lens' | 'today'>) => {
  const { zone } = useMe()
  const at = (day: number) => instantOf(zone, wallOf(day))
  const shown = usePlaces(at(lens.first) - BEYOND, at(lens.first + lens.days) + BEYOND)
  const has = today >= lens.first && today < lens.first + lens.days
  const now = usePlaces(at(today), at(today + 1) + BEYOND, { enabled: !has })
  const places = useMemo<PlaceLane[]>(() => {
    if (has || now.places.length === 0) return shown.places
    const known = new Map(now.places.map((place) => [place.id, place.reservations]))
    return shown.places.map((place) => withReserved(place, known.get(place.id) ?? []))
  }, [has, shown.places, now.places])
  return { places, pending: shown.pending, error: shown.error }
}

const FRESH_MS = 60_000

/** How full the places of a kind are on each day of the ribbon. */
export const useFill = (
  view: Pick<View, 'ribbonFirst' | 'ribbonDays'>,
  kind: string | null,
): Float32Array => {
  const { zone } = useMe()
  const { ribbonFirst, ribbonDays } = view
  const known = KINDS.find((one) => one === kind)
  const fill = useQuery({
    queryKey: ['reservations', 'fill', ribbonFirst, ribbonDays, zone.zone, kind],
    queryFn: () =>
      call(readFill, {
        query: {
          first: dayText(ribbonFirst),
          days: ribbonDays,
          zone: zone.zone,
          ...(known ? { kind: known } : {}),
        },
      }),
    placeholderData: keepPreviousData,
    staleTime: FRESH_MS,
    refetchInterval: FRESH_MS,
  })
  return useMemo(
    () => Float32Array.from({ length: ribbonDays }, (_, i) => fill.data?.fill[i] ?? 0),
    [fill.data, ribbonDays],
  )
}
