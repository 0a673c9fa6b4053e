import { useRef, useState } from 'react'

/**
 * Something that is sent when a button is pressed: whether it is under way, and what went wrong with it last. `attempt` gives
 * whether it went well.
 */
export const useAttempt = () => {
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<unknown>(null)
  const attempt = async (work: () => Promise<unknown>): Promise<boolean> => {
    setBusy(true)
    setTrouble(null)
    try {
      await work()
      return true
    } catch (error) {
      setTrouble(error)
      return false
    } finally {
      setBusy(false)
    }
  }
  return { busy, trouble, attempt }
}

/**
 * The key under which something is sent: the same as long as it says the same, so that a second press after a lost answer does
 * nothing twice.
 */
export const useKeyOf = (): ((asked: unknown) => string) => {
  const kept = useRef({ of: '', key: '' })
  return (asked) => {
    const of = JSON.stringify(asked)
    if (kept.current.of !== of) kept.current = { of, key: crypto.randomUUID() }
    return kept.current.key
  }
}
