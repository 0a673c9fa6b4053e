import { listFeeds, readFeedSpans } from '@marmot/contract/feeds'
import type { Instant } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '../app/api.ts'

/** The addresses at which I publish, and the feeds that I read. */
export const useFeeds = () =>
  useQuery({ queryKey: ['time', 'feeds'], queryFn: () => call(listFeeds), staleTime: 30_000 })

/** What stands in feeds that I read, in a range. */
export const useFeedSpans = (ids: readonly string[], from: Instant, to: Instant) => {
  const key = [...ids].sort().join()
  return useQuery({
    queryKey: ['time', 'feed-spans', key, from, to],
    queryFn: ({ signal }) =>
      call(readFeedSpans, {
        query: { feeds: key, from: new Date(from).toISOString(), to: new Date(to).toISOString() },
        signal,
      }),
    enabled: key !== '',
    placeholderData: keepPreviousData,
  })
}
