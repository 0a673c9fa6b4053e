import { DAY, type Day, dayOf, instantOf, toWall, wallOf } from '@marmot/core/time'
import { useMemo, useState } from 'react'
import { useKeys } from '../app/keys.tsx'
import { useMe, useNow } from '../app/session.tsx'
import { type Lens, RIBBON_DAYS, ribbonStart } from './lens.ts'

/**
 * The lens of a screen and the ribbon it moves on, with the keys that all screens share: `t` for today, `+` and `-` for
 * more and fewer days. `from` and `to` are the instants for which a screen fetches, a day wider than the ribbon.
 */
export const useLens = (
  initial: (today: Day) => Lens,
  longest: number,
  back: (lens: Lens, today: Day) => Lens,
) => {
  const { zone } = useMe()
  const now = useNow()
  const today = dayOf(toWall(zone, now))
  const [lens, setLens] = useState(() => initial(today))
  const [ribbonFirst, setRibbonFirst] = useState<Day>(() => ribbonStart(lens, today))
  const look = (next: Lens) => {
    setLens(next)
    const inside = next.first >= ribbonFirst && next.first + next.days <= ribbonFirst + RIBBON_DAYS
    if (!inside) setRibbonFirst(ribbonStart(next, today))
  }
  const zoom = (by: number) => look({ ...lens, days: Math.max(1, Math.min(longest, lens.days + by)) })
  useKeys([
    { keys: 't', does: 'Show today', on: 't', run: () => look(back(lens, today)) },
    { keys: '+', does: 'Show more days', on: '+', run: () => zoom(1) },
    { keys: '-', does: 'Show fewer days', on: '-', run: () => zoom(-1) },
  ])
  const range = useMemo(() => {
    const at = (day: Day) => instantOf(zone, wallOf(day))
    return { from: at(ribbonFirst) - DAY, to: at(ribbonFirst + RIBBON_DAYS) + DAY }
  }, [zone, ribbonFirst])
  return { zone, now, today, lens, look, longest, ribbonFirst, ...range }
}

/** A lens on its ribbon, as `useLens` gives it. */
export type View = ReturnType<typeof useLens>
