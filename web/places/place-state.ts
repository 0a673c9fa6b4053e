import { type BusySpan, during, duringInWords, type LaneTime, type Span } from '@marmot/core/availability'
import { featureInWords, type Wish } from '@marmot/core/reservations'
import {
  clockText,
  HOUR,
  type Instant,
  MINUTE,
  minuteOf,
  offsetAt,
  toWall,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import type { PlaceLane } from '../resources/resources.ts'

/** How a place stands at a moment: "free until 14:00", "taken until 15:30", "closed"; by the clock of its site, as its lane is. */
export const stateAt = (place: PlaceLane, at: Instant): { words: string; free: boolean } => {
  const table = zoneTable(place.time.zone)
  const how = during(place.time, table, { start: at, end: at + MINUTE })
  if (how.state !== 'free') return { words: duringInWords(how, table).replace('busy', 'taken'), free: false }
  const next = place.time.spans
    .filter((span) => span.start > at)
    .reduce((least, span) => Math.min(least, span.start), Number.POSITIVE_INFINITY)
  if (next - at > 12 * HOUR) return { words: 'free', free: true }
  return { words: `free until ${clockText(minuteOf(toWall(table, next)))}`, free: true }
}

/** The same for a screen that goes by the clock of `home`: a time is said to be there, where it is another here. */
export const stateFrom = (place: PlaceLane, at: Instant, home: ZoneTable): string => {
  const { words } = stateAt(place, at)
  const away = offsetAt(zoneTable(place.time.zone), at) !== offsetAt(home, at)
  return away && /\d:\d\d/.test(words) ? `${words} there` : words
}

/** "8 seats, 2 screens, camera, floor 2". */
export const featureWords = (place: PlaceLane): string => {
  const features = Object.entries(place.resource.features).map(([name, count]) => featureInWords(name, count))
  return [
    place.seats > 1 ? `${place.seats} seats` : '',
    ...features,
    place.resource.floor ? `floor ${place.resource.floor}` : '',
  ]
    .filter(Boolean)
    .join(', ')
}

/** What is reserved of a place, each as it was reserved and known by its id; what is kept free after it by itself. */
export const drawnTime = (place: PlaceLane): LaneTime => ({
  ...place.time,
  spans: place.reservations.flatMap((one): BusySpan[] => {
    const [start, end] = [Date.parse(one.start), Date.parse(one.end)]
    const own = { start, end, state: one.state, title: one.title ?? one.by, entryId: one.id }
    const { before, after } = place.resource.rules
    return [
      ...(before
        ? [{ start: start - before * MINUTE, end: start, state: 'tentative' as const, title: 'kept free' }]
        : []),
      own,
      ...(after
        ? [{ start: end, end: end + after * MINUTE, state: 'tentative' as const, title: 'kept free' }]
        : []),
    ]
  }),
})

/** How a place stands during a chosen time, where it is not free then; by the clock of its site. */
export const standsDuring = (place: PlaceLane, chosen: Span): string => {
  const table = zoneTable(place.time.zone)
  const how = during(place.time, table, chosen)
  return how.state === 'free' ? '' : duringInWords(how, table).replace('busy', 'taken')
}

/** The floors on which there is something of the kind and on the site that are looked for. */
export const floorsOf = (places: readonly PlaceLane[], wish: Pick<Wish, 'kind' | 'siteId'>): string[] =>
  [
    ...new Set(
      places.flatMap(({ kind, siteId, resource: { floor } }) =>
        (wish.kind === null || kind === wish.kind) &&
        (wish.siteId === null || siteId === wish.siteId) &&
        floor
          ? floor
          : [],
      ),
    ),
  ].sort()

/** The address of a place's picture; `mark` is what names it. */
export const pictureOf = (placeId: string, mark: string): string =>
  `/api/resources/${placeId}/picture?of=${mark}`

const QUARTER = 15 * MINUTE
/** When something begins on a day that is not today, where nobody said: in minutes of the day. */
export const MORNING = 9 * 60

/** When something begins where nobody said: on the morning that is given, or at the next quarter of an hour where that is over. */
export const nextStart = (now: Instant, morning: Instant): Instant =>
  Math.max(Math.ceil(now / QUARTER) * QUARTER, morning)
