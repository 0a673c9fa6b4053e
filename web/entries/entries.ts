import {
  listCategories,
  listChanges,
  listEntries,
  type OccurrenceOnWire,
  readEntry,
} from '@marmot/contract/entries'
import { todosEvent } from '@marmot/contract/todo'
import type { BusySpan, LaneTime } from '@marmot/core/availability'
import { clockText, type Instant, minuteOf, toWall, type ZoneTable } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import type { z } from 'zod'
import type { BlockLook } from '../lanes/types.ts'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

const entriesKey = (...asked: readonly unknown[]) => ['entries', ...asked]

/** Entries in a range, with working hours: mine, or those of somebody whom I act for. */
export const useEntries = (from: Instant, to: Instant, of?: string) =>
  useQuery({
    queryKey: entriesKey(of ?? 'me', from, to),
    queryFn: ({ signal }) =>
      call(listEntries, {
        query: {
          from: new Date(from).toISOString(),
          to: new Date(to).toISOString(),
          ...(of ? { of } : {}),
        },
        signal,
      }),
    // Somebody else's days are never shown as mine, not even while mine are on their way.
    placeholderData: (before, query) =>
      query?.queryKey[1] === (of ?? 'me') ? keepPreviousData(before) : undefined,
    meta: { heeds: [...ON_MY_TIME, heed(todosEvent, (event, myId) => event.people.includes(myId))] },
  })

export const useCategories = () =>
  useQuery({
    queryKey: entriesKey('categories'),
    queryFn: () => call(listCategories),
    staleTime: 300_000,
    meta: { heeds: ON_MY_TIME },
  })

/** An entry whole, seen from one of its dates. */
export const useEntry = (entryId: string | null, recurrence: string, of?: string) =>
  useQuery({
    queryKey: entriesKey('one', entryId, recurrence, of ?? ''),
    queryFn: () =>
      call(readEntry, { params: { entryId: entryId ?? '' }, query: { recurrence, ...(of ? { of } : {}) } }),
    enabled: entryId !== null,
    staleTime: 0,
    meta: { heeds: ON_MY_TIME },
  })

/** What others did for me, and what I did for others. */
export const useChanges = () =>
  useQuery({ queryKey: entriesKey('changes'), queryFn: () => call(listChanges), meta: { heeds: ON_MY_TIME } })

/** A span of mine that remembers which entry it is. */
export interface OwnSpan extends BusySpan {
  readonly occurrence: OccurrenceOnWire
}

/** What stands on a block of mine: of a reservation alone also the place that it is of. */
const blockTitle = ({ hidden, title, reserved, meeting, place }: OccurrenceOnWire): string => {
  if (hidden) return 'private'
  const [where = ''] = place.split(',')
  return reserved && !meeting && where !== title ? `${title}, ${where}` : title || '(no title)'
}

export const ownSpan = (occurrence: OccurrenceOnWire): OwnSpan[] =>
  occurrence.state === null
    ? []
    : [
        {
          start: Date.parse(occurrence.start),
          end: Date.parse(occurrence.end),
          state: occurrence.state,
          title: blockTitle(occurrence),
          // Each date of a series is its own block.
          entryId: `${occurrence.entryId} ${occurrence.recurrence}`,
          reserved: occurrence.reserved && !occurrence.meeting,
          occurrence,
        },
      ]

/** How a block of mine looks beside its state: whether I organize it, am invited, or reserved a place. */
export const lookOfOwn = (
  { start, end, occurrence }: OwnSpan,
  zone: ZoneTable,
  dot: string | undefined,
  /** What is expected of the weather then, in words, where it is out of doors and that is known. */
  weather = '',
): BlockLook => {
  const { hidden, own, meeting, reserved, answer, answered, place, allDay } = occurrence
  const kind = hidden ? 'own' : meeting ? (own ? 'organized' : 'invited') : reserved ? 'reservation' : 'own'
  const clock = (at: number) => clockText(minuteOf(toWall(zone, at)))
  return {
    kind,
    under: [allDay ? '' : `${clock(start)} to ${clock(end)}`, place.split(',')[0], weather]
      .filter(Boolean)
      .join(' · '),
    dot,
    ...(kind === 'invited' && answer === 'needs-action' ? { asks: 'answer?' } : {}),
    ...(kind === 'organized' && answered ? { note: `${answered.said}/${answered.asked}` } : {}),
  }
}

type Known = z.output<typeof listEntries.answer>

const instants = ({ start, end }: { start: string; end: string }) => ({
  start: Date.parse(start),
  end: Date.parse(end),
})

/**
 * My lane: hours and what stands on it, also in my calendars elsewhere; unknown, never free, as long as it is still on its way.
 */
export const ownLane = (
  zone: string,
  known: Pick<Known, 'hours' | 'gaps' | 'unknown' | 'elsewhere' | 'daysOff'> | undefined,
  spans: readonly BusySpan[],
): LaneTime => {
  const gaps = (known?.gaps ?? []).map(
    (gap): BusySpan => ({ ...instants(gap), state: 'held', title: 'kept free', gap: true }),
  )
  const elsewhere = (known?.elsewhere ?? []).map((span): BusySpan => ({ ...span, ...instants(span) }))
  const off = (known?.daysOff ?? []).map(
    (day): BusySpan => ({ ...instants(day), state: 'away', title: day.title, dayOff: true }),
  )
  return {
    zone,
    known: known !== undefined,
    hours: known?.hours ?? [],
    outside: 'outside',
    unknown: (known?.unknown ?? []).map(instants),
    // The same list where nothing is added, so that a lane is not drawn for nothing.
    spans: gaps.length + elsewhere.length + off.length ? [...off, ...spans, ...elsewhere, ...gaps] : spans,
  }
}
