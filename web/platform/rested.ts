import { useEffect, useState } from 'react'

/** What is typed has rested when it was the same for this long. */
const REST_MS = 250

/** A text once it has rested, so that nothing is asked at each letter. */
export const useRested = (text: string): string => {
  const [rested, setRested] = useState(text)
  useEffect(() => {
    const timer = setTimeout(() => setRested(text), REST_MS)
    return () => clearTimeout(timer)
  }, [text])
  return rested
}
