import { type QueryKey, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { problemWords } from './api.ts'

/**
 * Tries a change and keeps what went wrong, in words; either way what it may have changed is asked for anew. The words go
 * with the next try.
 */
export const useAttempt = (queryKey: QueryKey) => {
  const queries = useQueryClient()
  const [trouble, setTrouble] = useState('')
  const refresh = () => queries.invalidateQueries({ queryKey })
  const attempt = async (work: () => Promise<unknown>): Promise<void> => {
    setTrouble('')
    try {
      await work()
    } catch (error) {
      setTrouble(problemWords(error))
    }
    await refresh()
  }
  return { trouble, attempt, refresh }
}
