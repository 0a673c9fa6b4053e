import { liveEvent } from '@marmot/contract/live'
import { type QueryKey, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

/**
 * Follows the server's live events: each says what changed, and what is shown of it is asked for anew. After a break
 * everything is. Gives whether the stream stands.
 */
export const useLive = (myId: string): boolean => {
  const queries = useQueryClient()
  const [standing, setStanding] = useState(true)
  useEffect(() => {
    const source = new EventSource('/api/events')
    const ask = (...key: string[]) => queries.invalidateQueries({ queryKey: key })
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
      if (!read.success) return
      const event = read.data
      if (event.kind === 'reservations') ask('reservations')
      if (event.kind === 'time') {
        // A list of people's time is asked for anew only when one of the changed is in it.
        const concerned = (key: QueryKey) => event.people.some((id) => String(key[1]).includes(id))
        queries.invalidateQueries({ queryKey: ['time'], predicate: (query) => concerned(query.queryKey) })
        if (event.people.includes(myId)) {
          ask('entries')
          ask('now')
          // What I share, and what is shared with me, is told the same way.
          ask('time')
        }
      }
      if (event.kind === 'sharing') {
        ask('time')
        ask('entries')
      }
      if (event.kind === 'reminders') ask('reminders')
      if (event.kind === 'meeting') {
        ask('meeting', event.entryId)
        ask('now')
      }
    }
    return () => source.close()
  }, [queries, myId])
  return standing
}
