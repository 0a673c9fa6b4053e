import { nextDayWithOpening, nextOpening, type Opening } from '@marmot/core/openings'
import { useState } from 'react'
import type { Arranging } from './use-arranging.ts'

/** Which openings a jump passes over: those that an optional person misses, those that lack a place. */
export interface Jumps {
  readonly optional: boolean
  readonly places: boolean
}

export interface Jumping {
  readonly jumps: Jumps
  readonly setJumps: (jumps: Jumps) => void
  /** Goes to the next opening, or with -1 to the one before; by day, to that of another day. */
  readonly jump: (way: 1 | -1, by?: 'opening' | 'day') => void
  /** What there is to say of the last jump, where it found nothing; otherwise empty. */
  readonly said: string
}

const missesOptional = (opening: Opening): boolean => opening.parts.missing.length > 0
const lacksPlace = (opening: Opening): boolean => (opening.parts.places?.lacking ?? 0) > 0

/** How many openings each of the two would pass over. */
export const passedOver = (openings: readonly Opening[]) => ({
  optional: openings.filter(missesOptional).length,
  places: openings.filter(lacksPlace).length,
})

/** Going from opening to opening. */
export const useJumps = (arranging: Arranging, take: (opening: Opening) => void): Jumping => {
  const { brief, found, now, zone } = arranging
  const [jumps, setJumps] = useState<Jumps>({ optional: false, places: false })
  const [said, setSaid] = useState('')
  const jump: Jumping['jump'] = (way, by = 'opening') => {
    const fitting = found.openings.filter(
      (opening) => !(jumps.optional && missesOptional(opening)) && !(jumps.places && lacksPlace(opening)),
    )
    const from = brief.start ?? now
    const next =
      by === 'day' ? nextDayWithOpening(fitting, zone.zone, from, way) : nextOpening(fitting, from, way)
    if (next) take(next)
    const left = found.openings.length - fitting.length
    const none = `No ${way === 1 ? 'later' : 'earlier'} time works${left ? `, and ${left} ${left === 1 ? 'is' : 'are'} passed over` : ''}.`
    setSaid(next ? '' : none)
  }
  return { jumps, setJumps, jump, said }
}
