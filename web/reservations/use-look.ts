import { lookAtRun } from '@marmot/contract/reservations'
import { reservationsEvent } from '@marmot/contract/resources'
import type { Run } from '@marmot/contract/runs'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { useRested } from '../platform/rested.ts'

/**
 * What is in the way of a time with its places, on each of its dates, and what else there is: asked anew when what is typed has
 * rested, and whenever somebody reserves. Null asks nothing.
 */
export const useLook = (run: (Run & { readonly headCount: number | null; readonly of?: string }) | null) => {
  const text = JSON.stringify(run)
  const rested = useRested(text)
  const look = useQuery({
    queryKey: ['reservations', 'look', rested],
    queryFn: () => call(lookAtRun, { body: JSON.parse(rested) }),
    enabled: rested !== 'null',
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
    meta: { heeds: [heed(reservationsEvent)] },
  })
  return {
    dates: run ? (look.data?.dates ?? null) : null,
    /** True while what is shown is not yet of what was asked. */
    looking: run !== null && (text !== rested || look.isPlaceholderData || look.isPending),
    trouble: rested === 'null' ? null : look.error,
  }
}
