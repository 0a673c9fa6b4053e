import type { BusySpan, LaneTime } from '@marmot/core/availability'
import { instantOf, wallOf, weekStart } from '@marmot/core/time'
import { useCallback, useMemo } from 'react'
import { lanesOfLayers, useLayerSets, useLayers } from '../availability/layers.ts'
import { lookOfOwn, type OwnSpan, ownLane, ownSpan, useCategories, useEntries } from '../entries/entries.ts'
import { matches, useFilter } from '../entries/filter.tsx'
import { MONTHS_LENS } from '../lanes/lens.ts'
import { takenFill } from '../lanes/taken.ts'
import { useLens } from '../lanes/use-lens.ts'
import { useMe } from '../platform/session.tsx'
import { useSharing } from '../sharing/sharing.ts'
import { useDueOn } from '../todos/todos.ts'
import { flower } from '../ui/parts.tsx'
import { useWeatherOf } from '../weather/weather.ts'
import { dayRows, hoursShown, weekRows } from './day-rows.tsx'
import { lensFor, type ViewId, YEAR_DAYS } from './view.ts'

export const isOwn = (span: BusySpan): span is OwnSpan => 'occurrence' in span

/** The days in the lens: whose they are, what stands on them, and how they are drawn. */
export const useDays = (of: string | undefined, asked: ViewId, over: boolean) => {
  const { zone, person, display } = useMe()
  const view = useLens(
    (day) => lensFor(asked, day, display.firstWeekday, []),
    YEAR_DAYS,
    (lens, day) =>
      lens.days === 1
        ? { first: day, days: 1 }
        : { ...lens, first: weekStart(day, display.firstWeekday) - (lens.days > MONTHS_LENS ? 28 : 0) },
  )
  const { today, lens, ribbonFirst, ribbonDays, from, to } = view
  const filter = useFilter()
  const categories = useCategories()
  const sets = useLayerSets()
  const entries = useEntries(from, to, of)
  const layers = useLayers(sets.current?.layers, from, to)
  const spans = useMemo(() => (entries.data?.occurrences ?? []).flatMap(ownSpan), [entries.data])
  const hours = entries.data?.hours
  const lane: LaneTime = useMemo(
    () => ownLane(person.zone, entries.data, spans),
    [person.zone, entries.data, spans],
  )
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
  const shownLayers = useMemo(
    () => lanesOfLayers(layers.filter((layer) => layer.shown && layer.id !== of)),
    [layers, of],
  )
  const dueOn = useDueOn(entries.data?.due)
  const rows = useMemo(
    () => (year ? weekRows : dayRows)({ lens, zone, today, lane, shown, layers: shownLayers, over, dueOn }),
    [year, lens, zone, today, lane, shown, shownLayers, over, dueOn],
  )
  const tones = useMemo(
    () => new Map(categories.data?.categories.map((each) => [each.id, flower(each.tone)])),
    [categories.data],
  )
  const weatherOf = useWeatherOf(spans, entries.data?.forecasts, entries.dataUpdatedAt)
  const lookOf = useCallback(
    (span: BusySpan) =>
      isOwn(span)
        ? lookOfOwn(
            span,
            zone,
            tones.get(span.occurrence.categoryId ?? ''),
            weatherOf(span.occurrence.outdoors, span),
          )
        : undefined,
    [tones, zone, weatherOf],
  )
  const faint = useCallback(
    (span: BusySpan) => filter.active && isOwn(span) && !matches(filter.filter, span.occurrence),
    [filter.active, filter.filter],
  )
  const mayChange = entries.data?.mayChange ?? false
  const sharing = useSharing()
  const mayChangeMeetings =
    !of || (sharing.data?.toMe ?? []).some((each) => each.ownerId === of && each.does === 'stand-in')
  const mayMove = useCallback(
    (span: BusySpan): span is OwnSpan =>
      mayChange &&
      !year &&
      isOwn(span) &&
      span.occurrence.own &&
      (mayChangeMeetings || !span.occurrence.meeting) &&
      !span.occurrence.hidden,
    [mayChange, mayChangeMeetings, year],
  )
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
  const listedTodos = useMemo(
    () => (filter.active ? [] : Array.from({ length: lens.days }, (_, i) => dueOn(lens.first + i)).flat()),
    [filter.active, lens, dueOn],
  )
  return {
    view,
    entries,
    lane,
    /** What is due on a day, of what is mine to do. */
    dueOn,
    spans,
    hours,
    fill,
    /** A lane is a week rather than a day. */
    year,
    rows,
    sets,
    layers,
    /** The people whose lanes lie beside mine. */
    beside: shownLayers
      .filter((layer) => layer.kind === 'person')
      .map(({ id, name, time }) => ({ id, name, zone: time.zone })),
    /** How many lanes of others lie beside each of mine. */
    perDay: over || year ? 0 : shownLayers.length,
    filter,
    categories: categories.data?.categories ?? [],
    /** The dates of the list: in the lens, and as the filter wants them. */
    listed,
    /** What is due in the lens, where nothing is filtered: a filter is for entries. */
    listedTodos,
    lookOf,
    faint,
    mayChange,
    /** Whether meetings of whoever's days these are may be changed: one's own, and those of whom one stands in for. */
    mayChangeMeetings,
    mayMove,
  }
}

export type Days = ReturnType<typeof useDays>
