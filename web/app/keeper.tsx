import { listEntries } from '@marmot/contract/entries'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { readWaiting, sendWaiting } from '../answers/outbox.ts'
import { showWaiting } from '../answers/waiting.ts'
import { addressOf, ask } from '../platform/ask.ts'
import { keep, keepWeeks } from '../platform/kept.ts'
import { ON_MY_TIME } from '../platform/live.ts'
import { whenQuiet } from '../platform/quiet.ts'
import { onAnswers } from '../platform/seen.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { weeksAround } from '../platform/weeks.ts'

const weeksKey = (from: number) => ['weeks', from]
const STALE_MS = 30 * 60_000

/** Whether the page has been quiet once: what takes the thread for a moment waits for it. */
const useQuiet = (): boolean => {
  const [quiet, setQuiet] = useState(false)
  useEffect(() => whenQuiet(() => setQuiet(true)), [])
  return quiet
}

/** Keeps my own entries of the next weeks as they change. */
const useKeptWeeks = (quiet: boolean) => {
  const { from, to } = weeksAround(useNow())
  useQuery({
    queryKey: weeksKey(from),
    // Asked past what is kept: that would be kept anew as if it had come now.
    queryFn: async () => {
      const text = (at: number) => new Date(at).toISOString()
      const json = await ask('GET', addressOf(listEntries.path, {}, { from: text(from), to: text(to) }))
      const read = listEntries.answer.safeParse(json)
      if (read.success) await keepWeeks({ from, to, entries: read.data }).catch(() => undefined)
      return from
    },
    enabled: quiet,
    staleTime: STALE_MS,
    refetchOnWindowFocus: false,
    retry: false,
    meta: { heeds: ON_MY_TIME, aside: true },
  })
}

/** Sends what was answered without a connection, as soon as there is one. */
const useOutbox = (standing: boolean) => {
  const { person } = useMe()
  const queries = useQueryClient()
  useEffect(() => {
    const send = async () => {
      const { sent, refused } = await sendWaiting(person.id)
      for (const one of sent) toast(`Your answer to ${one.title} was sent.`)
      for (const one of refused) toast.error(`Your answer to ${one.title} was not sent. See Now.`)
      if (sent.length || refused.length) await queries.invalidateQueries()
    }
    if (standing) void send()
    else void readWaiting(person.id).then(showWaiting)
    window.addEventListener('online', send)
    return () => window.removeEventListener('online', send)
  }, [standing, person.id, queries])
}

/**
 * Keeps on this device what is needed to open Marmot without a network, and sends what was answered meanwhile. Nothing of it is
 * part of the first screen.
 */
export const Keeper = ({ standing }: { standing: boolean }) => {
  const quiet = useQuiet()
  useKeptWeeks(quiet)
  useOutbox(standing)
  useEffect(
    () =>
      // A device that keeps nothing, in a private window for instance, works as well while there is a network.
      onAnswers((address, seen) => void keep(address, seen).catch(() => undefined)),
    [],
  )
  useEffect(() => {
    if (quiet && import.meta.env.PROD)
      void navigator.serviceWorker?.register('/worker.js').catch(() => undefined)
  }, [quiet])
  return null
}
