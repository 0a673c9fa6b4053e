import { guestLane, unknownLane } from '@marmot/contract/availability'
import type { Brief } from '@marmot/contract/briefs'
import { LATER_DAYS, searchBriefOf } from '@marmot/contract/openings'
import { searchPlaceOf } from '@marmot/contract/resources'
import {
  BadBrief,
  MOST_PEOPLE,
  mayBeNeeded,
  type PlacesWanted,
  type SearchBrief,
  type SearchPlace,
  stretchedBy,
} from '@marmot/core/openings'
import { DAY, instantOf, wallOf, zoneTable } from '@marmot/core/time'
import { guestFeedTime } from '../availability/index.ts'
import { datesApart } from '../entries/index.ts'
import { peopleByIds } from '../people/index.ts'
import type { Sql } from '../platform/database.ts'
import { readReservations } from '../reservations/index.ts'
import { readResources } from '../resources/index.ts'
import { levelsFor } from '../sharing/index.ts'
import { readForecasts } from '../weather/index.ts'
import { readLanes, readTogether } from './store.ts'

/** How far back it is counted who was stretched, in weeks: a quarter of a year. */
export const BALANCE_WEEKS = 12
const LONGEST_WINDOW = 732

/** Minutes that people were stretched lately in meetings of at least two of them. Whoever shares no times is left out. */
export const readBalanceOf = async (sql: Sql, askerId: string, ids: readonly string[], now: number) => {
  const levels = await levelsFor(sql, askerId, ids, now)
  const visible = ids.filter((id) => (levels.get(id)?.sees ?? 'nothing') !== 'nothing')
  const meetings = await readTogether(sql, visible, now - BALANCE_WEEKS * 7 * DAY, now)
  const lanes = await readLanes(
    sql,
    askerId,
    [...meetings.keys()],
    { from: now, to: now + 1, apart: [] },
    now,
  )
  return visible.map((personId) => {
    const together = meetings.get(personId) ?? []
    const lane = lanes.get(personId)
    return { personId, minutes: lane ? stretchedBy(lane.time, together) : 0, meetings: together.length }
  })
}

/** The places that may be needed, as a search sees them, with what is reserved of them in a range. */
export const readSearchPlaces = async (
  sql: Sql,
  askerId: string,
  wanted: Pick<PlacesWanted, 'ids' | 'needs'>,
  sites: ReadonlySet<string>,
  range: { readonly from: number; readonly to: number; readonly apart: readonly string[] },
  now: number,
): Promise<SearchPlace[]> => {
  if (wanted.ids.length + wanted.needs.length === 0) return []
  const resources = mayBeNeeded(wanted, sites, await readResources(sql, askerId, now))
  const ids = resources.map((place) => place.id)
  const span = { start: range.from, end: range.to }
  const reservations = resources.length
    ? await readReservations(sql, askerId, [span], now, ids, null, range.apart)
    : []
  // By place once: going through all reservations for each of hundreds of places would be their product.
  const byPlace = new Map<string, typeof reservations>()
  for (const taken of reservations) {
    const list = byPlace.get(taken.resourceId)
    if (list) list.push(taken)
    else byPlace.set(taken.resourceId, [taken])
  }
  return resources.map((place) => searchPlaceOf(place, byPlace.get(place.id) ?? []))
}

/** A brief with all it needs, and how far its people's time is known. Throws `BadBrief` before it reads anything large. */
export const prepareSearch = async (
  sql: Sql,
  asker: { readonly id: string },
  brief: Brief,
  now: number,
): Promise<{ search: SearchBrief; knownTo: number }> => {
  const [me] = await peopleByIds(sql, [asker.id])
  const zone = me?.zone ?? 'UTC'
  const table = zoneTable(zone)
  if (brief.toDay - brief.fromDay > LONGEST_WINDOW)
    throw new BadBrief('window-too-long', 'The window is longer than two years.')
  if (brief.people.length > MOST_PEOPLE)
    throw new BadBrief(
      'too-many-people',
      `A search takes at most ${MOST_PEOPLE} people; this one has ${brief.people.length}.`,
    )
  const from = instantOf(table, wallOf(brief.fromDay)) - DAY
  const knownTo = instantOf(table, wallOf(brief.toDay + LATER_DAYS))
  const ids = brief.people.map((one) => one.id)
  const own = [
    ...(brief.hold ? [{ entryId: brief.hold, recurrence: null }] : []),
    ...(brief.meeting ? [brief.meeting] : []),
  ]
  const apart = await datesApart(sql, own, asker.id, now)
  const lanes = await readLanes(sql, asker.id, ids, { from, to: knownTo, apart }, now)
  const guests = await guestFeedTime(
    sql,
    asker.id,
    brief.guests.map((one) => one.address),
    from,
    knownTo,
  )
  const sites = new Set([me?.siteId ?? '', ...[...lanes.values()].map((lane) => lane.siteId)])
  const wanted = { ids: brief.places, needs: brief.needs }
  const places = await readSearchPlaces(sql, asker.id, wanted, sites, { from, to: knownTo, apart }, now)
  const forecasts = await readForecasts(sql, brief.outdoors ? [brief.outdoors.siteId] : [], now)
  const balance = brief.rules.stretch === 0 ? [] : await readBalanceOf(sql, asker.id, ids, now)
  return {
    search: searchBriefOf(brief, {
      meId: asker.id,
      zone,
      homeSite: me?.siteId ?? '',
      now,
      timeOf: (id) => {
        const guest = guests.get(id)
        return lanes.get(id)?.time ?? (guest ? guestLane(zone, guest) : unknownLane(zone))
      },
      siteOf: (id) => lanes.get(id)?.siteId,
      places,
      forecastAt: (siteId) => forecasts.get(siteId) ?? null,
      past: Object.fromEntries(balance.map((one) => [one.personId, one.minutes])),
    }),
    knownTo,
  }
}
