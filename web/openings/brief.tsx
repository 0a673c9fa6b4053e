import { type Brief, brief as briefSchema, emptyBrief } from '@marmot/contract/briefs'
import { dayOf, toWall } from '@marmot/core/time'
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useState } from 'react'
import { useKeys } from '../platform/keys.tsx'
import { useMe } from '../platform/session.tsx'

export type Change = Partial<Brief>

interface Hand {
  readonly brief: Brief
  /** Changes with the same `gesture`, a drag's, are one change: one step back undoes all of it. None is no step. */
  readonly change: (change: Change, gesture?: number) => void
  /** Takes another brief in hand; what was in hand before is back once that is cleared. */
  readonly takeUp: (brief: Brief) => void
  readonly clear: () => void
  readonly undo: () => boolean
  /** The second of two meetings that one brief was split into, until it is taken up. */
  readonly later: Brief | null
  readonly setLater: (later: Brief | null) => void
  /** True when nothing has been put into it yet. */
  readonly untouched: boolean
}

const HandContext = createContext<Hand | null>(null)
const MOST_UNDO = 60
/** Words typed within this many milliseconds of one another are one change. */
const SAME_MS = 800
const NOTHING = { what: '', at: 0 }
const TYPED = ['title', 'note', 'agenda']

const kept = (key: string): Brief | null => {
  try {
    const before: unknown = JSON.parse(sessionStorage.getItem(key) ?? 'null')
    return before === null ? null : (briefSchema().safeParse(before).data ?? null)
  } catch {
    return null
  }
}

const isUntouched = (brief: Brief): boolean =>
  brief.meeting === null &&
  brief.people.length < 2 &&
  brief.guests.length === 0 &&
  !brief.title &&
  brief.start === null &&
  brief.places.length === 0

/** Keeps the brief while one goes from screen to screen, and through a reload. */
export const WithBrief = ({ children }: { children: ReactNode }) => {
  const { person, zone, clock } = useMe()
  const key = `brief:${person.id}`
  const fresh = useCallback(
    () => emptyBrief(dayOf(toWall(zone, clock())), person.id),
    [zone, clock, person.id],
  )
  const [{ brief, aside, past }, setState] = useState<{
    brief: Brief
    /** What was in hand before a meeting was taken up to be changed. */
    aside: Brief | null
    past: readonly Brief[]
    last: typeof NOTHING
  }>(() => ({
    brief: kept(key) ?? fresh(),
    aside: kept(`${key}:aside`),
    past: [],
    last: NOTHING,
  }))
  const [later, setLater] = useState(() => kept(`${key}:later`))
  useEffect(() => {
    sessionStorage.setItem(key, JSON.stringify(brief))
    sessionStorage.setItem(`${key}:later`, JSON.stringify(later))
    sessionStorage.setItem(`${key}:aside`, JSON.stringify(aside))
  }, [brief, later, aside, key])
  const value = useMemo<Hand>(
    () => ({
      brief,
      later,
      setLater,
      untouched: isUntouched(brief),
      change: (change, gesture) =>
        setState((state) => {
          if (Object.keys(change).length === 0) return state
          const typed = Object.keys(change).join()
          const what = gesture === undefined ? typed : `gesture ${gesture}`
          const at = performance.now()
          const goesOn =
            state.last.what === what &&
            (gesture !== undefined || (TYPED.includes(typed) && at - state.last.at < SAME_MS))
          return {
            ...state,
            brief: { ...state.brief, ...change },
            past: goesOn ? state.past : [...state.past, state.brief].slice(-MOST_UNDO),
            last: { what, at },
          }
        }),
      takeUp: (next) =>
        setState((state) => ({
          brief: next,
          // Of one meeting after the other, what was there before the first comes back.
          aside: state.brief.meeting ? state.aside : isUntouched(state.brief) ? null : state.brief,
          past: [],
          last: NOTHING,
        })),
      clear: () =>
        setState((state) => ({
          brief: state.aside ?? fresh(),
          aside: null,
          past: state.aside ? [] : [...state.past, state.brief].slice(-MOST_UNDO),
          last: NOTHING,
        })),
      undo: () => {
        if (past.length === 0) return false
        setState((state) => ({
          ...state,
          brief: state.past.at(-1) ?? state.brief,
          past: state.past.slice(0, -1),
          last: NOTHING,
        }))
        return true
      },
    }),
    [brief, later, past.length, fresh],
  )
  return <HandContext value={value}>{children}</HandContext>
}

export const useBrief = (): Hand => {
  const hand = useContext(HandContext)
  if (!hand) throw new Error('no brief in hand here')
  return hand
}

/** Ctrl Z on the screen where the brief is made takes back its last change. */
export const useBriefUndo = (): void => {
  const { undo } = useBrief()
  useKeys([
    { keys: 'Ctrl Z', does: 'Take back the last change to this meeting', on: 'z', ctrl: true, run: undo },
  ])
}
