import { type Brief, brief as briefSchema } from '@marmot/contract/briefs'
import { useEffect, useRef } from 'react'
import { useLocation, useSearchParams } from 'react-router'
import { useBrief } from './brief.tsx'
import { TAKING_UP } from './use-taking-up.ts'

const encode = (value: unknown): string => {
  const bytes = new TextEncoder().encode(JSON.stringify(value))
  return btoa(String.fromCharCode(...bytes))
    .replace(/\+/g, '-')
    .replace(/\//g, '_')
    .replace(/=+$/, '')
}

const decode = (text: string): unknown => {
  try {
    const bytes = Uint8Array.from(atob(text.replace(/-/g, '+').replace(/_/g, '/')), (sign) =>
      sign.charCodeAt(0),
    )
    return JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    return null
  }
}

/** Changes are written into the address when they have rested this long: a drag is not a hundred addresses. */
const REST_MS = 400

/**
 * The brief in hand stands in the address, so that it can be sent to a colleague, who has it in hand on opening it. A
 * hold is its owner's alone and stays out. An address that cannot be read changes nothing; one that can is told.
 */
export const useBriefAddress = (onArrival: (brief: Brief) => void): void => {
  const { brief, change, untouched } = useBrief()
  const [params, setParams] = useSearchParams()
  const { pathname } = useLocation()
  // Every address of ours: one that arrives late is no news, however far the brief has come meanwhile.
  const written = useRef(new Set<string>())
  const last = useRef<string | null>(null)
  const given = params.get('brief')
  const arrival = useRef(onArrival)
  arrival.current = onArrival
  useEffect(() => {
    if (given === null || written.current.has(given)) return
    written.current.add(given)
    last.current = given
    const read = briefSchema().safeParse(decode(given))
    if (!read.success) return
    change({ ...read.data, hold: null })
    arrival.current(read.data)
  }, [given, change])
  useEffect(() => {
    const timer = setTimeout(() => {
      // Somebody may be on the way to another screen that is not drawn yet: this one's address must not call them back.
      if (window.location.pathname !== pathname) return
      // A meeting that is about to be taken in hand stands in the address; it is not to be lost from there.
      if (params.has(TAKING_UP)) return
      const next = untouched ? null : encode({ ...brief, hold: null })
      if (next === last.current) return
      last.current = next
      if (next !== null) written.current.add(next)
      setParams(next === null ? {} : { brief: next }, { replace: true })
    }, REST_MS)
    return () => clearTimeout(timer)
  }, [brief, untouched, params, setParams, pathname])
}
