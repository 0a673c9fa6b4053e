import { guestLaneOf, laneOf, unknownLane } from '@marmot/contract/availability'
import type { Brief } from '@marmot/contract/briefs'
import type { Person } from '@marmot/contract/people'
import type { LaneTime } from '@marmot/core/availability'
import type { Asked } from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'
import { useMemo } from 'react'
import { useTime } from '../availability/time.ts'
import { firstName, usePeople } from '../people/people.ts'
import { useMe } from '../platform/session.tsx'
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

/** Everybody in a brief, as far as the server lets me see their time in a range. */
export interface Members {
  readonly members: readonly Member[]
  /** Lanes by the person's id, the same objects as long as what was fetched is. */
  readonly lanes: ReadonlyMap<string, LaneTime>
  /** The sites where somebody is, mine first. */
  readonly sites: readonly string[]
  /** How many are on a site; guests come to the organizer's, as far as anybody knows. */
  readonly seats: (siteId: string) => number
  readonly names: Names
  /** True once everybody's lane is here, and of the range that is asked about now. */
  readonly settled: boolean
  readonly error: Error | null
  readonly retry: () => Promise<unknown>
}

/** The people and guests of a brief; those `out` are not asked for a moment. Instants in milliseconds. */
export const useMembers = (
  brief: Brief,
  out: ReadonlySet<string>,
  range: { readonly from: Instant; readonly to: Instant },
): Members => {
  const { person: me, session, zone } = useMe()
  const ids = brief.people.map((one) => one.id)
  const people = usePeople(ids)
  const time = useTime(
    ids,
    range.from,
    range.to,
    brief.meeting,
    brief.guests.map((one) => one.address),
  )

  // Lanes are made once from what was fetched: a brief that changes does not make them again.
  const lanes = useMemo(
    () =>
      new Map([
        ...(time.data?.people ?? []).map((each) => [each.personId, laneOf(each, brief.hold)] as const),
        ...(time.data?.guests ?? []).map((each) => [each.address, guestLaneOf(me.zone, each)] as const),
      ]),
    [time.data, brief.hold, me.zone],
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
        time: lanes.get(guest.address) ?? unknownLane(me.zone),
        name,
        person: null,
        siteName: '',
        pending: false,
      }
    })
    return [...known, ...guests]
  }, [brief.people, brief.guests, people.data, lanes, me, session.sites, out])

  const seats = useMemo(() => {
    const counts = new Map<string, number>()
    const add = (siteId: string, by: number) => counts.set(siteId, (counts.get(siteId) ?? 0) + by)
    for (const member of members) if (member.person) add(member.person.siteId, 1)
    add(me.siteId, brief.guests.length)
    return (siteId: string) => counts.get(siteId) ?? 0
  }, [members, brief.guests.length, me.siteId])

  const names = useMemo<Names>(
    () => ({
      person: (id) => firstName(members.find((member) => member.id === id) ?? { name: 'somebody' }),
      site: (id) => session.sites.find((site) => site.id === id)?.name ?? 'another site',
      zone,
    }),
    [members, session.sites, zone],
  )

  return {
    members,
    lanes,
    sites: [me.siteId, ...(people.data?.people.map((each) => each.siteId) ?? [])],
    seats,
    names,
    settled: !members.some((member) => member.pending) && !time.isPlaceholderData,
    error: people.error ?? time.error,
    retry: () => Promise.all([people.refetch(), time.refetch()]),
  }
}
