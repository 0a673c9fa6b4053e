import {
  createContext,
  type ReactNode,
  Suspense,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import { part } from './part.tsx'

const KeysSheet = part(() => import('./keys-sheet.tsx').then((m) => m.KeysSheet))

/** One key of a screen: what it does in words, for the list behind `?`. */
export interface Key {
  readonly keys: string
  readonly does: string
  /** What `event.key` must be; none for keys that the lanes themselves handle. */
  readonly on?: string
  readonly ctrl?: boolean
  readonly run?: () => void
  /** True for a key that is no letter of what one types. */
  readonly whileTyping?: boolean
}

const KeysContext = createContext<{
  add: (keys: readonly Key[]) => () => void
  /** Every key that holds now, a screen's own first, each once. */
  list: () => readonly Key[]
} | null>(null)

/** Whether a key belongs to what one is in: a tick box takes none but the space bar. */
const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
  !(target instanceof HTMLInputElement && target.type === 'checkbox')

/** Listens for the keys of the screen and shows their list on `?`. */
export const WithKeys = ({ children }: { children: ReactNode }) => {
  const lists = useRef(new Set<readonly Key[]>())
  const [shown, setShown] = useState<readonly Key[] | null>(null)
  const value = useMemo(
    () => ({
      add: (keys: readonly Key[]) => {
        lists.current.add(keys)
        return () => {
          lists.current.delete(keys)
        }
      },
      list: () => {
        // A screen's own key comes before one that holds everywhere.
        const known = [...lists.current].reverse().flat()
        return known.filter((key, i) => known.findIndex((each) => each.keys === key.keys) === i)
      },
    }),
    [],
  )
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.altKey || event.metaKey) return
      const known = value.list()
      if (event.key === '?' && !typing(event.target)) {
        setShown(known)
        return
      }
      const key = known.find(
        (each) => each.on === event.key && Boolean(each.ctrl) === event.ctrlKey && each.run,
      )
      if (!key?.run) return
      // A sheet over the screen has the keys for itself; one beside it those that are pressed within it.
      if (document.querySelector('[role=dialog]:not([data-beside])')) return
      if (event.target instanceof Element && event.target.closest('[role=dialog]')) return
      if (typing(event.target) && !key.whileTyping) return
      event.preventDefault()
      key.run()
    }
    document.addEventListener('keydown', listen)
    return () => document.removeEventListener('keydown', listen)
  }, [value])
  return (
    <KeysContext value={value}>
      {children}
      {shown && (
        <Suspense>
          <KeysSheet keys={shown} onClose={() => setShown(null)} />
        </Suspense>
      )}
    </KeysContext>
  )
}

/** Adds keys while the component is on screen. The newest `run` of each is called. */
export const useKeys = (keys: readonly Key[]): void => {
  const context = useContext(KeysContext)
  const newest = useRef(keys)
  newest.current = keys
  const shape = keys.map((key) => `${key.keys}|${key.does}|${key.on}|${key.ctrl}`).join('\n')
  // biome-ignore lint/correctness/useExhaustiveDependencies: the shape stands for the keys, whose functions are read when pressed
  useEffect(() => {
    const stable = newest.current.map((key, i) => ({
      ...key,
      ...(key.run ? { run: () => newest.current[i]?.run?.() } : {}),
    }))
    return context?.add(stable)
  }, [context, shape])
}

/** The keys that hold now, for those who show them. */
export const useKeyList = (): (() => readonly Key[]) => useContext(KeysContext)?.list ?? (() => [])
