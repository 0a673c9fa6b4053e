import { useState } from 'react'
import { useMyTimeChanged } from './live.ts'
import { problemWords } from './problem.ts'
import { useMe } from './session.tsx'

/**
 * Tries a change to what is mine and keeps what went wrong, in words; either way what it may have changed is asked for
 * anew. The words go with the next try.
 */
export const useAttempt = () => {
  const { person } = useMe()
  const [trouble, setTrouble] = useState('')
  const refresh = useMyTimeChanged(person.id)
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
