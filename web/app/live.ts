import { liveEvent } from '@marmot/contract/live'
import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

/**
 * Follows the server's live events: each says what changed, and what is shown of it is asked for anew. After a break
 * everything is. Gives whether the stream stands.
 */
export const useLive = (): boolean => {
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
        ask('time')
        ask('entries')
      }
      if (event.kind === 'meeting') ask('meeting', event.entryId)
      if (event.kind !== 'reservations') ask('now')
    }
    return () => source.close()
  }, [queries])
  return standing
}
