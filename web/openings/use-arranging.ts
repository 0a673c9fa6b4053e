import {
  type Brief,
  brief as briefSchema,
  LATER_DAYS,
  laneOf,
  searchBriefOf,
  unknownLane,
} from '@marmot/contract/openings'
import type { Person } from '@marmot/contract/people'
import { during } from '@marmot/core/availability'
import { type Answer, type Asked, judge, reasonsFor, ribbonFill } from '@marmot/core/openings'
import { isFree, placesThatFit } from '@marmot/core/reservations'
import { DAY, type Day, instantOf, MINUTE, wallOf, zoneTable } from '@marmot/core/time'
import { useCallback, useMemo } from 'react'
import { useTime } from '../availability/time.ts'
import { RIBBON_DAYS } from '../lanes/lens.ts'
import { takenFill } from '../lanes/taken.ts'
import type { View } from '../lanes/use-lens.ts'
import { firstName, usePeople } from '../people/people.ts'
import { useMe } from '../platform/session.tsx'
import { type PlaceLane, searchPlace, usePlaces } from '../resources/resources.ts'
import { useBalance } from './balance.ts'
import { placesFor } from './places-for.ts'
import { useSearch } from './use-search.ts'
import type { Names } from './words.ts'

/** Somebody asked, with their lane and what the directory says of them. */
export interface Member extends Asked {
  readonly name: string
  readonly person: Person | null
  readonly siteName: string
  readonly pending: boolean
  /** Taken out of the search for a moment; still in the brief. */
  readonly out: boolean
}

const NOBODY: ReadonlySet<string> = new Set()

const NOTHING_FOUND: Answer = {
  found: { openings: [], bands: [], unknown: [], starts: 0, tried: 0 },
  why: null,
  days: [],
  help: [],
}

/**
 * Everything Arrange shows, derived from the brief and what the server lets me see. The rows for the ribbon's weeks
 * are fetched once; moving the time or the lens computes on them at once.
 */
export const useArranging = (brief: Brief, view: View, out: ReadonlySet<string> = NOBODY) => {
  const { person: me, session } = useMe()
  const { zone, now, today, ribbonFirst } = view
  const at = useCallback((day: Day) => instantOf(zone, wallOf(day)), [zone])
  const from = Math.min(view.from, at(brief.fromDay) - DAY)
  const knownTo = at(brief.toDay + LATER_DAYS)
  const to = Math.max(view.to, knownTo)
  const ids = brief.people.map((one) => one.id)
  const people = usePeople(ids)
  const time = useTime(ids, from, to)
  const sites = [me.siteId, ...(people.data?.people.map((each) => each.siteId) ?? [])]
  const {
    places,
    resources,
    pending,
    stale,
    error: placesError,
  } = usePlaces(from, to, { hold: brief.hold, of: placesFor(brief, sites) })
  const placesPending = pending || stale
  const balance = useBalance(ids)

  // Lanes are made once from what was fetched: a brief that changes does not make them again.
  const lanes = useMemo(
    () => new Map(time.data?.people.map((each) => [each.personId, laneOf(each, brief.hold)])),
    [time.data, brief.hold],
  )
  const members = useMemo<Member[]>(() => {
    const siteName = (id: string) => session.sites.find((site) => site.id === id)?.name ?? ''
    const known = brief.people.map(({ id, required, group }): Member => {
      const person = people.data?.people.find((each) => each.id === id) ?? (id === me.id ? me : null)
      const theirs = lanes.get(id)
      return {
        id,
        required,
        ...(group ? { group } : {}),
        out: out.has(id),
        time: theirs ?? unknownLane(person?.zone ?? me.zone),
        name: person?.name ?? '…',
        person,
        siteName: person ? siteName(person.siteId) : '',
        pending: !theirs,
      }
    })
    const guests = brief.guests.map((guest): Member => {
      const name = guest.name || guest.address
      return {
        id: guest.address,
        required: guest.required,
        out: out.has(guest.address),
        time: unknownLane(me.zone),
        name,
        person: null,
        siteName: '',
        pending: false,
      }
    })
    return [...known, ...guests]
  }, [brief.people, brief.guests, people.data, lanes, me, session.sites, out])

  const settled = !members.some((member) => member.pending) && !time.isPlaceholderData && !placesPending
  const alone = members.length < 2

  // What the search rests on, the same object as long as it says the same: the chosen time, the title and the words are
  // not among it, nor is whoever is out for a moment.
  const text = JSON.stringify({
    ...brief,
    title: '',
    note: '',
    start: null,
    people: brief.people.filter((one) => !out.has(one.id)),
    guests: brief.guests.filter((one) => !out.has(one.address)),
  })
  const wire = useMemo(() => briefSchema.parse(JSON.parse(text)), [text])
  const soonest = Math.floor(now / (5 * MINUTE)) * 5 * MINUTE
  const search = useMemo(() => {
    if (alone || !settled) return null
    const siteOf = new Map(
      members.flatMap((member) => (member.person ? [[member.id, member.person.siteId]] : [])),
    )
    const known = {
      meId: me.id,
      zone: me.zone,
      homeSite: me.siteId,
      now: soonest,
      timeOf: (id: string) => lanes.get(id) ?? unknownLane(me.zone),
      siteOf: (id: string) => siteOf.get(id),
      places: wire.places.length || wire.needs.length ? places.map(searchPlace) : [],
      past: Object.fromEntries((balance.data?.people ?? []).map((one) => [one.personId, one.minutes])),
    }
    return { brief: searchBriefOf(wire, known), wire, organizerId: me.id, knownTo }
  }, [alone, settled, members, lanes, me, wire, soonest, places, balance.data, knownTo])
  const searching = useSearch(search)
  const { found, why, days, help } = searching.answer ?? NOTHING_FOUND
  const refused = searching.refused
  const names = useMemo<Names>(
    () => ({
      person: (id) => firstName(members.find((member) => member.id === id) ?? { name: 'somebody' }),
      site: (id) => session.sites.find((site) => site.id === id)?.name ?? 'another site',
      zone,
    }),
    [members, session.sites, zone],
  )

  const fill = useMemo(
    () =>
      alone
        ? takenFill(members[0]?.time ?? unknownLane(me.zone), me.zone, ribbonFirst)
        : ribbonFill(found.bands, me.zone, ribbonFirst, RIBBON_DAYS),
    [alone, members, found.bands, me.zone, ribbonFirst],
  )

  const placesById = useMemo(() => new Map(places.map((place) => [place.id, place])), [places])

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
  const judged = search && chosen ? judge(search.brief, chosen) : null
  // Particular places, and those that were matched with what is needed at the chosen time.
  const matched = brief.needs.length > 0 ? (judged?.places?.places.flatMap((id) => id ?? []) ?? []) : []
  const chosenPlaces = [...new Set([...brief.places, ...matched])].flatMap((id) => placesById.get(id) ?? [])
  return {
    me,
    zone,
    now,
    today,
    step: brief.step,
    members,
    found,
    why,
    days,
    help,
    searching,
    names,
    brief,
    sites: session.sites,
    placesById,
    resources,
    past: balance.data ?? null,
    search: search?.brief ?? null,
    wire,
    soonest,
    refused,
    settled,
    alone,
    fill,
    seats,
    roomsAt,
    chosen,
    judged,
    chosenPlaces,
    asked: members.filter((member) => !member.out),
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
