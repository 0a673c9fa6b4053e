import { unknownLane } from '@marmot/contract/availability'
import type { Brief } from '@marmot/contract/briefs'
import { LATER_DAYS } from '@marmot/contract/openings'
import type { Person, Site } from '@marmot/contract/people'
import type { Resource } from '@marmot/contract/resources'
import { ribbonFill } from '@marmot/core/openings'
import { DAY, type Day, type Instant, instantOf, wallOf, type ZoneTable } from '@marmot/core/time'
import { useCallback, useMemo } from 'react'
import { RIBBON_DAYS } from '../lanes/lens.ts'
import { takenFill } from '../lanes/taken.ts'
import type { View } from '../lanes/use-lens.ts'
import { useMe } from '../platform/session.tsx'
import { usePlaces } from '../resources/resources.ts'
import { placesFor } from './places-for.ts'
import { type BriefSearch, useBriefSearch } from './use-brief-search.ts'
import { type Chosen, useChosen } from './use-chosen.ts'
import { type Member, type Members, useMembers } from './use-members.ts'

export type { Member }

const NOBODY: ReadonlySet<string> = new Set()

/** Everything Arrange shows: who is asked, what the search found, and how all stand at the chosen time. */
export interface Arranging
  extends Pick<Members, 'members' | 'names' | 'seats' | 'retry'>,
    BriefSearch,
    Chosen {
  readonly brief: Brief
  readonly me: Person
  readonly zone: ZoneTable
  readonly now: Instant
  readonly today: Day
  /** Minutes between two starts. */
  readonly step: number
  readonly sites: readonly Site[]
  /** Every place there is. */
  readonly resources: readonly Resource[]
  /** Those who are not out for a moment. */
  readonly asked: readonly Member[]
  /** True where nobody but me is asked: nothing is searched then. */
  readonly alone: boolean
  /** True once all that a search rests on is known. */
  readonly settled: boolean
  readonly placesPending: boolean
  /** How much each day of the ribbon is open, or, alone, taken: from 0 to 1. */
  readonly fill: Float32Array
  readonly error: Error | null
}

/**
 * Everything Arrange shows, derived from the brief and what the server lets me see. The rows for the ribbon's weeks
 * are fetched once; moving the time or the lens computes on them at once.
 */
export const useArranging = (brief: Brief, view: View, out: ReadonlySet<string> = NOBODY): Arranging => {
  const { person: me, session } = useMe()
  const { zone, now, today, ribbonFirst } = view
  const at = useCallback((day: Day) => instantOf(zone, wallOf(day)), [zone])
  const from = Math.min(view.from, at(brief.fromDay) - DAY)
  const knownTo = at(brief.toDay + LATER_DAYS)
  const to = Math.max(view.to, knownTo)

  const people = useMembers(brief, out, { from, to })
  const { members } = people
  const places = usePlaces(from, to, {
    hold: brief.hold,
    apart: brief.meeting,
    of: placesFor(brief, people.sites),
  })
  const placesPending = places.pending || places.stale
  const settled = people.settled && !placesPending
  const alone = members.length < 2
  const searched = useBriefSearch(brief, out, { now, knownTo, settled, people, places: places.places })
  const chosen = useChosen(brief, searched.search, people, places.places)

  const { bands } = searched.found
  const fill = useMemo(
    () =>
      alone
        ? takenFill(members[0]?.time ?? unknownLane(me.zone), me.zone, ribbonFirst)
        : ribbonFill(bands, me.zone, ribbonFirst, RIBBON_DAYS),
    [alone, members, bands, me.zone, ribbonFirst],
  )
  return {
    ...searched,
    ...chosen,
    brief,
    me,
    zone,
    now,
    today,
    step: brief.step,
    sites: session.sites,
    members,
    names: people.names,
    seats: people.seats,
    resources: places.resources,
    asked: members.filter((member) => !member.out),
    alone,
    settled,
    placesPending,
    fill,
    error: people.error ?? places.error,
    retry: people.retry,
  }
}
