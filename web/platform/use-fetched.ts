import { useCallback, useEffect, useRef, useState } from 'react'

/** Something fetched, for pages that have no cache of queries: what came last stays while it is asked for anew. */
export interface Fetched<T> {
  readonly data: T | null
  readonly error: unknown
  readonly again: () => Promise<void>
}

/** Fetches what `ask` gives, at first and whenever `again` is called; of several under way the newest counts. */
export const useFetched = <T>(ask: () => Promise<T>): Fetched<T> => {
  const [state, setState] = useState<{ data: T | null; error: unknown }>({ data: null, error: null })
  const newest = useRef(0)
  const asked = useRef(ask)
  asked.current = ask
  const again = useCallback(async () => {
    const mine = ++newest.current
    try {
      const data = await asked.current()
      if (mine === newest.current) setState({ data, error: null })
    } catch (error) {
      if (mine === newest.current) setState((before) => ({ ...before, error }))
    }
  }, [])
  useEffect(() => {
    void again()
  }, [again])
  return { ...state, again }
}

/** Calls `again` at each live event of an address, and after a break. */
export const useEvents = (address: string, again: () => Promise<void>): void => {
  useEffect(() => {
    const source = new EventSource(address)
    source.onmessage = () => void again()
    source.addEventListener('again', () => void again())
    return () => source.close()
  }, [address, again])
}
