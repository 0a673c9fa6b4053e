import type { LaneTime } from '@marmot/core/availability'
import {
  clocksInWords,
  DAY,
  dayOf,
  instantOf,
  MINUTE,
  offsetAt,
  offsetInWords,
  shortDay,
  toWall,
  wallOf,
  weekStart,
  zoneTable,
} from '@marmot/core/time'
import { type ReactNode, Suspense, useMemo, useState } from 'react'
import { Link, useParams } from 'react-router'
import { ownLane, ownSpan, useEntries } from '../entries/entries.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { inLens } from '../lanes/lens.ts'
import { Ribbon } from '../lanes/ribbon.tsx'
import { laneHeight, useRoom } from '../lanes/room.ts'
import { takenFill } from '../lanes/taken.ts'
import { useLens } from '../lanes/use-lens.ts'
import { useAddressed } from '../platform/addressed.ts'
import { useKeys } from '../platform/keys.tsx'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { type PlaceLane, usePlaces } from '../resources/resources.ts'
import { dayRows, hoursShown } from '../time/day-rows.tsx'
import { lensFor } from '../time/view.ts'
import { Button, Choice, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { AboutPlace } from './about-place.tsx'
import { Closures } from './closures.tsx'
import { FollowPlace } from './follow-place.tsx'
import { featureWords, MORNING, nextStart, stateFrom } from './place-state.ts'

const ReserveSheet = part(() => import('../reservations/reserve-sheet.tsx').then((m) => m.ReserveSheet))

const VIEWS = [
  { id: 'day', name: 'Day', key: 'd' },
  { id: 'week', name: 'Week', key: 'w' },
  { id: 'four', name: '4 weeks', key: 'm' },
] as const
const LONGEST_LENS = 42
const MOST_LANE = 76
const LEAST_LANE = 16
const STEP = 15
const MINUTES = 60
const ASKED = ['view', 'beside'] as const

/** What is reserved of a place, as a list. */
const Reserved = ({ place, from, to }: { place: PlaceLane; from: number; to: number }) => {
  const { zone } = useMe()
  const taken = place.reservations.filter((one) => Date.parse(one.end) > from && Date.parse(one.start) < to)
  if (taken.length === 0) return <Empty>Nothing is reserved in these days.</Empty>
  return (
    <ul className="max-w-3xl">
      {taken.map((one) => {
        const [start, end] = [Date.parse(one.start), Date.parse(one.end)]
        return (
          <li key={one.id} className="grid grid-cols-[7em_8em_1fr] gap-3 border-line border-t py-1.5">
            <span>{shortDay(dayOf(toWall(zone, start)))}</span>
            <span className="tabular-nums">{clocksInWords(start, end, zone)}</span>
            <span>
              {one.title ? `${one.title} ` : ''}
              <span className="text-soft">
                {one.by}
                {one.requested ? ', to be approved' : one.state === 'held' ? ', held' : ''}
              </span>
            </span>
          </li>
        )
      })}
    </ul>
  )
}

/** My own time, to be laid beside that of a place. */
const useMine = (from: number, to: number, wanted: boolean) => {
  const { person } = useMe()
  const entries = useEntries(from, to)
  return useMemo(() => {
    if (!wanted || !entries.data) return []
    const time: LaneTime = ownLane(person.zone, entries.data, entries.data.occurrences.flatMap(ownSpan))
    const me = { id: person.id, kind: 'person' as const, tone: 0, shown: true }
    return [{ ...me, name: 'My time', about: '', colour: 'var(--color-gentian)', time }]
  }, [entries.data, person.zone, person.id, wanted])
}

/** What there is to know of a place, at the side of its days. */
const Side = ({ place, children }: { place: PlaceLane; children: ReactNode }) => (
  <aside
    aria-label={`About ${place.name}`}
    className="flex shrink-0 flex-col gap-3 overflow-y-auto border-line bg-paper px-4 py-3 max-md:border-t md:w-[340px] md:border-l"
  >
    <AboutPlace resource={place.resource} />
    <Closures resource={place.resource} />
    {children}
  </aside>
)

/** The days of a place as lanes, zoomed by the lens, with all that there is to know of it. */
const Days = ({ place, view }: { place: PlaceLane; view: ReturnType<typeof useLens> }) => {
  const { zone, display } = useMe()
  const { values, put } = useAddressed(ASKED)
  const { lens, today, look, from, to, now } = view
  const list = values.view === 'list'
  const beside = Boolean(values.beside)
  const mine = useMine(from, to, beside)
  const [reserving, setReserving] = useState<{
    readonly span: { readonly start: number; readonly end: number; readonly rowId: string | null }
    readonly placeIds: readonly string[]
  } | null>(null)
  // What else may be taken with it, around that time: not in all weeks that the ribbon has.
  const around = Math.floor((reserving?.span.start ?? now) / DAY) * DAY
  const until = Math.ceil((reserving?.span.end ?? now) / DAY) * DAY
  const all = usePlaces(around - DAY, until + DAY, { enabled: reserving !== null })
  const { ref, room } = useRoom(60)
  const inSight = useMemo(
    () => ({
      start: instantOf(zone, wallOf(lens.first)),
      end: instantOf(zone, wallOf(lens.first + lens.days)),
    }),
    [zone, lens],
  )
  const theirs = zoneTable(place.time.zone)
  const shown = useMemo(
    () =>
      hoursShown(
        place.time.spans.filter((span) => span.end > inSight.start && span.start < inSight.end),
        display,
        zone,
      ),
    [place.time.spans, inSight, display, zone],
  )
  const rows = useMemo(
    () => dayRows({ lens, zone, today, lane: place.time, shown, layers: mine, over: false }),
    [lens, zone, today, place.time, shown, mine],
  )
  const show = (id: (typeof VIEWS)[number]['id']) => {
    put({ view: null })
    const middle = inLens(lens, today) ? today : lens.first
    look(lensFor(id, middle, display.firstWeekday, []))
  }
  useKeys([
    ...VIEWS.map((one) => ({
      keys: one.key,
      does: `Show ${one.name.toLowerCase()}`,
      on: one.key,
      run: () => show(one.id),
    })),
    { keys: 'l', does: 'Show the list', on: 'l', run: () => put({ view: list ? null : 'list' }) },
  ])
  const height =
    lens.days > 14
      ? Math.max(LEAST_LANE, laneHeight(room, lens.days * (beside ? 2 : 1), 1, MOST_LANE, LEAST_LANE))
      : laneHeight(room, lens.days * (beside ? 2 : 1), 1, MOST_LANE)
  const axis = rows[0]?.axis ?? wallAxis(zone, today, 0, 1440)
  const away = offsetAt(theirs, axis.from) !== offsetAt(zone, axis.from)
  return (
    <div className="flex min-h-0 flex-1 max-md:flex-col max-md:overflow-y-auto">
      <div ref={ref} className="min-h-0 min-w-0 flex-1 overflow-y-auto overflow-x-hidden max-md:flex-none">
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4.5 py-1.5 max-md:px-2.5">
          <h1 className="font-semibold text-[20px]">{place.name}</h1>
          <span className="text-soft text-sm">
            {[featureWords(place), place.resource.site, `${stateFrom(place, now, zone)} now`]
              .filter(Boolean)
              .join(', ')}
          </span>
          <span className="flex-1" />
          <fieldset aria-label="What is shown" className="flex">
            {[...VIEWS, { id: 'list' as const, name: 'List', key: 'l' }].map((one) => (
              <button
                key={one.id}
                type="button"
                title={`Key: ${one.key}`}
                aria-pressed={
                  one.id === 'list'
                    ? list
                    : !list && lensFor(one.id, lens.first, display.firstWeekday, []).days === lens.days
                }
                onClick={() => (one.id === 'list' ? put({ view: 'list' }) : show(one.id))}
                className="whitespace-nowrap border border-soft/50 border-r-0 px-2 py-0.5 text-sm first:rounded-l-md last:rounded-r-md last:border-r aria-pressed:bg-ink aria-pressed:text-ground max-md:min-h-thumb"
              >
                {one.name}
              </button>
            ))}
          </fieldset>
          <Choice checked={beside} onChoose={(next) => put({ beside: next ? '1' : null })}>
            my time beside it
          </Choice>
        </div>
        {list ? (
          <div className="px-4.5 pb-4 max-md:px-2.5">
            {away && (
              <p className="pb-1.5 text-soft text-sm">Hours are yours, not those of {place.resource.site}.</p>
            )}
            <Reserved place={place} from={inSight.start} to={inSight.end} />
          </div>
        ) : (
          <div style={{ '--lane': `${height}px` }}>
            <Board
              label={`Days of ${place.name}`}
              groups={[
                {
                  id: place.id,
                  zone,
                  axis,
                  title: (
                    <span className="text-soft">
                      {zone.zone.split('/').at(-1)?.replace(/_/g, ' ')}{' '}
                      {offsetInWords(offsetAt(zone, axis.from))}
                    </span>
                  ),
                  rows,
                  ...(away
                    ? {
                        alsoZones: [
                          {
                            zone: theirs,
                            title: (
                              <span className="text-soft">
                                {place.resource.site} {offsetInWords(offsetAt(theirs, axis.from))}
                              </span>
                            ),
                          },
                        ],
                      }
                    : {}),
                },
              ]}
              home={zone}
              now={now}
              step={STEP}
              minutes={MINUTES}
              across="row"
              chosen={reserving?.span ?? null}
              days={false}
              onChoose={() => undefined}
              {...(place.resource.mayNot === null
                ? { onTake: (span) => setReserving({ span, placeIds: [place.id] }) }
                : {})}
              dense={lens.days > 14}
            />
          </div>
        )}
      </div>
      {reserving ? (
        <Suspense>
          <ReserveSheet
            reserved={reserving}
            onReserved={({ span, placeIds }) => setReserving({ span: { ...span, rowId: null }, placeIds })}
            places={all.places.length > 0 ? all.places : [place]}
            onClose={() => setReserving(null)}
          />
        </Suspense>
      ) : (
        <Side place={place}>
          {place.resource.mayNot === null && (
            <Button
              tone="primary"
              className="self-start"
              onClick={() => {
                const start = nextStart(now, instantOf(zone, wallOf(lens.first, MORNING)))
                setReserving({
                  span: { start, end: start + MINUTES * MINUTE, rowId: null },
                  placeIds: [place.id],
                })
              }}
            >
              Reserve…
            </Button>
          )}
          <FollowPlace placeId={place.id} name={place.name} />
        </Side>
      )}
    </div>
  )
}

/** All about one place: what it is, its rules, who looks after it, and its days, to be looked through and reserved. */
export const PlacePage = () => {
  const { placeId = '' } = useParams()
  const { display } = useMe()
  const view = useLens(
    (today) => lensFor('week', today, display.firstWeekday, []),
    LONGEST_LENS,
    (lens, today) =>
      lens.days === 1
        ? { first: today, days: 1 }
        : { ...lens, first: weekStart(today, display.firstWeekday) },
  )
  const of = useMemo(() => ({ sites: [], kinds: [], places: [placeId] }), [placeId])
  const { places, resources, pending, error } = usePlaces(view.from, view.to, { of })
  const place = places.find((one) => one.id === placeId)
  const fill = useMemo(
    () =>
      place
        ? takenFill(place.time, view.zone.zone, view.ribbonFirst, view.ribbonDays)
        : new Float32Array(view.ribbonDays),
    [place, view.zone, view.ribbonFirst, view.ribbonDays],
  )
  return (
    <>
      <Ribbon view={view} fill={fill} meaning="taken" />
      {place ? (
        <Days key={place.id} place={place} view={view} />
      ) : (
        <div className="px-4.5 py-4">
          {error ? (
            <Trouble>{problemWords(error)}</Trouble>
          ) : pending || resources.some((one) => one.id === placeId) ? (
            <Loading what="the place" />
          ) : (
            <>
              <Empty>There is no such place, or it is not in use any more.</Empty>
              <Link to="/places" className="text-gentian underline">
                All places
              </Link>
            </>
          )}
        </div>
      )}
    </>
  )
}
