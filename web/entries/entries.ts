import { listEntries, type OccurrenceOnWire } from '@marmot/contract/entries'
import type { BusySpan, LaneTime, WorkingHours } from '@marmot/core/availability'
import type { Instant } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '../app/api.ts'

/** My own entries in a range, with my working hours. */
export const useEntries = (from: Instant, to: Instant) =>
  useQuery({
    queryKey: ['entries', from, to],
    queryFn: ({ signal }) =>
      call(listEntries, {
        query: { from: new Date(from).toISOString(), to: new Date(to).toISOString() },
        signal,
      }),
    placeholderData: keepPreviousData,
  })

/** A span of mine that remembers which entry it is. */
export interface OwnSpan extends BusySpan {
  readonly occurrence: OccurrenceOnWire
}

export const ownSpan = (occurrence: OccurrenceOnWire): OwnSpan[] =>
  occurrence.state === null
    ? []
    : [
        {
          start: Date.parse(occurrence.start),
          end: Date.parse(occurrence.end),
          state: occurrence.state,
          title: occurrence.title || '(no title)',
          // Each date of a series is its own block.
          entryId: `${occurrence.entryId} ${occurrence.recurrence}`,
          occurrence,
        },
      ]

/** My lane: hours and what stands on it; unknown, never free, as long as it is still on its way. */
export const ownLane = (
  zone: string,
  hours: readonly WorkingHours[] | undefined,
  spans: readonly BusySpan[],
): LaneTime => ({
  zone,
  known: hours !== undefined,
  hours: hours ?? [],
  outside: 'outside',
  spans,
})
