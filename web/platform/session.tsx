import { type Display, type Person, type Session, whoAmI } from '@marmot/contract/people'
import { speak, type ZoneTable, zoneTable } from '@marmot/core/time'
import { queryOptions, useQuery } from '@tanstack/react-query'
import {
  createContext,
  type ReactNode,
  startTransition,
  useContext,
  useEffect,
  useMemo,
  useState,
} from 'react'
import { call } from './api.ts'
import { problemCode } from './problem.ts'

/** The signed-in person, their zone and the server's clock. */
export interface Me {
  readonly session: Session
  readonly person: Person
  readonly zone: ZoneTable
  readonly display: Display
  /** The server's clock, read now. */
  readonly clock: () => number
}

const MeContext = createContext<Me | null>(null)

/** The signed-in person; only below `WithMe`. */
export const useMe = (): Me => {
  const me = useContext(MeContext)
  if (!me) throw new Error('nobody is signed in here')
  return me
}

export const sessionKey = ['session'] as const

/** Who is signed in, or null, and how far the server's clock is ahead of this device's, in milliseconds. */
export const sessionQuery = queryOptions({
  queryKey: sessionKey,
  queryFn: async () => {
    const asked = Date.now()
    try {
      const session = await call(whoAmI)
      return { session, ahead: Date.parse(session.now) - (asked + Date.now()) / 2 }
    } catch (error) {
      if (problemCode(error) === 'not-signed-in') {
        // Nothing of whoever was signed in stays on this device.
        void import('./kept.ts').then((kept) => kept.forget()).catch(() => undefined)
        return null
      }
      throw error
    }
  },
  staleTime: Number.POSITIVE_INFINITY,
})

export const useSession = () => useQuery(sessionQuery)

export const WithMe = ({
  session,
  ahead,
  children,
}: {
  session: Session
  ahead: number
  children: ReactNode
}) => {
  const me = useMemo<Me>(() => {
    // Before anything is drawn: every date and hour on the page is worded as this person wants it.
    speak(session.display)
    return {
      session,
      person: session.person,
      zone: zoneTable(session.person.zone),
      display: session.display,
      clock: () => Date.now() + ahead,
    }
  }, [session, ahead])
  return <MeContext value={me}>{children}</MeContext>
}

/** The server's clock, to the minute; the component is drawn again when the minute changes, beside whatever one is doing then. */
export const useNow = (): number => {
  const { clock } = useMe()
  const [now, setNow] = useState(() => Math.floor(clock() / 60_000) * 60_000)
  useEffect(() => {
    const timer = setInterval(
      () => startTransition(() => setNow(Math.floor(clock() / 60_000) * 60_000)),
      5000,
    )
    return () => clearInterval(timer)
  }, [clock])
  return now
}
