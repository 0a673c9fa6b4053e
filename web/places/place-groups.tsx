import { groundOf, type LaneTime, type Span } from '@marmot/core/availability'
import { type Counted, countedSpans, countUnits, isCounted, isFree } from '@marmot/core/reservations'
import {
  DAY,
  type Instant,
  MINUTE,
  offsetAt,
  offsetInWords,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import { ChevronDown } from 'lucide-react'
import type { Axis } from '../lanes/axis.ts'
import type { BoardGroup, BoardRow } from '../lanes/types.ts'
import type { PlaceLane } from '../resources/resources.ts'
import { standsDuring, stateAt } from './place-state.ts'

/** The name of a place with how it stands, next to its lane; pressed, it tells all about it. */
const Label = ({
  place,
  state,
  chosen,
  onOpen,
}: {
  place: PlaceLane
  state: string
  /** True where it is being reserved. */
  chosen: boolean
  onOpen: () => void
}) => (
  <button
    type="button"
    onClick={onOpen}
    className={`block w-full rounded text-left leading-[1.15] hover:bg-shade md:text-right ${chosen ? 'border-gentian border-l-4 pl-1.5' : ''}`}
  >
    <span className="flex items-baseline gap-1.5 md:justify-end">
      <span className="truncate font-semibold text-[14px]">{place.name}</span>
      {place.seats > 1 && <span className="whitespace-nowrap text-soft text-xs">{place.seats} seats</span>}
    </span>
    <span className="block truncate text-[12.5px] text-soft">{state}</span>
  </button>
)

interface Given {
  readonly sites: readonly { readonly id: string; readonly name: string; readonly zone: string }[]
  readonly axis: Axis
  readonly zone: ZoneTable
  readonly now: Instant
  readonly chosen: Span | null
  /** The places that are being reserved. */
  readonly reserving: readonly string[]
  /** What is drawn on each place's lane. */
  readonly drawn: ReadonlyMap<string, LaneTime>
  readonly onOpen: (placeId: string) => void
  /** Counted things of which the units are shown, by their keys. */
  readonly opened: ReadonlySet<string>
  readonly onTurn: (key: string) => void
}

const NO_TIME: LaneTime = { zone: 'UTC', known: false, hours: [], spans: [], outside: 'closed' }

/** Only what is no matter of course is said: that a place is free then, its lane shows. */
const stateOf = (place: PlaceLane, { axis, now, chosen }: Given): string =>
  chosen
    ? standsDuring(place, chosen)
    : now > axis.from && now < axis.to
      ? `now ${stateAt(place, now).words}`
      : ''

const rowOf = (place: PlaceLane, site: string, given: Given): BoardRow => ({
  id: place.id,
  name: `${place.name}, ${site}`,
  time: given.drawn.get(place.id) ?? place.time,
  axis: given.axis,
  label: (
    <Label
      place={place}
      state={stateOf(place, given)}
      chosen={given.reserving.includes(place.id)}
      onOpen={() => given.onOpen(place.id)}
    />
  ),
})

/** Several units of one thing as one lane, with how many of them are free; opened, each has its own beneath. */
const countedRow = ({ key, name, units }: Counted<PlaceLane>, site: string, given: Given): BoardRow => {
  const { axis, now, chosen } = given
  const at = chosen ?? (now > axis.from && now < axis.to ? { start: now, end: now + MINUTE } : null)
  const free = at && units.filter((unit) => isFree(unit, at)).length
  const words = free === null ? '' : `${chosen ? '' : 'now '}${free} of ${units.length} free`
  const open = given.opened.has(key)
  const taken = units.filter((unit) => given.reserving.includes(unit.id)).length
  const [first] = units
  return {
    id: key,
    name: `${name}, ${units.length} of them, ${site}`,
    time: {
      ...(first?.time ?? NO_TIME),
      spans: countedSpans(units.map((unit) => unit.time.spans)),
    },
    axis,
    label: (
      <button
        type="button"
        aria-expanded={open}
        onClick={() => given.onTurn(key)}
        className={`block w-full rounded text-left leading-[1.15] hover:bg-shade md:text-right ${taken ? 'border-gentian border-l-4 pl-1.5' : ''}`}
      >
        <span className="flex items-baseline gap-1.5 md:justify-end">
          <span className="truncate font-semibold text-[14px]">{name}</span>
          <span className="whitespace-nowrap text-soft text-xs">
            {taken ? `${taken} of ${units.length}` : units.length}
          </span>
          <ChevronDown size={13} aria-hidden className={`self-center ${open ? 'rotate-180' : ''}`} />
        </span>
        <span className="block truncate text-[12.5px] text-soft">{words}</span>
      </button>
    ),
  }
}

/** Whether a place is closed all along, and nobody has it. */
const isShut = (time: LaneTime, table: ZoneTable, axis: Axis): boolean =>
  time.known &&
  !time.spans.some((span) => span.end > axis.from && span.start < axis.to) &&
  groundOf(time, table, axis.from, axis.to).every((part) => part.state === 'closed')

const axisDays = (axis: Axis): string => (axis.to - axis.from > 2 * DAY ? 'these days' : 'this day')

/** A lane for each place, site by site. */
export const placeGroups = (places: readonly PlaceLane[], given: Given): BoardGroup[] => {
  const { axis, chosen } = given
  return given.sites.flatMap((site): BoardGroup[] => {
    const inside = places.filter((place) => place.siteId === site.id)
    if (inside.length === 0) return []
    const table = zoneTable(site.zone)
    // A site where nothing can be had all along is one line; what is reserved there all the same is shown.
    const shut =
      !chosen && inside.every((place) => isShut(given.drawn.get(place.id) ?? place.time, table, axis))
    return [
      {
        id: site.id,
        zone: table,
        axis,
        title: (
          <>
            <b>{site.name}</b>{' '}
            <span className="text-soft">{offsetInWords(offsetAt(table, chosen?.start ?? axis.from))}</span>
          </>
        ),
        ...(shut ? { ruler: <span className="text-[13px] text-soft">closed on {axisDays(axis)}</span> } : {}),
        rows: shut
          ? []
          : countUnits(inside).flatMap((one) =>
              isCounted(one)
                ? [
                    countedRow(one, site.name, given),
                    ...(given.opened.has(one.key)
                      ? one.units.map((unit) => rowOf(unit, site.name, given))
                      : []),
                  ]
                : [rowOf(one, site.name, given)],
            ),
      },
    ]
  })
}

/** The place that a lane is of: of counted things the first unit that is free then and not taken already. */
export const unitAt = (
  places: readonly PlaceLane[],
  rowId: string,
  span: Span,
  taken: readonly string[],
): string => {
  const counted = countUnits(places).find((one) => isCounted(one) && one.key === rowId)
  if (!counted || !isCounted(counted)) return rowId
  const others = counted.units.filter((unit) => !taken.includes(unit.id))
  return (others.find((unit) => isFree(unit, span)) ?? others[0] ?? counted.units[0])?.id ?? rowId
}
