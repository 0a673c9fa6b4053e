import { useEffect, useState } from 'react'
import { askOutside, KIND } from '../outside/routes.ts'
import { type Fetched, useEvents, useFetched } from '../platform/use-fetched.ts'

type Kind = Awaited<ReturnType<typeof askOutside<NonNullable<(typeof KIND)['of']>>>>

/** So many days are shown at once; more on request. */
const SHOWN = 28
const EVERY_MS = 60_000

/** What is asked for: a kind of meeting, how long, of whom. */
export interface Asked {
  readonly page: string
  readonly kind: string
  readonly minutes: number | null
  readonly host: string
  /** A link that works once. */
  readonly once: string
  /** The visit that is to be moved, by its link. */
  readonly visit: string
}

/**
 * What is offered, from today on or from where one went on; asked anew when it changes, and every minute, since whose time it is
 * may have other things to do.
 */
export const useOffered = (asked: Asked) => {
  const [from, setFrom] = useState<number | null>(null)
  const [days, setDays] = useState(SHOWN)
  const { page, kind, minutes, host, once, visit } = asked
  const fetched: Fetched<Kind> = useFetched(() =>
    askOutside(KIND, {
      params: { page, kind },
      query: {
        days,
        ...(from ? { from: new Date(from).toISOString() } : {}),
        ...(minutes ? { minutes } : {}),
        ...(host ? { host } : {}),
        ...(once ? { once } : {}),
        ...(visit ? { visit } : {}),
      },
    }),
  )
  const { again } = fetched
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew when what is asked for is another
  useEffect(() => {
    void again()
  }, [again, page, kind, minutes, host, from, days])
  useEffect(() => {
    const timer = setInterval(() => void again(), EVERY_MS)
    const look = () => document.visibilityState === 'visible' && void again()
    document.addEventListener('visibilitychange', look)
    return () => {
      clearInterval(timer)
      document.removeEventListener('visibilitychange', look)
    }
  }, [again])
  useEvents(`/api/v/${encodeURIComponent(page)}/events`, again)
  return {
    ...fetched,
    /** Shows later days beside those that are there. */
    more: () => setDays((before) => Math.min(before + SHOWN, 3 * SHOWN)),
    mayMore: days < 3 * SHOWN,
    goTo: (instant: number) => setFrom(instant),
  }
}
export type OfferedKind = Kind
