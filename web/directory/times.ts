import { readAvailability, timeEvent } from '@marmot/contract/availability'
import { laneOf } from '@marmot/contract/openings'
import type { LaneTime } from '@marmot/core/availability'
import type { Instant } from '@marmot/core/time'
import { useQueries } from '@tanstack/react-query'
import { useCallback, useMemo, useRef, useState } from 'react'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

/** So many people are asked about at once, and not before one has stopped scrolling for this long, in milliseconds. */
const BATCH = 60
const RESTED_MS = 60

/**
 * The time of whoever comes into sight, as far as I may see it: `want` names them, `of` gives what is here by now. A directory has
 * thousands; nobody's time is fetched before somebody looks.
 */
export const useTimesAsSeen = (from: Instant, to: Instant) => {
  const [batches, setBatches] = useState<readonly (readonly string[])[]>([])
  const asked = useRef(new Set<string>())
  const waiting = useRef<string[]>([])
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const want = useCallback((ids: readonly string[]) => {
    const fresh = ids.filter((id) => !asked.current.has(id))
    if (fresh.length === 0) return
    for (const id of fresh) asked.current.add(id)
    waiting.current.push(...fresh)
    clearTimeout(timer.current)
    timer.current = setTimeout(() => {
      const all = waiting.current.splice(0)
      const more = Array.from({ length: Math.ceil(all.length / BATCH) }, (_, i) =>
        all.slice(i * BATCH, (i + 1) * BATCH),
      )
      setBatches((before) => [...before, ...more])
    }, RESTED_MS)
  }, [])
  const answers = useQueries({
    queries: batches.map((ids) => ({
      queryKey: ['time', 'directory', ids.join(), from, to],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        call(readAvailability, {
          body: { people: [...ids], from: new Date(from).toISOString(), to: new Date(to).toISOString() },
          signal,
        }),
      staleTime: 60_000,
      meta: {
        heeds: [...ON_MY_TIME, heed(timeEvent, (event) => event.people.some((id) => ids.includes(id)))],
      },
    })),
    combine: (results) => results.map((one) => one.data),
  })
  const times = useMemo(
    () =>
      new Map<string, LaneTime>(
        answers.flatMap((one) => (one?.people ?? []).map((time) => [time.personId, laneOf(time)] as const)),
      ),
    [answers],
  )
  return { want, of: (id: string): LaneTime | undefined => times.get(id) }
}
