import {
  Component,
  type ComponentType,
  type LazyExoticComponent,
  lazy,
  type ReactNode,
  startTransition,
  useEffect,
  useRef,
  useState,
} from 'react'
import { notFetched } from './screen.tsx'
import { toast } from './toast.ts'

interface MissingProps {
  readonly children: ReactNode
  readonly onMissing: () => void
}

/** Leaves out what could not be fetched. What breaks otherwise is the matter of whoever stands above. */
class LeftOut extends Component<MissingProps, { error: unknown }> {
  override state: { error: unknown } = { error: null }

  static getDerivedStateFromError(error: unknown) {
    return { error }
  }

  override componentDidCatch(error: unknown) {
    if (notFetched(error)) this.props.onMissing()
  }

  override render() {
    if (this.state.error === null) return this.props.children
    if (!notFetched(this.state.error)) throw this.state.error
    return null
  }
}

const FIRST_WAIT_MS = 5000
const LONGEST_WAIT_MS = 60_000

const sayMissing = () =>
  toast.error('A part of this screen could not be fetched. It comes by itself when the network is back.', {
    id: 'not-fetched',
    action: { label: 'Load Marmot anew', onClick: () => location.reload() },
  })

/**
 * A part of a screen whose code is fetched when it is first shown, below a `Suspense`. What cannot be fetched takes nothing else of
 * the screen away: it is left out and asked for again, and somebody is told unless nobody asked for it (`quiet`).
 */
export const part = <P extends object>(
  load: () => Promise<ComponentType<P>>,
  { quiet = false }: { quiet?: boolean } = {},
): ComponentType<P> => {
  const fetched = (): LazyExoticComponent<ComponentType<P>> =>
    lazy(() => load().then((component) => ({ default: component })))
  let Inner = fetched()
  return (props: P) => {
    const [tries, setTries] = useState(0)
    const stop = useRef<() => void>(() => undefined)
    useEffect(() => () => stop.current(), [])
    const again = () => {
      if (!quiet) sayMissing()
      Inner = fetched()
      stop.current()
      const retry = () => {
        stop.current()
        startTransition(() => setTries(tries + 1))
      }
      const timer = setTimeout(retry, Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** tries))
      window.addEventListener('online', retry)
      stop.current = () => {
        clearTimeout(timer)
        window.removeEventListener('online', retry)
      }
    }
    return (
      <LeftOut key={tries} onMissing={again}>
        <Inner {...props} />
      </LeftOut>
    )
  }
}
