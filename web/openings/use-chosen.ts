import type { Brief } from '@marmot/contract/briefs'
import { during } from '@marmot/core/availability'
import { judge, reasonsFor, type SearchBrief } from '@marmot/core/openings'
import { isFree, placesThatFit } from '@marmot/core/reservations'
import { MINUTE, zoneTable } from '@marmot/core/time'
import { useMemo } from 'react'
import { useMe } from '../platform/session.tsx'
import type { PlaceLane } from '../resources/resources.ts'
import type { Members } from './use-members.ts'

interface Span {
  readonly start: number
  readonly end: number
}

/** The time that is chosen, and how everybody and every place stands then. */
export interface Chosen {
  readonly chosen: Span | null
  /** The chosen start weighed by the rules of the search; null while nothing is chosen or searched. */
  readonly judged: ReturnType<typeof judge> | null
  /** The places that the meeting would take: particular ones, and those that were matched with what is needed. */
  readonly chosenPlaces: readonly PlaceLane[]
  readonly reasons: ReturnType<typeof reasonsFor>
  readonly placeReasons: readonly {
    readonly place: PlaceLane
    readonly free: boolean
    readonly how: ReturnType<typeof during>
  }[]
  readonly placesById: ReadonlyMap<string, PlaceLane>
  /** Rooms free at a time that seat those who are there, on the sites where somebody is; the best first. */
  readonly roomsAt: (span: Span) => PlaceLane[]
}

export const useChosen = (
  brief: Brief,
  search: SearchBrief | null,
  { members, seats }: Pick<Members, 'members' | 'seats'>,
  places: readonly PlaceLane[],
): Chosen => {
  const { person: me } = useMe()
  const placesById = useMemo(() => new Map(places.map((place) => [place.id, place])), [places])
  const rooms = useMemo(
    () => places.filter((place) => place.resource.kind === 'room' || place.resource.kind === 'lab'),
    [places],
  )
  const roomsAt = (span: Span): PlaceLane[] => {
    const here = rooms.filter((place) => seats(place.siteId) > 0)
    return placesThatFit(here, span, seats, me.siteId).flatMap(({ id }) => placesById.get(id) ?? [])
  }
  const chosen =
    brief.start === null ? null : { start: brief.start, end: brief.start + brief.minutes * MINUTE }
  const judged = search && chosen ? judge(search, chosen) : null
  const matched = brief.needs.length > 0 ? (judged?.places?.places.flatMap((id) => id ?? []) ?? []) : []
  const chosenPlaces = [...new Set([...brief.places, ...matched])].flatMap((id) => placesById.get(id) ?? [])
  return {
    chosen,
    judged,
    chosenPlaces,
    reasons: chosen ? reasonsFor(members, chosen) : [],
    placeReasons: chosen
      ? chosenPlaces.map((place) => ({
          place,
          free: isFree(place, chosen),
          how: during(place.time, zoneTable(place.time.zone), chosen),
        }))
      : [],
    placesById,
    roomsAt,
  }
}
