import { type LiveEvent, liveEvent } from '@marmot/contract/live'
import { type Query, type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

/** Of which live events a query has to be asked anew: of all of a kind, or of those that concern it. */
export interface Heeds {
  readonly time?: (event: Extract<LiveEvent, { kind: 'time' }>, myId: string) => boolean
  readonly sharing?: () => boolean
  readonly reservations?: () => boolean
  readonly reminders?: () => boolean
  readonly meeting?: (event: Extract<LiveEvent, { kind: 'meeting' }>) => boolean
}

declare module '@tanstack/react-query' {
  interface Register {
    /** What a query says of itself, so that nobody else has to know it. */
    queryMeta: { readonly heeds?: Heeds }
  }
}

/** For `heeds`: of every event of the kind. */
export const always = (): boolean => true
/** For `heeds.time`: when my own time changed, which also says what I share and what is shared with me. */
export const whenMine: NonNullable<Heeds['time']> = (event, myId) => event.people.includes(myId)

const concerns = ({ meta }: Pick<Query, 'meta'>, event: LiveEvent, myId: string): boolean => {
  const heeds = meta?.heeds
  if (!heeds) return false
  switch (event.kind) {
    case 'time':
      return heeds.time?.(event, myId) ?? false
    case 'meeting':
      return heeds.meeting?.(event) ?? false
    default:
      return heeds[event.kind]?.() ?? false
  }
}

const askAnew = (queries: QueryClient, event: LiveEvent, myId: string): Promise<void> =>
  queries.invalidateQueries({ predicate: (query) => concerns(query, event, myId) })

/** Asks anew for what rests on my own time, at once after I changed it: the live event that says so comes as well. */
export const useMyTimeChanged = (myId: string) => {
  const queries = useQueryClient()
  return () => askAnew(queries, { kind: 'time', people: [myId] }, myId)
}

/** Asks anew for what rests on reservations. */
export const useReservationsChanged = () => {
  const queries = useQueryClient()
  return () => askAnew(queries, { kind: 'reservations', resources: [] }, '')
}

/**
 * Follows the server's live events: each says what changed, and what is shown of it is asked for anew. After a break
 * everything is. Gives whether the stream stands.
 */
export const useLive = (myId: string): boolean => {
  const queries = useQueryClient()
  const [standing, setStanding] = useState(true)
  useEffect(() => {
    const source = new EventSource('/api/events')
    let broken = false
    source.addEventListener('ready', () => {
      setStanding(true)
      if (broken) queries.invalidateQueries()
      broken = false
    })
    source.addEventListener('again', () => queries.invalidateQueries())
    source.onerror = () => {
      broken = true
      setStanding(false)
    }
    source.onmessage = (message) => {
      const read = liveEvent.safeParse(JSON.parse(message.data))
      if (read.success) askAnew(queries, read.data, myId)
    }
    return () => source.close()
  }, [queries, myId])
  return standing
}
