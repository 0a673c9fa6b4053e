import { DAY, type Day, dayOf, instantOf, toWall, wallOf } from '@marmot/core/time'
import { useMemo, useState } from 'react'
import { useKeys } from '../platform/keys.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import { type Lens, ribbonDays, ribbonStart } from './lens.ts'

/**
 * The lens of a screen and the ribbon it moves on, with the keys that all screens share: `t` for today, `+` and `-` for
 * more and fewer days. `from` and `to` are the instants for which a screen fetches, a day wider than the ribbon.
 */
export const useLens = (
  initial: (today: Day) => Lens,
  longest: number,
  back: (lens: Lens, today: Day) => Lens,
) => {
  const { zone, display } = useMe()
  const { firstWeekday } = display
  const now = useNow()
  const today = dayOf(toWall(zone, now))
  const [lens, setLens] = useState(() => initial(today))
  const [ribbonFirst, setRibbonFirst] = useState<Day>(() => ribbonStart(lens, today, firstWeekday))
  const days = ribbonDays(lens)
  const look = (next: Lens) => {
    setLens(next)
    const inside = next.first >= ribbonFirst && next.first + next.days <= ribbonFirst + ribbonDays(next)
    if (!inside || ribbonDays(next) !== days) setRibbonFirst(ribbonStart(next, today, firstWeekday))
  }
  const zoom = (by: number) => look({ ...lens, days: Math.max(1, Math.min(longest, lens.days + by)) })
  useKeys([
    { keys: 't', does: 'Show today', on: 't', run: () => look(back(lens, today)) },
    { keys: '+', does: 'Show more days', on: '+', run: () => zoom(lens.days >= 14 ? 7 : 1) },
    { keys: '-', does: 'Show fewer days', on: '-', run: () => zoom(lens.days > 14 ? -7 : -1) },
  ])
  const range = useMemo(() => {
    const at = (day: Day) => instantOf(zone, wallOf(day))
    return { from: at(ribbonFirst) - DAY, to: at(ribbonFirst + days) + DAY }
  }, [zone, ribbonFirst, days])
  return { zone, now, today, lens, look, longest, ribbonFirst, ribbonDays: days, firstWeekday, ...range }
}

/** A lens on its ribbon, as `useLens` gives it. */
export type View = ReturnType<typeof useLens>
