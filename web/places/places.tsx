import type { BusySpan } from '@marmot/core/availability'
import {
  dayOf,
  instantOf,
  MINUTE,
  minutesBetween,
  spanInWords,
  toWall,
  wallOf,
  wallText,
} from '@marmot/core/time'
import { type ReactNode, Suspense, useMemo, useRef } from 'react'
import { useSearchParams } from 'react-router'
import { instantAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { inLens } from '../lanes/lens.ts'
import { daysInWords, Ribbon } from '../lanes/ribbon.tsx'
import type { Chosen } from '../lanes/types.ts'
import { useLens } from '../lanes/use-lens.ts'
import { useBrief } from '../openings/brief.tsx'
import { useKeys } from '../platform/keys.tsx'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Loading, Trouble } from '../ui/parts.tsx'
import { FinderBar, NothingFits } from './finder-bar.tsx'
import { placeGroups } from './place-groups.tsx'
import { floorsOf } from './place-state.ts'
import { useFound } from './use-found.ts'
import { useMoving } from './use-moving.ts'
import { useFill, useShown } from './use-shown.ts'
import { useOpened, useTaking } from './use-taking.ts'
import { useWish } from './use-wish.ts'

const ReserveSheet = part(() => import('../reservations/reserve-sheet.tsx').then((m) => m.ReserveSheet))
const MakeRoom = part(() => import('../exchanges/make-room.tsx').then((m) => m.MakeRoom))
const PlaceAside = part(() => import('./place-aside.tsx').then((m) => m.PlaceAside))
const ChangeSheet = part(() => import('../meetings/change-sheet.tsx').then((m) => m.ChangeSheet))

const LONGEST_LENS = 7
const MINUTES = 60
const NONE: readonly string[] = []

