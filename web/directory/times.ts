import { laneOf, readAvailability, timeEvent } from '@marmot/contract/availability'
import type { LaneTime } from '@marmot/core/availability'
import type { Instant } from '@marmot/core/time'
import { useQueries, useQueryClient } from '@tanstack/react-query'
import { startTransition, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { z } from 'zod'
import { chunksOf } from '../lanes/chunk.tsx'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

/** So many people are asked about at once, about as many as are in sight: they are the first to be known. */
const BATCH = 20
/** Who comes into sight while one scrolls is asked about when scrolling has stopped for so long, in milliseconds. */
const RESTED_MS = 300

type Answer = z.output<typeof readAvailability.answer>

const made = new WeakMap<Answer, readonly (readonly [string, LaneTime])[]>()

/** The lanes of an answer, made once: a lane that is the same is not drawn anew when others come. */
const lanesIn = (answer: Answer) => {
  const known = made.get(answer)
  if (known) return known
  const lanes = answer.people.map((time) => [time.personId, laneOf(time)] as const)
  made.set(answer, lanes)
  return lanes
}

/**
 * The time of whoever comes into sight, as far as I may see it: `want` names them, `of` gives what is here by now. A directory has
 * thousands; nobody's time is fetched before somebody looks, nor of whom one scrolls past. Who comes into sight
 * because one looks for them is asked about at once.
 */
export const useTimesAsSeen = (from: Instant, to: Instant) => {
  const queries = useQueryClient()
  const [batches, setBatches] = useState<readonly (readonly string[])[]>([])
  const asked = useRef(new Set<string>())
  const waiting = useRef<string[]>([])
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const scrolledAt = useRef(Number.NEGATIVE_INFINITY)
  const query = useCallback(
    (ids: readonly string[]) => ({
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
    }),
    [from, to],
  )
  useEffect(() => {
    const note = () => {
      scrolledAt.current = performance.now()
    }
    window.addEventListener('scroll', note, { capture: true, passive: true })
    return () => window.removeEventListener('scroll', note, true)
  }, [])
  const want = useCallback(
    (ids: readonly string[]) => {
      const fresh = ids.filter((id) => !asked.current.has(id))
      if (fresh.length === 0) return
      for (const id of fresh) asked.current.add(id)
      waiting.current.push(...fresh)
      const send = () => {
        const all = waiting.current.splice(0)
        // Drawn when it is here, and not once more because it is asked for.
        for (const batch of chunksOf(all, BATCH))
          void queries
            .prefetchQuery(query(batch))
            .then(() => startTransition(() => setBatches((known) => [...known, batch])))
      }
      // At once where nothing moves; what comes in the same moment goes along. Else when it has come to rest.
      const rested = performance.now() - scrolledAt.current > RESTED_MS
      clearTimeout(timer.current)
      timer.current = setTimeout(send, rested ? 0 : RESTED_MS)
    },
    [queries, query],
  )
  const answers = useQueries({
    queries: batches.map(query),
    combine: (results) => results.map((one) => one.data),
  })
  const times = useMemo(
    () => new Map<string, LaneTime>(answers.flatMap((one) => (one ? lanesIn(one) : []))),
    [answers],
  )
  return { want, of: (id: string): LaneTime | undefined => times.get(id) }
}
