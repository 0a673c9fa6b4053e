import { readWish, type Wish } from '@marmot/core/reservations'
import { useMemo } from 'react'
import { useAddressed } from '../platform/addressed.ts'

export const KINDS = [
  { kind: null, name: 'All' },
  { kind: 'room', name: 'Rooms' },
  { kind: 'lab', name: 'Labs' },
  { kind: 'desk', name: 'Desks' },
  { kind: 'equipment', name: 'Equipment' },
] as const

const NAMES = ['find', 'kind', 'site', 'floor', 'seats', 'free'] as const

/** What is looked for, as it stands in the address: so that it can be sent to somebody, and comes back. */
export const useWish = (features: readonly string[]) => {
  const { values, put } = useAddressed(NAMES)
  const text = values.find ?? ''
  const seats = Math.max(0, Math.min(2000, Number(values.seats) || 0))
  // Rooms are what most come for; "all" has to be said.
  const asked = values.kind ?? 'room'
  const kind = KINDS.find((one) => one.kind === asked)?.kind ?? null
  const { site: siteId = null, floor = null } = values
  const wish = useMemo((): Wish => {
    const typed = readWish(text, features)
    return { ...typed, kind, siteId, floor, seats: Math.max(seats, typed.seats) }
  }, [text, features, kind, siteId, floor, seats])
  return { wish, text, seats, kind, onlyFree: Boolean(values.free), put }
}