/** What is free, where, for how long? A lane for each place, by site; drawn on, a place is reserved. */
export const Places = ({ views }: { views: ReactNode }) => {
  const { zone, session, person } = useMe()
  const now = useNow()
  const { brief } = useBrief()
  const [address, setAddress] = useSearchParams()
  const view = useLens(
    (today) => ({ first: brief.start === null ? today : dayOf(toWall(zone, brief.start)), days: 1 }),
    LONGEST_LENS,
    (shownDays, today) => ({ ...shownDays, first: today }),
  )
  const { lens } = view
  const asked = address.get('place')
  const about = (placeId: string | null) =>
    setAddress(
      (before) => {
        const after = new URLSearchParams(before)
        if (placeId) after.set('place', placeId)
        else after.delete('place')
        return after
      },
      { replace: true },
    )
  const taking = useTaking(about)
  const { chosen, choose, reserving } = taking
  const { places, pending, error } = useShown(view, chosen)
  const features = useMemo(
    () => [...new Set(places.flatMap((place) => Object.keys(place.resource.features)))].sort(),
    [places],
  )
  const wished = useWish(features)
  const { wish } = wished
  const search = useRef<HTMLInputElement>(null)
  const moving = useMoving(places)
  const { opened, turn } = useOpened()
  const axis = useMemo(
    () => instantAxis(instantOf(zone, wallOf(lens.first)), instantOf(zone, wallOf(lens.first + lens.days))),
    [zone, lens.first, lens.days],
  )
  const found = useFound(places, wished, chosen)
  const fill = useFill(view, wish.kind)
  const sites = useMemo(
    () =>
      [...session.sites].sort(
        (a, b) =>
          Number(b.id === person.siteId) - Number(a.id === person.siteId) || a.name.localeCompare(b.name),
      ),
    [session.sites, person.siteId],
  )
  const floors = useMemo(() => floorsOf(places, wish), [places, wish])
  const groups = placeGroups(found.shown, {
    sites,
    axis,
    zone,
    now,
    chosen,
    reserving: reserving ?? NONE,
    drawn: moving.drawn,
    onOpen: about,
    opened,
    onTurn: turn,
  })
  /** A time was drawn or pressed on a lane, or a reservation of mine was let go elsewhere. */
  const take = (next: Chosen, moved: BusySpan | null) => {
    if (!moved) taking.take(next, places)
    else if (next.rowId !== null) {
      choose(null)
      moving.move(moved, next, next.rowId)
    }
  }
  useKeys([
    { keys: '/', does: 'Find a place', on: '/', run: () => search.current?.focus() },
    { keys: '← →', does: 'Move the chosen time' },
    { keys: 'Shift ← →', does: 'Move its end' },
    { keys: 'Enter', does: 'Reserve the place at the chosen time, or open what stands there' },
    { keys: 'Escape', does: 'Choose no time' },
  ])
  const place = reserving ? undefined : places.find((each) => each.id === asked)
  return (
    <>
      <h1 className="sr-only">Places and equipment</h1>
      <p className="on-paper">
        <b>Places</b>, {daysInWords(view.lens)}
      </p>
      <Ribbon view={view} fill={fill} meaning="taken" />
      <FinderBar
        wished={wished}
        floors={floors}
        sites={sites}
        free={chosen ? 'free at the chosen time' : 'free now'}
        field={search}
        views={views}
      />
      {chosen && !reserving && (
        <p className="px-4.5 pb-1 text-sm max-md:px-2.5">
          <b>{spanInWords(chosen.start, chosen.end, zone, now)}</b>{' '}
          <button type="button" className="rounded px-1 underline" onClick={() => choose(null)}>
            clear
          </button>
        </p>
      )}
      <div className="flex min-h-0 flex-1">
        <div data-testid="lanes" className="min-h-0 min-w-0 flex-1 overflow-y-auto overflow-x-hidden pb-4">
          {error ? (
            <div className="px-4">
              <Trouble>{problemWords(error)}</Trouble>
            </div>
          ) : pending ? (
            <div className="px-4">
              <Loading what="the places" />
            </div>
          ) : groups.length === 0 ? (
            <NothingFits
              instead={found.instead}
              wished={wished}
              room={
                chosen &&
                found.taken.length > 0 && (
                  <Suspense>
                    <MakeRoom
                      key={`${chosen.start} ${chosen.end} ${found.taken.join()}`}
                      wish={{
                        title: '',
                        starts: wallText(toWall(zone, chosen.start)),
                        minutes: minutesBetween(chosen.start, chosen.end),
                        zone: zone.zone,
                        people: [],
                        guests: [],
                        places: found.taken.slice(0, 1),
                        headCount: wish.seats || null,
                        shows: 'listed',
                      }}
                      placeIds={found.taken}
                      onAsked={() => choose(null)}
                    />
                  </Suspense>
                )
              }
            />
          ) : (
            <div style={{ '--lane': '32px' }}>
              <Board
                label="Places"
                groups={groups}
                home={zone}
                now={now}
                step={15}
                minutes={chosen ? Math.round((chosen.end - chosen.start) / MINUTE) : MINUTES}
                across="all"
                draws
                chosen={chosen}
                days={lens.days > 1}
                onChoose={choose}
                onTake={take}
                mayMove={moving.mayMove}
                onOpen={(span, row) => (moving.open(span) ? undefined : about(row.id))}
              />
            </div>
          )}
        </div>
        {reserving && chosen && (
          <Suspense>
            <ReserveSheet
              reserved={{ span: chosen, placeIds: reserving }}
              onReserved={({ span, placeIds }) => {
                taking.put(span, placeIds)
                const day = dayOf(toWall(zone, span.start))
                if (!inLens(lens, day)) view.look({ ...lens, first: day })
              }}
              places={places}
              onClose={taking.close}
            />
          </Suspense>
        )}
        {place && (
          <Suspense>
            <PlaceAside
              key={place.id}
              place={place}
              day={lens}
              chosen={chosen}
              onReserve={(span) => take({ ...span, rowId: place.id }, null)}
              onClose={() => about(null)}
            />
          </Suspense>
        )}
      </div>
      {moving.changing && (
        <Suspense>
          <ChangeSheet {...moving.changing} onClose={moving.end} />
        </Suspense>
      )}
    </>
  )
}
