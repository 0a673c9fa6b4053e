import { readFill } from '@marmot/contract/reservations'
import { KINDS, type ReservationOnWire } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import { DAY, dayText, HOUR, type Instant, instantOf, wallOf } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { inLens } from '../lanes/lens.ts'
import type { View } from '../lanes/use-lens.ts'
import { call } from '../platform/api.ts'
import { useMe } from '../platform/session.tsx'
import { type PlaceLane, usePlaces, withReserved } from '../resources/resources.ts'

/** How far beyond the days that are shown what is reserved is known: until when a place is free may lie there. */
const BEYOND = 12 * HOUR

/** Every place with what is reserved of it in the days that are shown, today, and at the chosen time: not in all weeks of the ribbon. */
export const useShown = ({ lens, today }: Pick<View, 'lens' | 'today'>, chosen: Span | null) => {
  const { zone } = useMe()
  const at = (day: number) => instantOf(zone, wallOf(day))
  const [from, to] = [at(lens.first) - BEYOND, at(lens.first + lens.days) + BEYOND]
  const shown = usePlaces(from, to)
  const now = usePlaces(at(today), at(today + 1) + BEYOND, {
    enabled: !inLens(lens, today),
  })
  // A time that was chosen stays so while other days are looked at, and what is free then is still to be right.
  const elsewhere = chosen !== null && (chosen.start < from + BEYOND || chosen.end > to - BEYOND)
  const then = usePlaces(dayOfUtc(chosen?.start ?? from) - DAY, dayOfUtc(chosen?.end ?? to) + 2 * DAY, {
    enabled: elsewhere,
  })
  const places = useMemo<PlaceLane[]>(() => {
    const more = new Map<string, ReservationOnWire[]>()
    for (const place of [...now.places, ...then.places])
      more.set(place.id, [...(more.get(place.id) ?? []), ...place.reservations])
    return shown.places.map((place) => {
      const its = more.get(place.id) ?? []
      return its.length > 0 ? withReserved(place, its) : place
    })
  }, [shown.places, now.places, then.places])
  return { places, pending: shown.pending || (elsewhere && then.pending), error: shown.error ?? then.error }
}

/** Whole days, so that moving the time asks for nothing new. */
const dayOfUtc = (instant: Instant): Instant => Math.floor(instant / DAY) * DAY

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
