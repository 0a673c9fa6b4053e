import type { SearchPlace } from '@marmot/core/openings'
import { DAY, dayOf, MINUTE, wallFromText, zoneTable } from '@marmot/core/time'
import { type Host, type Offered, offeredTimes, placesAtStart, type Terms } from '@marmot/core/visits'
import { readOwnLanes, readSearchPlaces } from '../openings/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { bookedOf, type KeptKind } from './store.ts'

/** What is looked for: a length, in a range, of some of the hosts, as if a visit that is to be moved were not there. */
export interface Looking {
  readonly minutes: number
  readonly from: number
  readonly to: number
  readonly hosts: readonly string[]
  readonly moving: { readonly visitId: string; readonly occurrenceId: string } | null
}

const dayFrom = (text: string | null): number | null => {
  const wall = text === null ? null : wallFromText(`${text}T00:00`)
  return wall === null ? null : dayOf(wall)
}

const termsOf = ({ terms }: KeptKind): Terms => ({
  ...terms,
  fromDay: dayFrom(terms.fromDay),
  toDay: dayFrom(terms.toDay),
})

/** What is free now, and in which places a time would be. */
export interface Offering {
  readonly times: readonly Offered[]
  readonly placesAt: (hosts: readonly string[], start: number) => string[]
}

/** How many days around a range count for the limits of its weeks. */
const WEEK = 7 * DAY

/**
 * What of a kind is offered in a range: asked of the same search as everything else, with its hosts' time as they themselves
 * see it. Nothing leaves of it but the times.
 */
export const offer = async (sql: Sql, kind: KeptKind, looking: Looking, now: number): Promise<Offering> => {
  const { minutes, hosts: ids } = looking
  const { terms } = kind
  const table = zoneTable(kind.zone)
  const apart = looking.moving ? [looking.moving.occurrenceId] : []
  const around = Math.max(terms.before, terms.after) * MINUTE + DAY
  const range = { from: looking.from - around, to: looking.to + around, apart }
  const limited = terms.mostADay !== null || terms.mostAWeek !== null
  const [lanes, booked] = await together([
    readOwnLanes(sql, ids, range, now),
    limited
      ? bookedOf(sql, kind.id, looking.from - WEEK, looking.moving?.visitId ?? null)
      : Promise.resolve(new Map<string, number[]>()),
  ])
  const hosts = ids.flatMap((id): Host[] => {
    const lane = lanes.get(id)
    return lane ? [{ id, time: lane.time, siteId: lane.siteId, booked: booked.get(id) ?? [] }] : []
  })
  const needs = terms.where === 'room' && terms.need ? [terms.need] : []
  const sites = new Set([kind.siteId, ...hosts.flatMap((host) => host.siteId ?? [])])
  const all: SearchPlace[] = await readSearchPlaces(sql, kind.ownerId, { ids: [], needs }, sites, range, now)
  const asking = {
    minutes,
    from: looking.from,
    to: looking.to,
    now,
    zone: table.zone,
    ...(needs.length
      ? { places: { ids: [], needs, must: true, all, guests: 1, homeSite: kind.siteId } }
      : {}),
  }
  // Of a panel in which somebody is missing nobody is free.
  const complete = terms.together !== 'together' || hosts.length === ids.length
  return {
    times: complete && hosts.length > 0 ? offeredTimes(hosts, termsOf(kind), asking) : [],
    placesAt: (some, start) =>
      placesAtStart(
        hosts.filter((host) => some.includes(host.id)),
        termsOf(kind),
        asking,
        start,
      ),
  }
}

/** Who of a kind can be visited: those who agreed; of a panel, nobody as long as somebody has not. */
export const hostsOf = ({ hosts, terms }: KeptKind): string[] => {
  const agreed = hosts.filter((host) => host.agreed).map((host) => host.id)
  return terms.together === 'together' && agreed.length < hosts.length ? [] : agreed
}
