import { type Apart, previewAvailability, readAvailability, timeEvent } from '@marmot/contract/availability'
import type { Instant } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

const iso = (at: Instant) => new Date(at).toISOString()

const timeKey = (...asked: readonly unknown[]) => ['time', ...asked]

/** What the server lets me see of people's time in a range; `apart` is a meeting of mine that is left out. */
export const useTime = (
  ids: readonly string[],
  from: Instant,
  to: Instant,
  apart: Apart | null = null,
  /** Guests by their addresses: known where a feed of theirs is. */
  guests: readonly string[] = [],
) => {
  const key = [...ids].sort().join(',')
  return useQuery({
    queryKey: timeKey(key, from, to, apart?.entryId, apart?.recurrence, [...guests].sort().join(',')),
    queryFn: ({ signal }) =>
      call(readAvailability, {
        body: {
          people: [...ids],
          guests: [...guests],
          from: iso(from),
          to: iso(to),
          ...(apart ? { apart: { entryId: apart.entryId, recurrence: apart.recurrence } } : {}),
        },
        signal,
      }),
    enabled: key !== '',
    placeholderData: keepPreviousData,
    // Asked for anew when the time of one of them changed; what I may see of others is told as mine.
    meta: {
      heeds: [...ON_MY_TIME, heed(timeEvent, (event) => event.people.some((id) => ids.includes(id)))],
    },
  })
}

/** My own time in a range as somebody else sees it: everybody, a team or a person. */
export const useTimeAsSeenBy = (
  to: 'organisation' | 'team' | 'person',
  id: string | null,
  from: Instant,
  until: Instant,
) =>
  useQuery({
    queryKey: timeKey('as seen by', to, id, from, until),
    queryFn: () =>
      call(previewAvailability, {
        query: { to, ...(id ? { id } : {}), from: iso(from), until: iso(until) },
      }),
    meta: { heeds: ON_MY_TIME },
  })
