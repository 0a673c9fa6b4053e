import type { OccurrenceOnWire } from '@marmot/contract/entries'
import type { BusySpan } from '@marmot/core/availability'
import type { Scope } from '@marmot/core/entries'
import {
  dayOf,
  instantOf,
  offsetAt,
  offsetInWords,
  toWall,
  wallOf,
  weekStart,
  zoneTable,
} from '@marmot/core/time'
import { CalendarCog, Plus } from 'lucide-react'
import { lazy, Suspense, useCallback, useMemo, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { LayerBar } from '../availability/layer-bar.tsx'
import { useLayerSets, useLayers } from '../availability/layers.ts'
import { type OwnSpan, ownLane, ownSpan, useCategories, useEntries } from '../entries/entries.ts'
import { type Editing, EntrySheet } from '../entries/entry-sheet.tsx'
import { FilterButton, matches, useFilter } from '../entries/filter.tsx'
import { MoveQuestion } from '../entries/move-question.tsx'
import { QuickLine } from '../entries/quick-line.tsx'
import { useEntryWrites } from '../entries/writes.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { MONTHS_LENS } from '../lanes/lens.ts'
import { Ribbon } from '../lanes/ribbon.tsx'
import { laneHeight, useRoom } from '../lanes/room.ts'
import { takenFill } from '../lanes/taken.ts'
import type { Chosen } from '../lanes/types.ts'
import { useLens } from '../lanes/use-lens.ts'
import { WeekdayRuler } from '../lanes/weekday-ruler.tsx'
import { problemWords } from '../platform/api.ts'
import { useKeys } from '../platform/keys.tsx'
import { useMe } from '../platform/session.tsx'
import { useSharing } from '../sharing/sharing.ts'
import { Button, flower, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { dayRows, hoursShown, weekRows } from './day-rows.tsx'
import { lensFor, VIEWS, type ViewId, viewOf, YEAR_DAYS } from './view.ts'

const EntryList = lazy(() => import('../entries/entry-list.tsx').then((m) => ({ default: m.EntryList })))
const Preferences = lazy(() =>
  import('../settings/preferences.tsx').then((m) => ({ default: m.Preferences })),
)

const STEP = 15
const NEW_MINUTES = 30
const MOST_LANE = 76
const LEAST_DENSE_LANE = 16
const YEAR_LANE = 24

const isOwn = (span: BusySpan): span is OwnSpan => 'occurrence' in span

/** Whose time is shown: mine, or that of somebody whom I may change entries for. */
const Whose = ({ of, onChange }: { of: string | undefined; onChange: (of: string | undefined) => void }) => {
  const sharing = useSharing()
  const owners = (sharing.data?.toMe ?? []).filter((each) => each.does !== 'look')
  if (owners.length === 0) return null
  return (
    <select
      aria-label="Whose time"
      value={of ?? ''}
      onChange={(event) => {
        onChange(event.target.value || undefined)
        // The keys of the screen are for the days again.
        event.target.blur()
      }}
      className={`min-w-0 rounded-md border px-2 py-1 max-md:flex-1 ${of ? 'border-gentian bg-gentian text-gentian-ink' : 'border-soft/50 bg-paper'}`}
    >
      <option value="">My own time</option>
      {owners.map((owner) => (
        <option key={owner.ownerId} value={owner.ownerId}>
          {owner.owner}
          {owner.does === 'stand-in' ? ', as stand-in' : ', whom I help'}
        </option>
      ))}
    </select>
  )
}

/** How do my days look? A lane for each day; drag on empty time to make an entry, drag an entry to move it. */
export const MyTime = () => {
  const { zone, person, display } = useMe()
  const [search, setSearch] = useSearchParams()
  const of = search.get('of') ?? undefined
  const list = search.get('view') === 'list'
  const over = search.get('layers') === 'over'
  const setParam = (name: string, value: string | undefined) =>
    setSearch((before) => {
      const next = new URLSearchParams(before)
      if (value) next.set(name, value)
      else next.delete(name)
      return next
    })
  const asked = VIEWS.find((each) => each.id === search.get('view'))?.id ?? 'week'
  const view = useLens(
    (day) => lensFor(asked, day, display.firstWeekday, []),
    YEAR_DAYS,
    (lens, day) =>
      lens.days === 1
        ? { first: day, days: 1 }
        : { ...lens, first: weekStart(day, display.firstWeekday) - (lens.days > MONTHS_LENS ? 28 : 0) },
  )
  const { now, today, lens, look, ribbonFirst, ribbonDays, from, to } = view
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [editing, setEditing] = useState<Editing | null>(null)
  const [asking, setAsking] = useState<{ moved: OwnSpan; start: number; end: number } | null>(null)
  const [holding, setHolding] = useState<OwnSpan | null>(null)
  const [choosing, setChoosing] = useState(false)
  const line = useRef<HTMLInputElement>(null)
  const writes = useEntryWrites()
  const filter = useFilter()
  const categories = useCategories()
  const sets = useLayerSets()
  const { ref, room } = useRoom(104)
  const entries = useEntries(from, to, of)
  const layers = useLayers(sets.current?.layers, from, to)
  const spans = useMemo(() => (entries.data?.occurrences ?? []).flatMap(ownSpan), [entries.data])
  const hours = entries.data?.hours
  const lane = useMemo(() => ownLane(person.zone, hours, spans), [person.zone, hours, spans])
  const fill = useMemo(
    () => takenFill(lane, person.zone, ribbonFirst, ribbonDays),
    [lane, person.zone, ribbonFirst, ribbonDays],
  )
  const year = lens.days > MONTHS_LENS
  const inLens = useMemo(() => {
    const start = instantOf(zone, wallOf(lens.first))
    const end = instantOf(zone, wallOf(lens.first + lens.days))
    return { start, end }
  }, [zone, lens])
  const shown = useMemo(
    () =>
      hoursShown(
        year ? [] : spans.filter((span) => span.end > inLens.start && span.start < inLens.end),
        display,
        zone,
      ),
    [spans, inLens, display, zone, year],
  )
  const shownLayers = useMemo(() => layers.filter((layer) => layer.shown && layer.id !== of), [layers, of])
  const rows = useMemo(
    () => (year ? weekRows : dayRows)({ lens, zone, today, lane, shown, layers: shownLayers, over }),
    [year, lens, zone, today, lane, shown, shownLayers, over],
  )
  const axis = rows[0]?.axis ?? wallAxis(zone, today, 0, 1440)
  const mine = rows.filter((row) => !row.still).length

  const tones = useMemo(
    () => new Map(categories.data?.categories.map((each) => [each.id, flower(each.tone)])),
    [categories.data],
  )
  const edgeOf = useCallback(
    (span: BusySpan) => (isOwn(span) ? tones.get(span.occurrence.categoryId ?? '') : undefined),
    [tones],
  )
  const faint = useCallback(
    (span: BusySpan) => filter.active && isOwn(span) && !matches(filter.filter, span.occurrence),
    [filter.active, filter.filter],
  )
  const mayChange = entries.data?.mayChange ?? false
  const mayMove = useCallback(
    (span: BusySpan) =>
      mayChange &&
      !year &&
      isOwn(span) &&
      span.occurrence.own &&
      !span.occurrence.meeting &&
      !span.occurrence.hidden,
    [mayChange, year],
  )

  const openDate = (one: OccurrenceOnWire) => {
    setChosen(null)
    if (one.hidden) toast('A private entry: only its time is shown to you.')
    else if (one.meeting && !of)
      setSearch((before) => {
        const next = new URLSearchParams(before)
        next.set('meeting', one.entryId)
        next.set('date', one.recurrence)
        return next
      })
    else
      setEditing({
        start: Date.parse(one.start),
        end: Date.parse(one.end),
        date: { entryId: one.entryId, recurrence: one.recurrence },
      })
  }
  const open = (span: BusySpan) => {
    if (isOwn(span)) openDate(span.occurrence)
  }
  const move = async (moved: OwnSpan, start: number, end: number, scope: Scope) => {
    try {
      await writes.move(moved.occurrence, start, end, scope)
    } catch (error) {
      toast.error(problemWords(error))
      await writes.refresh()
    }
    setChosen(null)
  }
  const take = async (next: Chosen, moved: BusySpan | null) => {
    setHolding(null)
    if (!moved || !isOwn(moved)) {
      if (year) look({ first: dayOf(toWall(zone, next.start)), days: 1 })
      else if (mayChange) setEditing({ start: next.start, end: next.end, date: null })
      return
    }
    if (next.start === moved.start && next.end === moved.end) setChosen(null)
    else if (moved.occurrence.repeats) setAsking({ moved, start: next.start, end: next.end })
    else await move(moved, next.start, next.end, 'this')
  }
  const show = (start: number) => {
    const day = dayOf(toWall(zone, start))
    if (day < lens.first || day >= lens.first + lens.days)
      look({ ...lens, first: lens.days < 7 ? day : weekStart(day, display.firstWeekday) })
    return day
  }
  const step = (way: 1 | -1) => {
    // In order of start, then end, so that of two that begin together both are gone to.
    const after = (one: { start: number; end: number }) =>
      chosen ? (one.start - chosen.start || one.end - chosen.end) * way : (one.start - now) * way
    const [ahead] = spans
      .filter((span) => span.state !== 'listed' && after(span) > 0 && !faint(span))
      .sort((a, b) => (a.start - b.start || a.end - b.end) * way)
    if (!ahead) return
    const day = show(ahead.start)
    const rowId = year ? `week ${weekStart(day, display.firstWeekday)}` : String(day)
    setChosen({ start: ahead.start, end: ahead.end, rowId })
    requestAnimationFrame(() =>
      document.querySelector<HTMLElement>(`[data-row="${rowId}"] [role=gridcell]`)?.focus(),
    )
  }
  const atChosen = (): OwnSpan | undefined =>
    chosen
      ? spans.find((span) => span.start < chosen.end && span.end > chosen.start && mayMove(span))
      : undefined
  const takeUp = () => {
    const span = atChosen()
    if (!span) {
      toast('Choose an entry of yours first: n goes to the next.')
      return
    }
    setHolding(span)
    setChosen({ start: span.start, end: span.end, rowId: String(dayOf(toWall(zone, span.start))) })
    toast(`${span.title} is in hand: arrows move it, Shift and arrows stretch it, Enter puts it down.`)
  }
  const removeChosen = () => {
    const span = atChosen()
    if (!span) return
    if (span.occurrence.repeats) open(span)
    else
      writes.remove(span.occurrence, 'all').then(
        () => setChosen(null),
        (error) => toast.error(problemWords(error)),
      )
  }
  const newHere = (): Editing => {
    const start = chosen?.start ?? Math.ceil(now / (STEP * 60_000)) * STEP * 60_000
    return { start, end: chosen?.end ?? start + NEW_MINUTES * 60_000, date: null }
  }
  const put = (id: ViewId) => {
    if (list) setParam('view', undefined)
    const middle = today >= lens.first && today < lens.first + lens.days ? today : lens.first
    look(lensFor(id, middle, display.firstWeekday, hours ?? []))
  }
  useKeys([
    { keys: 'n', does: 'Next entry', on: 'n', run: () => step(1) },
    { keys: 'p', does: 'Previous entry', on: 'p', run: () => step(-1) },
    { keys: 'c', does: 'Make an entry', on: 'c', run: () => setEditing(newHere()) },
    { keys: 'a', does: 'Write an entry in one line', on: 'a', run: () => line.current?.focus() },
    { keys: 'v', does: 'Take up the chosen entry, to move it by arrows', on: 'v', run: takeUp },
    { keys: 'Delete', does: 'Delete the chosen entry', on: 'Delete', run: removeChosen },
    ...VIEWS.map((each) => ({
      keys: each.key,
      does: `Show ${each.name.toLowerCase()}`,
      on: each.key,
      run: () => put(each.id),
    })),
    { keys: 'l', does: 'Show the list', on: 'l', run: () => setParam('view', list ? undefined : 'list') },
    { keys: '← → ↑ ↓', does: 'Move the chosen time (in the lanes)' },
    { keys: 'Shift ← →', does: 'Move its end (in the lanes)' },
    { keys: 'Enter', does: 'Open the entry at the chosen time, or make one' },
  ])
  const active = list ? 'list' : viewOf(lens, display.firstWeekday, hours ?? [])
  const second = display.secondZone ? zoneTable(display.secondZone) : null
  const listed = useMemo(
    () =>
      (entries.data?.occurrences ?? []).filter(
        (one) =>
          Date.parse(one.end) > inLens.start &&
          Date.parse(one.start) < inLens.end &&
          matches(filter.filter, one) &&
          // What I declined is gone, unless I look for it.
          (one.state !== null || filter.filter.answer === one.answer),
      ),
    [entries.data, inLens, filter.filter],
  )
  const rulers = 1 + (second ? 1 : 0)
  const perDay = over || year ? 0 : shownLayers.length
  const height = year
    ? YEAR_LANE
    : lens.days > 14
      ? Math.max(LEAST_DENSE_LANE, laneHeight(room, lens.days, rulers, MOST_LANE, LEAST_DENSE_LANE))
      : laneHeight(room - mine * perDay * 20, mine, rulers, MOST_LANE)
  return (
    <>
      <h1 className="sr-only">My time</h1>
      <Ribbon view={view} fill={fill} meaning="taken" />
      {/* Scrolled as a layer of its own: painted anew at each step, a year of blocks took 83 ms a frame. */}
      <div
        ref={ref}
        className="min-h-0 flex-1 overflow-y-auto overflow-x-hidden will-change-scroll"
        data-testid="days"
      >
        <div className="flex flex-wrap items-center gap-2 px-4.5 py-1.5 max-md:px-2.5">
          <Whose of={of} onChange={(next) => setParam('of', next)} />
          <fieldset
            aria-label="What is shown"
            className="flex max-md:order-last max-md:w-full max-md:overflow-x-auto"
          >
            {[...VIEWS, { id: 'list' as const, name: 'List', key: 'l' }].map((each) => (
              <button
                key={each.id}
                type="button"
                aria-pressed={active === each.id}
                title={`Key: ${each.key}`}
                onClick={() => (each.id === 'list' ? setParam('view', 'list') : put(each.id))}
                className="whitespace-nowrap border border-soft/50 border-r-0 px-2 py-0.5 text-sm first:rounded-l-md last:rounded-r-md last:border-r aria-pressed:bg-ink aria-pressed:text-ground"
              >
                {each.name}
              </button>
            ))}
          </fieldset>
          {(!of || mayChange) && <QuickLine inputRef={line} of={of} onMore={setEditing} onMade={show} />}
          <FilterButton state={filter} categories={categories.data?.categories ?? []} />
          <Button tone="quiet" aria-label="Preferences and categories" onClick={() => setChoosing(true)}>
            <CalendarCog size={17} aria-hidden />
          </Button>
          {(!of || mayChange) && (
            <Button aria-label="Make an entry" onClick={() => setEditing(newHere())}>
              <Plus size={17} className="md:hidden" aria-hidden />
              <span className="max-md:hidden">Make an entry</span>
            </Button>
          )}
        </div>
        {!list && !year && (
          <LayerBar
            sets={sets}
            layers={layers}
            over={over}
            me={person.id}
            onOver={(next) => setParam('layers', next ? 'over' : undefined)}
          />
        )}
        {entries.isError ? (
          <div className="px-4">
            <Trouble action={<Button onClick={() => entries.refetch()}>Try again</Button>}>
              {problemWords(entries.error)}
            </Trouble>
          </div>
        ) : list ? (
          <Suspense fallback={<Loading what="the list" />}>
            <EntryList
              occurrences={listed}
              categories={categories.data?.categories ?? []}
              onOpen={openDate}
            />
          </Suspense>
        ) : (
          <div style={{ '--lane': `${height}px` }} aria-busy={entries.isPending}>
            <Board
              label={of ? 'Days of somebody else' : 'My days'}
              groups={[
                {
                  id: 'mine',
                  zone,
                  axis,
                  title: (
                    <>
                      <b>{of ? 'Their days' : 'My days'}</b>{' '}
                      <span className="text-soft">{offsetInWords(offsetAt(zone, axis.from))}</span>
                    </>
                  ),
                  rows,
                  ...(year ? { ruler: <WeekdayRuler first={display.firstWeekday} /> } : {}),
                  ...(second && !year
                    ? {
                        alsoZones: [
                          {
                            zone: second,
                            title: (
                              <span className="text-soft">
                                {second.zone.split('/').at(-1)?.replace(/_/g, ' ')}{' '}
                                {offsetInWords(offsetAt(second, axis.from))}
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
              minutes={NEW_MINUTES}
              across="row"
              chosen={chosen}
              days={false}
              onChoose={(next) => {
                if (!next) setHolding(null)
                setChosen(next)
              }}
              onTake={take}
              onOpen={open}
              mayMove={mayMove}
              edgeOf={edgeOf}
              faint={faint}
              holding={holding}
              dense={year || lens.days > 14}
            />
          </div>
        )}
      </div>
      {editing && (
        <EntrySheet
          editing={editing}
          of={of}
          onClose={() => {
            setEditing(null)
            setChosen(null)
          }}
        />
      )}
      {asking && (
        <MoveQuestion
          {...asking}
          onMove={(scope) => move(asking.moved, asking.start, asking.end, scope)}
          onClose={() => {
            setAsking(null)
            setChosen(null)
          }}
        />
      )}
      {choosing && (
        <Sheet open onClose={() => setChoosing(false)} title="How my days are drawn">
          <Suspense fallback={<Loading what="your preferences" />}>
            <Preferences onDone={() => setChoosing(false)} />
          </Suspense>
        </Sheet>
      )}
    </>
  )
}
