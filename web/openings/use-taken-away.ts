import { useEffect, useRef } from 'react'
import { toast } from 'sonner'
import type { Arranging } from './use-arranging.ts'
import { listed } from './words.ts'

const CAN_COME = ['free', 'stretch', 'unknown']

/** Says so when somebody's change takes the chosen time away while one looks at it. */
export const useTakenAway = (arranging: Arranging): void => {
  const { chosen, reasons, names, settled } = arranging
  const before = useRef<{ start: number; end: number; blocked: readonly string[] } | null>(null)
  const blocked = reasons.filter(({ how }) => !CAN_COME.includes(how.state)).map(({ id }) => id)
  const key = blocked.join()
  useEffect(() => {
    if (!settled || !chosen) {
      before.current = null
      return
    }
    const now = { start: chosen.start, end: chosen.end, blocked: key ? key.split(',') : [] }
    const last = before.current
    before.current = now
    // Only at a time that stayed the same: when one moves it oneself, the lanes say it.
    if (!last || last.start !== now.start || last.end !== now.end) return
    const fresh = now.blocked.filter(
      (id) => !last.blocked.includes(id) && reasons.some((reason) => reason.id === id),
    )
    if (fresh.length)
      toast.warning(
        `${listed(fresh.map(names.person))} cannot come at the chosen time any more: it changed just now.`,
      )
  }, [key, chosen, settled, names, reasons])
}
