import type { Exchange } from '@marmot/contract/asked'
import { type Brief, emptyBrief } from '@marmot/contract/briefs'
import type { Span } from '@marmot/core/availability'
import { textOfNote } from '@marmot/core/entries'
import { type Findable, findPlaces } from '@marmot/core/reservations'
import { dayOf, toWall, type ZoneTable } from '@marmot/core/time'

/** In more places than this nobody has to look for room. */
const MOST = 20

/** What of a meeting that is being arranged says which place is missing. */
interface Placed {
  readonly chosen: Span | null
  readonly judged: { readonly places: { readonly lacking: number } | null } | null
  readonly placeReasons: readonly {
    readonly place: { readonly id: string; readonly siteId: string }
    readonly free: boolean
  }[]
  readonly placesById: ReadonlyMap<string, { readonly resource: Findable }>
  readonly roomsAt: (span: Span) => readonly unknown[]
  /** How many of those who come are at a site. */
  readonly seats: (siteId: string) => number
  readonly me: { readonly siteId: string }
}

/**
 * Places that are free, those first that are the first of a site where nothing is taken along yet: people in several cities
 * need a room in each of them.
 */
export const siteBySite = <T extends { readonly siteId: string }>(
  free: readonly T[],
  taken: readonly { readonly siteId: string }[],
): T[] => {
  const had = new Set(taken.map((place) => place.siteId))
  const first = free.filter((place) => {
    if (had.has(place.siteId)) return false
    had.add(place.siteId)
    return true
  })
  return [...first, ...free.filter((place) => !first.includes(place))]
}

/** Places of which any one would do at the chosen time, if somebody made room in it. */
export interface Lacking {
  readonly placeIds: readonly string[]
  readonly seats: number
}

/**
 * The one place that is missing at the chosen time: a particular one that is taken, else one that is needed and cannot be matched,
 * else a room for all who are at my site. Null where none or more than one is missing: others are asked for one place at a time.
 */
export const lackingIn = (
  arranging: Placed,
  { needs, places }: Pick<Brief, 'needs' | 'places'>,
): Lacking | null => {
  const { chosen, judged, placeReasons, placesById, roomsAt, seats, me } = arranging
  if (!chosen) return null
  const lost = placeReasons.filter((reason) => !reason.free)
  if (lost.length > 0) {
    const [only] = lost
    return only && lost.length === 1 ? { placeIds: [only.place.id], seats: seats(only.place.siteId) } : null
  }
  const [need] = needs
  const siteId = need?.siteId ?? me.siteId
  const many = need?.seats ?? seats(siteId)
  if (
    need
      ? needs.length > 1 || need.count > 1 || judged?.places?.lacking !== 1
      : places.length > 0 || roomsAt(chosen).length > 0
  )
    return null
  const wish = {
    words: [],
    kind: need?.kind ?? 'room',
    siteId,
    floor: null,
    seats: many,
    features: need?.features ?? {},
  }
  const fitting = findPlaces(
    [...placesById.values()].map((place) => place.resource),
    wish,
    null,
    me.siteId,
  ).places
  return fitting.length > 0
    ? { placeIds: fitting.slice(0, MOST).map((place) => place.id), seats: many }
    : null
}

/** What was to be sent once there was room, in hand again. */
export const briefOfWish = (
  wish: NonNullable<Exchange['wish']>,
  start: number,
  { now, zone, me }: { readonly now: number; readonly zone: ZoneTable; readonly me: string },
): Brief => {
  const today = dayOf(toWall(zone, now))
  const fresh = emptyBrief(today, wish.of ?? me)
  return {
    ...fresh,
    title: wish.title,
    note: textOfNote(wish.note),
    agenda: wish.agenda
      .map(({ title, who, minutes }) =>
        [title, who, minutes === null ? '' : `${minutes} min`].filter(Boolean).join(', '),
      )
      .join('\n'),
    minutes: wish.minutes,
    people: [...fresh.people, ...wish.people.map((one) => ({ ...one, group: null }))],
    guests: wish.guests,
    toDay: Math.max(fresh.toDay, dayOf(toWall(zone, start)) + 1),
    places: wish.places,
    start,
  }
}
