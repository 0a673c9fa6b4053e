import { listFeeds, readFeedSpans } from '@marmot/contract/feeds'
import type { Instant } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { ON_MY_TIME } from '../platform/live.ts'

const feedsKey = (...asked: readonly unknown[]) => ['feeds', ...asked]

/** The addresses at which I publish, and the feeds that I read. */
export const useFeeds = () =>
  useQuery({
    queryKey: feedsKey(),
    queryFn: () => call(listFeeds),
    staleTime: 30_000,
    meta: { heeds: ON_MY_TIME },
  })

/** What stands in feeds that I read, in a range. */
export const useFeedSpans = (ids: readonly string[], from: Instant, to: Instant) => {
  const key = [...ids].sort().join()
  return useQuery({
    queryKey: feedsKey('spans', key, from, to),
    queryFn: ({ signal }) =>
      call(readFeedSpans, {
        query: { feeds: key, from: new Date(from).toISOString(), to: new Date(to).toISOString() },
        signal,
      }),
    enabled: key !== '',
    placeholderData: keepPreviousData,
    meta: { heeds: ON_MY_TIME },
  })
}
