import type { Person } from '@marmot/contract/people'
import { during, type LaneTime } from '@marmot/core/availability'
import {
  type Asked,
  BadBrief,
  type Found,
  type Opening,
  reasonsFor,
  ribbonFill,
  searchOpenings,
} from '@marmot/core/openings'
import { isFree, placesThatFit } from '@marmot/core/reservations'
import { DAY, type Day, HOUR, instantOf, lengthInWords, MINUTE, wallOf, zoneTable } from '@marmot/core/time'
import { useCallback, useMemo } from 'react'
import { useMe } from '../app/session.tsx'
import { RIBBON_DAYS } from '../lanes/lens.ts'
import type { View } from '../lanes/use-lens.ts'
import type { Brief } from './brief.tsx'
import { firstName, laneOf, type PlaceLane, unknownLane, usePeople, usePlaces, useTime } from './time.ts'

const STEP = 15

/** Somebody asked, with their lane and what the directory says of them. */
export interface Member extends Asked {
  readonly name: string
  readonly person: Person | null
  readonly siteName: string
  readonly pending: boolean
}

const EMPTY_FOUND: Pick<Found, 'openings' | 'bands' | 'unknown'> = { openings: [], bands: [], unknown: [] }

/**
 * Everything Arrange shows, derived from the brief and what the server lets me see. The rows for the ribbon's weeks
 * are fetched once; moving the time or the lens computes on them at once.
 */
export const useArranging = (brief: Brief, view: View) => {
  const { person: me, session } = useMe()
  const { zone, now, today, ribbonFirst } = view
  const at = useCallback((day: Day) => instantOf(zone, wallOf(day)), [zone])
  const from = Math.min(view.from, at(brief.fromDay) - DAY)
  const to = Math.max(view.to, at(brief.toDay) + DAY)
  const ids = brief.people.map((one) => one.id)
  const people = usePeople(ids)
  const time = useTime(ids, from, to)
  const { places, pending: placesPending, error: placesError } = usePlaces(from, to)

  const members = useMemo<Member[]>(() => {
    const siteName = (id: string) => session.sites.find((site) => site.id === id)?.name ?? ''
    const known = brief.people.map(({ id, required }): Member => {
      const person = people.data?.people.find((each) => each.id === id) ?? (id === me.id ? me : null)
      const theirs = time.data?.people.find((each) => each.personId === id)
      const pending = !theirs
      const lane: LaneTime = theirs ? laneOf(theirs) : unknownLane(person?.zone ?? me.zone)
      return {
        id,
        required,
        time: lane,
        name: person?.name ?? '…',
        person,
        siteName: person ? siteName(person.siteId) : '',
        pending,
      }
    })
    const guests = brief.guests.map((guest): Member => {
      const name = guest.name || guest.address
      return {
        id: guest.address,
        required: guest.required,
        time: unknownLane(me.zone),
        name,
        person: null,
        siteName: '',
        pending: false,
      }
    })
    return [...known, ...guests]
  }, [brief.people, brief.guests, people.data, time.data, me, session.sites])

  const settled = !members.some((member) => member.pending) && !time.isPlaceholderData
  const alone = members.length < 2

  const { found, refused } = useMemo(() => {
    if (alone || !settled) return { found: EMPTY_FOUND, refused: null }
    const soonest = Math.ceil((now + 5 * MINUTE) / (STEP * MINUTE)) * STEP * MINUTE
    try {
      const window = { from: Math.max(soonest, at(brief.fromDay)), to: at(brief.toDay) }
      return {
        found: searchOpenings({ people: members, minutes: brief.minutes, ...window, step: STEP }),
        refused: null,
      }
    } catch (error) {
      if (error instanceof BadBrief) return { found: EMPTY_FOUND, refused: error.message }
      throw error
    }
  }, [members, alone, settled, brief.minutes, brief.fromDay, brief.toDay, now, at])

  const fill = useMemo(
    () =>
      alone
        ? takenFill(members[0]?.time ?? unknownLane(me.zone), me.zone, ribbonFirst)
        : ribbonFill(found.bands, me.zone, ribbonFirst, RIBBON_DAYS),
    [alone, members, found.bands, me.zone, ribbonFirst],
  )

  const seats = useMemo(() => {
    const counts = new Map<string, number>()
    const add = (siteId: string, by: number) => counts.set(siteId, (counts.get(siteId) ?? 0) + by)
    for (const member of members) if (member.person) add(member.person.siteId, 1)
    // Guests come to the organizer's site, as far as anybody knows.
    add(me.siteId, brief.guests.length)
    return (siteId: string) => counts.get(siteId) ?? 0
  }, [members, brief.guests.length, me.siteId])

  const rooms = useMemo(
    () => places.filter((place) => place.resource.kind === 'room' || place.resource.kind === 'lab'),
    [places],
  )
  /** Rooms free at a time that seat those who are there, on the sites where somebody is. */
  const roomsAt = (span: { start: number; end: number }): PlaceLane[] => {
    const here = rooms.filter((place) => seats(place.siteId) > 0)
    const ids = new Set(placesThatFit(here, span, seats, me.siteId).map((place) => place.id))
    const order = placesThatFit(here, span, seats, me.siteId).map((place) => place.id)
    return here.filter((place) => ids.has(place.id)).sort((a, b) => order.indexOf(a.id) - order.indexOf(b.id))
  }

  const chosen =
    brief.start === null ? null : { start: brief.start, end: brief.start + brief.minutes * MINUTE }
  const chosenPlaces = brief.places.flatMap((id) => places.find((place) => place.id === id) ?? [])
  return {
    me,
    zone,
    now,
    today,
    step: STEP,
    members,
    found,
    refused,
    settled,
    alone,
    fill,
    seats,
    roomsAt,
    chosen,
    chosenPlaces,
    reasons: chosen ? reasonsFor(members, chosen) : [],
    placeReasons: chosen
      ? chosenPlaces.map((place) => ({
          place,
          free: isFree(place, chosen),
          how: during(place.time, zoneTable(place.time.zone), chosen),
        }))
      : [],
    placesPending,
    error: people.error ?? time.error ?? placesError,
    retry: () => Promise.all([people.refetch(), time.refetch()]),
  }
}

export type Arranging = ReturnType<typeof useArranging>

/** How full each day of a lane is, of eight hours: the ribbon's fill when there is no brief. */
export const takenFill = (time: LaneTime, zone: string, first: Day, days = RIBBON_DAYS): Float32Array => {
  const taken = time.spans.filter((span) => span.state !== 'listed' && span.end - span.start < 20 * HOUR)
  return ribbonFill(
    taken.map((span) => ({ ...span, missing: 0, stretch: 0 })),
    zone,
    first,
    days,
  )
}

/** Who is stretched or missing at an opening, in a few words: "Tashi stretches 45 min". */
export const openingReasons = (members: readonly Member[], opening: Opening): string[] => {
  const firstNameOf = (id: string) => firstName(members.find((member) => member.id === id) ?? { name: '' })
  const reasons = reasonsFor(members, opening)
  // Unknown people are counted apart. Whoever is missing comes first, then whoever stretches most.
  const missing = reasons.filter(({ how }) => !['free', 'stretch', 'unknown'].includes(how.state))
  const stretched = reasons
    .filter(({ how }) => how.state === 'stretch')
    .sort((a, b) => b.how.stretch - a.how.stretch)
  return [
    ...missing.map(({ id, how }) => `without ${firstNameOf(id)}: ${how.state}`),
    ...stretched.map(({ id, how }) => `${firstNameOf(id)} stretches ${lengthInWords(how.stretch)}`),
  ]
}
