import { laneOf, readAvailability, timeEvent } from '@marmot/contract/availability'
import type { LaneTime } from '@marmot/core/availability'
import type { Instant } from '@marmot/core/time'
import { useQueries } from '@tanstack/react-query'
import { startTransition, useCallback, useMemo, useRef, useState } from 'react'
import type { z } from 'zod'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

/** So many people are asked about at once, about as many as are in sight: they are the first to be known. */
const BATCH = 20
/** Who comes into sight right after others is asked about when scrolling has stopped for so long, in milliseconds. */
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
 * thousands; nobody's time is fetched before somebody looks.
 */
export const useTimesAsSeen = (from: Instant, to: Instant) => {
  const [batches, setBatches] = useState<readonly (readonly string[])[]>([])
  const asked = useRef(new Set<string>())
  const waiting = useRef<string[]>([])
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const lastAt = useRef(Number.NEGATIVE_INFINITY)
  const soon = useRef(false)
  const want = useCallback((ids: readonly string[]) => {
    const fresh = ids.filter((id) => !asked.current.has(id))
    if (fresh.length === 0) return
    for (const id of fresh) asked.current.add(id)
    waiting.current.push(...fresh)
    const before = lastAt.current
    lastAt.current = performance.now()
    // At once where nothing moved; what comes in the same moment goes along. Else when it has come to rest.
    const rested = lastAt.current - before > RESTED_MS
    if (!rested && soon.current) return
    soon.current = rested
    clearTimeout(timer.current)
    timer.current = setTimeout(
      () => {
        soon.current = false
        const all = waiting.current.splice(0)
        const more = Array.from({ length: Math.ceil(all.length / BATCH) }, (_, i) =>
          all.slice(i * BATCH, (i + 1) * BATCH),
        )
        startTransition(() => setBatches((known) => [...known, ...more]))
      },
      rested ? 0 : RESTED_MS,
    )
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
    () => new Map<string, LaneTime>(answers.flatMap((one) => (one ? lanesIn(one) : []))),
    [answers],
  )
  return { want, of: (id: string): LaneTime | undefined => times.get(id) }
}
