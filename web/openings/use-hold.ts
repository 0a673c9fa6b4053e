import { putHold, readHold, releaseHold } from '@marmot/contract/openings'
import { type Instant, MINUTE, shortTime, toWall, wallText } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { call } from '../platform/api.ts'
import { ON_MY_TIME } from '../platform/live.ts'
import { problemCode, problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { useBrief } from './brief.tsx'
import type { Arranging } from './use-arranging.ts'

const HELD_MINUTES = 15

const holdKey = (holdId: string | null) => ['hold', holdId]

/** The hold of the brief in hand: my time and its places, kept for a quarter of an hour or until a day, gone by itself. */
export const useHold = (arranging: Arranging) => {
  const { brief, change } = useBrief()
  const queries = useQueryClient()
  const [taking, setTaking] = useState(false)
  const { chosen, zone, me, now } = arranging
  const held = useQuery({
    queryKey: holdKey(brief.hold),
    queryFn: () => call(readHold, { params: { holdId: brief.hold ?? '' } }),
    enabled: brief.hold !== null,
    retry: false,
    meta: { heeds: ON_MY_TIME },
  })
  const gone = brief.hold !== null && problemCode(held.error) === 'not-found'
  const until = held.data ? Date.parse(held.data.until) : null
  useEffect(() => {
    if (gone || (until !== null && until <= now)) change({ hold: null })
  }, [gone, until, now, change])
  const again = () => queries.invalidateQueries()

  const keep = async (until: Instant = now + HELD_MINUTES * MINUTE) => {
    if (!chosen) return
    const holdId = brief.hold ?? crypto.randomUUID()
    setTaking(true)
    try {
      await call(putHold, {
        params: { holdId },
        body: {
          title: brief.title,
          starts: wallText(toWall(zone, chosen.start)),
          minutes: brief.minutes,
          zone: me.zone,
          places: arranging.chosenPlaces.map((place) => place.id),
          until: new Date(until).toISOString(),
        },
      })
      change({ hold: holdId })
      toast.success(`Held until ${shortTime(until, zone)}. Others see it as held.`)
    } catch (error) {
      toast.error(problemWords(error))
    }
    setTaking(false)
    again()
  }
  const release = async () => {
    if (!brief.hold) return
    await call(releaseHold, { params: { holdId: brief.hold } }).catch((error) =>
      toast.error(problemWords(error)),
    )
    change({ hold: null })
    again()
  }
  const here =
    held.data !== undefined &&
    chosen !== null &&
    Date.parse(held.data.start) === chosen.start &&
    Date.parse(held.data.end) === chosen.end
  return {
    /** When the hold goes, if there is one. */
    until: brief.hold ? until : null,
    /** Whether the chosen time is the one that is held. */
    here,
    taking,
    keep,
    release,
    toggle: () => (brief.hold && here ? release() : keep()),
  }
}

export type HoldInHand = ReturnType<typeof useHold>
