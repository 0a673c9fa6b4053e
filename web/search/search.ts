import { type FoundEntry, search } from '@marmot/contract/search'
import { dayOf, toWall } from '@marmot/core/time'
import { useQuery } from '@tanstack/react-query'
import { useNavigate, useSearchParams } from 'react-router'
import { call } from '../platform/api.ts'
import { ON_MY_TIME } from '../platform/live.ts'
import { useMe } from '../platform/session.tsx'
import { dayAddress } from './day-address.ts'

const searchKey = (...asked: readonly unknown[]) => ['search', ...asked]

/** So few letters are in everything. */
const LEAST_LETTERS = 2

/** What has the words, as far as I may see it; what was found by the letters before stays while one types on. */
export const useSearch = (text: string, most = 12) => {
  const q = text.trim()
  return useQuery({
    queryKey: searchKey(q, most),
    queryFn: ({ signal }) => call(search, { query: { q, most }, signal }),
    enabled: q.length >= LEAST_LETTERS,
    placeholderData: (before) => before,
    staleTime: 10_000,
    meta: { heeds: ON_MY_TIME },
  })
}

/** Opens what was found: a meeting over the screen one is on, anything else on its day. */
export const useOpenFound = () => {
  const { zone } = useMe()
  const navigate = useNavigate()
  const [, setSearch] = useSearchParams()
  return (found: FoundEntry): void => {
    if (found.mine && found.meeting) {
      setSearch((before) => {
        const next = new URLSearchParams(before)
        next.set('meeting', found.entryId)
        next.set('date', found.recurrence)
        return next
      })
      return
    }
    const next = new URLSearchParams({ day: dayAddress(dayOf(toWall(zone, Date.parse(found.start)))) })
    if (found.laneOf && found.whole) next.set('of', found.laneOf)
    if (found.mine) {
      next.set('entry', found.entryId)
      next.set('date', found.recurrence)
      next.set('from', found.start)
      next.set('until', found.end)
    }
    navigate(`/time?${next}`)
  }
}
