import { readBalance } from '@marmot/contract/openings'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { ON_MY_TIME } from '../platform/live.ts'

const balanceKey = (people: string) => ['balance', people]

/** How far each of some people was stretched lately, in minutes, as far as I may see their time. */
export const useBalance = (ids: readonly string[]) => {
  const key = ids.join()
  return useQuery({
    queryKey: balanceKey(key),
    queryFn: () => call(readBalance, { body: { people: [...ids] } }),
    staleTime: 300_000,
    meta: { heeds: ON_MY_TIME },
  })
}
