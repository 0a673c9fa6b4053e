import { createContext, type ReactNode, useContext, useMemo, useRef } from 'react'
import { useKeys } from './keys.tsx'
import { problemWords } from './problem.ts'
import { toast } from './toast.ts'

/** Something done that can be taken back. */
export interface Done {
  readonly words: string
  /** Takes it back; a text that it gives is said then. */
  readonly undo: () => Promise<unknown> | unknown
  /** What the button says. */
  readonly label?: string
  /** How long the message stays, in milliseconds. */
  readonly stays?: number
}

const UndoContext = createContext<((done: Done) => void) | null>(null)
const MOST = 30
const STAYS_MS = 8000

/** Keeps what was done, says it, and takes the newest back on Ctrl Z or by the button in the message. */
export const WithUndo = ({ children }: { children: ReactNode }) => {
  const past = useRef<Done[]>([])
  const undo = async (which?: Done) => {
    const done = which ?? past.current.at(-1)
    if (!done || !past.current.includes(done)) return
    past.current = past.current.filter((each) => each !== done)
    try {
      const words = await done.undo()
      toast(typeof words === 'string' ? words : `Undone: ${done.words}`)
    } catch (error) {
      toast.error(`It could not be taken back. ${problemWords(error)}`)
    }
  }
  const latest = useRef(undo)
  latest.current = undo
  const say = useMemo(
    () => (done: Done) => {
      past.current = [...past.current, done].slice(-MOST)
      toast(done.words, {
        duration: done.stays ?? STAYS_MS,
        action: { label: done.label ?? 'Undo', onClick: () => latest.current(done) },
      })
    },
    [],
  )
  useKeys([{ keys: 'Ctrl Z', does: 'Take back the last change', on: 'z', ctrl: true, run: () => undo() }])
  return <UndoContext value={say}>{children}</UndoContext>
}

/** Says that something was done and how it is taken back. */
export const useUndo = () => {
  const say = useContext(UndoContext)
  if (!say) throw new Error('no undo here')
  return say
}
