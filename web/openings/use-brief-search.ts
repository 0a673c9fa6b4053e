import { unknownLane } from '@marmot/contract/availability'
import { type Brief, brief as briefSchema } from '@marmot/contract/briefs'
import { searchBriefOf } from '@marmot/contract/openings'
import type { Answer, SearchBrief } from '@marmot/core/openings'
import { type Instant, MINUTE } from '@marmot/core/time'
import { useMemo } from 'react'
import { useMe } from '../platform/session.tsx'
import { type PlaceLane, searchPlace } from '../resources/resources.ts'
import { useForecasts } from '../weather/weather.ts'
import { useBalance } from './balance.ts'
import type { Members } from './use-members.ts'
import { type Searching, useSearch } from './use-search.ts'

const NOTHING_FOUND: Answer = {
  found: { openings: [], bands: [], unknown: [], starts: 0, tried: 0 },
  why: null,
  days: [],
  help: [],
}

/** The search that a brief means, and how far it has come. */
export interface BriefSearch extends Answer {
  /** What is searched; null while there is nothing to search, or not all is known yet. */
  readonly search: SearchBrief | null
  /** The brief as far as the search rests on it, the same object as long as it says the same. */
  readonly wire: Brief
  /** No opening begins before this instant. */
  readonly soonest: Instant
  readonly searching: Searching
  /** Why the server would not search, in words. */
  readonly refused: string | null
  /** How far each was stretched lately; null while that is not known. */
  readonly past: NonNullable<ReturnType<typeof useBalance>['data']> | null
}

/** Searches for a brief in the page's worker, or on the server when many are asked. `knownTo` is how far lanes reach. */
export const useBriefSearch = (
  brief: Brief,
  out: ReadonlySet<string>,
  known: {
    readonly now: Instant
    readonly knownTo: Instant
    readonly settled: boolean
    readonly people: Members
    readonly places: readonly PlaceLane[]
  },
): BriefSearch => {
  const { person: me } = useMe()
  const { now, knownTo, settled, people, places } = known
  const { members, lanes } = people
  const balance = useBalance(brief.people.map((one) => one.id))
  const forecasts = useForecasts(brief.outdoors ? [brief.outdoors.siteId] : [])
  const alone = members.length < 2
  // The chosen time, the title and the words are not what it rests on, nor is whoever is out for a moment.
  const text = JSON.stringify({
    ...brief,
    title: '',
    note: '',
    agenda: '',
    start: null,
    people: brief.people.filter((one) => !out.has(one.id)),
    guests: brief.guests.filter((one) => !out.has(one.address)),
  })
  const wire = useMemo(() => briefSchema().parse(JSON.parse(text)), [text])
  const soonest = Math.floor(now / (5 * MINUTE)) * 5 * MINUTE
  const search = useMemo(() => {
    if (alone || !settled || !forecasts) return null
    const siteOf = new Map(
      members.flatMap((member) => (member.person ? [[member.id, member.person.siteId]] : [])),
    )
    const knownNow = {
      meId: me.id,
      zone: me.zone,
      homeSite: me.siteId,
      now: soonest,
      timeOf: (id: string) => lanes.get(id) ?? unknownLane(me.zone),
      siteOf: (id: string) => siteOf.get(id),
      places: wire.places.length || wire.needs.length ? places.map(searchPlace) : [],
      forecastAt: (siteId: string) => forecasts?.get(siteId) ?? null,
      past: Object.fromEntries((balance.data?.people ?? []).map((one) => [one.personId, one.minutes])),
    }
    return { brief: searchBriefOf(wire, knownNow), wire, organizerId: me.id, knownTo }
  }, [alone, settled, members, lanes, me, wire, soonest, places, balance.data, forecasts, knownTo])
  const searching = useSearch(search)
  return {
    ...(searching.answer ?? NOTHING_FOUND),
    search: search?.brief ?? null,
    wire,
    soonest,
    searching,
    refused: searching.refused,
    past: balance.data ?? null,
  }
}
