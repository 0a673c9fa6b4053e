import { useEffect, useState } from 'react'

const NARROW = '(max-width: 719px)'

/** Whether the screen is a phone's, so that what stands beside something else stands below it. */
export const useNarrow = (): boolean => {
  const [narrow, setNarrow] = useState(() => matchMedia(NARROW).matches)
  useEffect(() => {
    const media = matchMedia(NARROW)
    const look = () => setNarrow(media.matches)
    media.addEventListener('change', look)
    return () => media.removeEventListener('change', look)
  }, [])
  return narrow
}
