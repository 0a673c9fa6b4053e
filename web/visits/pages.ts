import { listVisitPages, listVisits } from '@marmot/contract/visit-pages'
import { visitEvent } from '@marmot/contract/visits'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

const visitsKey = (...asked: readonly unknown[]) => ['visits', ...asked]

/** My pages for visitors, and those of others that offer my time. */
export const useVisitPages = () =>
  useQuery({
    queryKey: visitsKey('pages'),
    queryFn: () => call(listVisitPages),
    meta: { heeds: [heed(visitEvent), ...ON_MY_TIME] },
  })

/** What became of the visits. */
export const useVisits = () =>
  useQuery({
    queryKey: visitsKey('list'),
    queryFn: () => call(listVisits),
    meta: { heeds: ON_MY_TIME },
  })
