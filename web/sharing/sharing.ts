import { listSharing } from '@marmot/contract/sharing'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { ON_MY_TIME } from '../platform/live.ts'

const sharingKey = () => ['sharing']

/** What I share with whom, and who shares more than usual with me. */
export const useSharing = () =>
  useQuery({
    queryKey: sharingKey(),
    queryFn: () => call(listSharing),
    staleTime: 60_000,
    meta: { heeds: ON_MY_TIME },
  })
