import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'

type Values = Readonly<Record<string, string>>

/**
 * What stands in the address under some names, and how to put something else there. What is put is there at once: the address
 * follows a moment later, in which letters that are typed would be lost.
 */
export const useAddressed = (names: readonly string[]) => {
  const [address, setAddress] = useSearchParams()
  const read = (): Values =>
    Object.fromEntries(names.flatMap((name) => (address.has(name) ? [[name, address.get(name) ?? '']] : [])))
  const [values, setValues] = useState(read)
  const there = JSON.stringify(read())
  /** What was put and has not come back from the address yet, in order. */
  const written = useRef<string[]>([])
  const seen = useRef(there)
  // What somebody else put into the address counts; what one put there oneself comes back from it late.
  useEffect(() => {
    if (seen.current === there) return
    seen.current = there
    const own = written.current.indexOf(there)
    written.current = own < 0 ? [] : written.current.slice(own + 1)
    if (own < 0) setValues(JSON.parse(there))
  }, [there])
  const put = (given: Readonly<Record<string, string | null>>) => {
    const kept = Object.entries({ ...values, ...given }).filter((one): one is [string, string] =>
      Boolean(one[1]),
    )
    const next = Object.fromEntries(names.flatMap((name) => kept.filter(([key]) => key === name)))
    setValues(next)
    written.current = [...written.current, JSON.stringify(next)]
    setAddress(
      (before) => {
        const after = new URLSearchParams(before)
        for (const name of Object.keys(given))
          if (next[name]) after.set(name, next[name])
          else after.delete(name)
        return after
      },
      { replace: true },
    )
  }
  return { values, put }
}
