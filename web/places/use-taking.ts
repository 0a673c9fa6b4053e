import type { Span } from '@marmot/core/availability'
import { MINUTE } from '@marmot/core/time'
import { useState } from 'react'
import type { Chosen } from '../lanes/types.ts'
import { useBrief } from '../openings/brief.tsx'
import type { PlaceLane } from '../resources/resources.ts'
import { unitAt } from './place-groups.tsx'

const NONE: readonly string[] = []
const NOTHING: ReadonlySet<string> = new Set()

/** The chosen time on the lanes of places, and what is being reserved at it. */
export const useTaking = (about: (placeId: string | null) => void) => {
  const { brief } = useBrief()
  const [chosen, setChosen] = useState<Chosen | null>(
    brief.start === null
      ? null
      : { start: brief.start, end: brief.start + brief.minutes * MINUTE, rowId: null },
  )
  /** The places of what is being reserved; null while nothing is. */
  const [reserving, setReserving] = useState<readonly string[] | null>(null)

  /** A time was drawn or pressed on a lane. Pressed within the chosen time, a second place is taken along; drawn anew, it is another. */
  const take = (next: Chosen, places: readonly PlaceLane[]) => {
    if (next.rowId === null) return
    const rowId = unitAt(places, next.rowId, next, reserving ?? NONE)
    setChosen(next)
    setReserving((before) => {
      if (!before) return [rowId]
      if (before.includes(rowId)) return before
      const same = chosen && chosen.start === next.start && chosen.end === next.end
      return same ? [...before, rowId] : [rowId]
    })
    about(null)
  }
  return {
    chosen,
    choose: setChosen,
    reserving,
    take,
    put: (span: Span, placeIds: readonly string[]) => {
      setChosen({ ...span, rowId: placeIds[0] ?? null })
      setReserving(placeIds)
    },
    close: () => {
      setReserving(null)
      setChosen(null)
    },
  }
}

/** Counted things of which the units are shown, by their keys. */
export const useOpened = () => {
  const [opened, setOpened] = useState<ReadonlySet<string>>(NOTHING)
  const turn = (key: string) =>
    setOpened((before) => {
      const after = new Set(before)
      if (!after.delete(key)) after.add(key)
      return after
    })
  return { opened, turn }
}
