import type { Brief } from '@marmot/contract/briefs'
import { dayOf, toWall } from '@marmot/core/time'
import { useEffect, useRef } from 'react'
import { useSearchParams } from 'react-router'
import { useMeeting } from '../meetings/meeting.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useBrief } from './brief.tsx'
import { briefOf } from './take-up.ts'

/** The name in the address of a meeting that is to be taken in hand; `date` beside it is the date of a series. */
export const TAKING_UP = 'change'

/**
 * Takes the meeting that the address names in hand, so that another time can be found for it. Gives whether it is on its
 * way.
 */
export const useTakingUp = (onTaken: (brief: Brief) => void): boolean => {
  const { takeUp } = useBrief()
  const { zone, clock } = useMe()
  const [params, setParams] = useSearchParams()
  const entryId = params.get(TAKING_UP)
  const { data, error } = useMeeting(entryId, params.get('date'))
  const taken = useRef<(brief: Brief) => void>(() => undefined)
  taken.current = (brief) => {
    takeUp(brief)
    onTaken(brief)
  }
  // The address goes on only once the page has been drawn again: until then the same one is not taken up twice.
  const last = useRef<string | null>(null)
  useEffect(() => {
    if (!entryId) last.current = null
    if (!entryId || last.current === entryId || !(data || error)) return
    last.current = entryId
    setParams({}, { replace: true })
    if (error) toast.error(problemWords(error))
    else if (!data?.mayChange || data.cancelled) toast.error('That meeting cannot be changed from here.')
    else taken.current(briefOf(data, dayOf(toWall(zone, clock())), zone))
  }, [entryId, data, error, zone, clock, setParams])
  return entryId !== null && !error
}
