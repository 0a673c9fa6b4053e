import { holidaysEvent, timeEvent } from '@marmot/contract/availability'
import { liveEvent } from '@marmot/contract/live'
import type { reservationsEvent } from '@marmot/contract/resources'
import { sharingEvent } from '@marmot/contract/sharing'
import type { todosEvent } from '@marmot/contract/todo'
import { type QueryClient, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import type { z } from 'zod'

/** Whether a query has to be asked anew because of a live event. */
type Heed = (event: unknown, myId: string) => boolean

declare module '@tanstack/react-query' {
  interface Register {
    /** What a query says of itself, so that nobody else has to know it. */
    queryMeta: {
      readonly heeds?: readonly Heed[]
      /** Nobody looks at it while they work: whoever changed something does not wait until it was asked anew. */
      readonly aside?: boolean
    }
  }
}

/** Heeds live events of one kind: all of them, or those that concern the query. */
export const heed =
  <T extends z.ZodType>(
    kind: T,
    concerns: (event: z.output<T>, myId: string) => boolean = () => true,
  ): Heed =>
  (event, myId) => {
    const read = kind.safeParse(event)
    return read.success && concerns(read.data, myId)
  }

/** Of what rests on my own time; what I share and what is shared with me is told the same way. */
export const ON_MY_TIME: readonly Heed[] = [
  heed(timeEvent, (event, myId) => event.people.includes(myId)),
  heed(sharingEvent),
  heed(holidaysEvent),
]

const askAnew = (queries: QueryClient, event: unknown, myId: string): Promise<void> => {
  const concerned = (aside: boolean) =>
    queries.invalidateQueries({
      predicate: ({ meta }) =>
        (meta?.aside ?? false) === aside && (meta?.heeds?.some((heeds) => heeds(event, myId)) ?? false),
    })
  const looked = concerned(false)
  void concerned(true)
  return looked
}

/** Asks anew for what rests on my own time, at once after I changed it: the live event that says so comes as well. */
export const useMyTimeChanged = (myId: string) => {
  const queries = useQueryClient()
  return () => askAnew(queries, { kind: 'time', people: [myId] } satisfies z.input<typeof timeEvent>, myId)
}

/** Asks anew for what rests on what I have to do. */
export const useTodosChanged = (myId: string) => {
  const queries = useQueryClient()
  return () => askAnew(queries, { kind: 'todos', people: [myId] } satisfies z.input<typeof todosEvent>, myId)
}

/** Asks anew for what rests on reservations. */
export const useReservationsChanged = () => {
  const queries = useQueryClient()
  const event: z.input<typeof reservationsEvent> = { kind: 'reservations', resources: [] }
  return () => askAnew(queries, event, '')
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
