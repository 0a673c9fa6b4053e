import type { Apart } from '@marmot/contract/availability'
import { laneOf } from '@marmot/contract/availability'
import { type During, during, type Span, stateInWords } from '@marmot/core/availability'
import { DAY, lengthInWords, zoneTable } from '@marmot/core/time'
import { useMemo } from 'react'
import { useTime } from '../availability/time.ts'

/**
 * How each of some people stands at a time, by their id, with a meeting that is to be changed out of the way; undefined
 * while that is not known.
 */
export const useStanding = (
  ids: readonly string[],
  time: Span,
  apart: Apart | null,
): ((id: string) => During | undefined) => {
  // Days around it, so that the next time one tries is here already.
  const from = Math.floor(time.start / DAY) * DAY - DAY
  const known = useTime(ids, from, from + 4 * DAY, apart)
  const lanes = useMemo(
    () => new Map(known.data?.people.map((each) => [each.personId, laneOf(each)])),
    [known.data],
  )
  return (id) => {
    const lane = lanes.get(id)
    return lane && !known.isPlaceholderData ? during(lane, zoneTable(lane.zone), time) : undefined
  }
}

/** What keeps somebody from coming, or costs them something, in words; empty where nothing does or nothing is known. */
export const standingWords = (how: During | undefined): string => {
  if (!how || how.state === 'free' || how.state === 'unknown') return ''
  if (how.state !== 'stretch') return `${stateInWords(how)} then`
  const parts = [
    how.stretch > 0 ? `${lengthInWords(how.stretch)} outside their hours` : '',
    how.lunch > 0 ? `${lengthInWords(how.lunch)} of their lunch` : '',
  ]
  return parts.filter(Boolean).join(', ')
}

/** Whether somebody can come then, where that is not as it should be. */
export const Standing = ({ how }: { how: During | undefined }) => {
  const words = standingWords(how)
  if (!words) return null
  return how?.state === 'stretch' ? (
    <span className="block text-[13px] text-soft">{words}</span>
  ) : (
    <span className="block text-[13px] text-coral">⚠ {words}</span>
  )
}
