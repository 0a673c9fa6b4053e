import { useEffect, useRef } from 'react'
import { toast } from '../platform/toast.ts'
import type { Arranging } from './use-arranging.ts'
import { listed } from './words.ts'

const CAN_COME = ['free', 'stretch', 'unknown']

/** Who and what can be had at a chosen time, by id, and who and what cannot. */
interface Stand {
  readonly start: number
  readonly end: number
  readonly free: readonly string[]
  readonly blocked: readonly string[]
}

/**
 * Those who could be had before and cannot now, though the time stayed the same: when one moves it oneself, or asks for
 * somebody else, the lanes say it.
 */
export const takenAway = (before: Stand | null, now: Stand): string[] =>
  before && before.start === now.start && before.end === now.end
    ? now.blocked.filter((id) => before.free.includes(id))
    : []

/** Says so when somebody's change takes the chosen time, or a place at it, away while one looks at it. */
export const useTakenAway = (arranging: Arranging): void => {
  const { chosen, reasons, placeReasons, placesById, names, settled } = arranging
  const before = useRef<Stand | null>(null)
  const standing = [
    ...reasons.map(({ id, how }) => [id, CAN_COME.includes(how.state)] as const),
    ...placeReasons.map(({ place, free }) => [place.id, free] as const),
  ]
  const ids = (free: boolean) => standing.flatMap(([id, is]) => (is === free ? id : []))
  const key = settled && chosen ? JSON.stringify({ ...chosen, free: ids(true), blocked: ids(false) }) : ''
  useEffect(() => {
    const now: Stand | null = key ? JSON.parse(key) : null
    const fresh = now ? takenAway(before.current, now) : []
    before.current = now
    const places = fresh.flatMap((id) => placesById.get(id)?.name ?? [])
    const people = fresh.filter((id) => !placesById.has(id)).map(names.person)
    if (people.length)
      toast.warning(`${listed(people)} cannot come at the chosen time any more: it changed just now.`)
    if (places.length)
      toast.warning(`${listed(places)} ${places.length === 1 ? 'was' : 'were'} taken for that time just now.`)
  }, [key, names, placesById])
}
