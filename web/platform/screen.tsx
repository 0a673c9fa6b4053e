import { Component, type ComponentType, lazy, type ReactNode, Suspense, useState } from 'react'
import { Button, Loading, Trouble } from '../ui/parts.tsx'

/** What browsers say, each in its own words, of code that could not be fetched. */
const NOT_FETCHED = /dynamically imported module|module script|importing a module/i

/** Whether code could not be fetched: the network is away, or a newer Marmot has other files. */
export const notFetched = (error: unknown): boolean =>
  error instanceof Error && NOT_FETCHED.test(error.message)

const wordsOf = (error: unknown): string =>
  notFetched(error)
    ? 'This screen could not be fetched: the network is away, or Marmot was renewed meanwhile. Nothing of yours was lost.'
    : 'Something went wrong on this screen. What you have kept is kept.'

interface BoundaryProps {
  readonly children: ReactNode
  readonly onRetry: () => void
}

/** Says what went wrong below it instead of leaving a blank page, and tries again. */
export class Boundary extends Component<BoundaryProps, { error: unknown }> {
  override state: { error: unknown } = { error: null }

  static getDerivedStateFromError(error: unknown) {
    return { error }
  }

  override render() {
    if (this.state.error === null) return this.props.children
    const retry = () => {
      this.setState({ error: null })
      this.props.onRetry()
    }
    return (
      <div className="mx-auto flex max-w-lg flex-col gap-3 p-8">
        <Trouble action={<Button onClick={retry}>Try again</Button>}>{wordsOf(this.state.error)}</Trouble>
        <Button className="self-start" onClick={() => location.reload()}>
          Load Marmot anew
        </Button>
      </div>
    )
  }
}

/** A screen, and how to have its code here before it is shown. */
export type Screen<P extends object> = ComponentType<P> & { readonly prepare: () => void }

/**
 * A screen whose code is fetched when it is first shown, or when somebody is about to go there; what could not be fetched is asked
 * for again on request.
 */
export const screen = <P extends object>(load: () => Promise<ComponentType<P>>): Screen<P> => {
  // What is here already is drawn at once: a lazy part would show that it is waiting first, and React keeps that for 300 ms.
  let here: ComponentType<P> | null = null
  const fetched = async () => {
    here = await load()
    return { default: here }
  }
  const shown = (props: P) => {
    const [{ Inner }, setInner] = useState(() => ({ Inner: here ?? lazy(fetched) }))
    return (
      <Boundary onRetry={() => setInner({ Inner: lazy(fetched) })}>
        <Suspense
          fallback={
            <div className="p-8">
              <Loading what="the page" />
            </div>
          }
        >
          <Inner {...props} />
        </Suspense>
      </Boundary>
    )
  }
  return Object.assign(shown, { prepare: () => void fetched().catch(() => undefined) })
}
