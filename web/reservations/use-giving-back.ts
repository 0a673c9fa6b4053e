import { undoChange } from '@marmot/contract/entries'
import { cancelMeeting } from '@marmot/contract/meetings'
import type { ListedReservation } from '@marmot/contract/reservations'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'
import { counted } from '../ui/parts.tsx'

/**
 * Gives several reservations back, one after the other, with one way back for all of them. Of a series the date alone that was
 * chosen; where a date has several places, it is given back as a whole.
 */
export const useGivingBack = (onDone: () => void) => {
  const queries = useQueryClient()
  const say = useUndo()
  const [done, setDone] = useState<number | null>(null)
  const giveBack = async (chosen: readonly ListedReservation[]) => {
    const dates = new Map(
      chosen.flatMap((one) => (one.entryId ? [[`${one.entryId} ${one.recurrence}`, one] as const] : [])),
    )
    const changes: string[] = []
    let trouble: unknown = null
    setDone(0)
    for (const { entryId, recurrence, repeats } of dates.values()) {
      try {
        const { changeId } = await call(cancelMeeting, {
          params: { entryId: entryId ?? '' },
          body: repeats && recurrence ? { recurrence } : {},
        })
        if (changeId) changes.push(changeId)
      } catch (error) {
        trouble = error
      }
      setDone((before) => (before ?? 0) + 1)
    }
    setDone(null)
    onDone()
    void queries.invalidateQueries()
    if (trouble) toast.error(problemWords(trouble))
    if (changes.length === 0) return
    say({
      words: `Gave back ${counted(changes.length, 'reservation', 'reservations')}.`,
      label: 'Take back',
      undo: async () => {
        // The last first, as if each had been taken back by itself.
        for (const changeId of changes.toReversed()) await call(undoChange, { params: { changeId } })
        void queries.invalidateQueries()
        return `${counted(changes.length, 'reservation is', 'reservations are')} yours again.`
      },
    })
  }
  return { giveBack, busy: done !== null, done: done ?? 0 }
}
