import { useEffect, useState } from 'react'
import { WebsocketProvider } from 'y-websocket'
import * as Y from 'yjs'

/** Where an agenda is written: its address on the server, and the date of a series. */
export interface AgendaAddress {
  readonly path: string
  readonly recurrence: string | null
}

/** Somebody else who has the agenda open, and the point that they are in. */
export interface Other {
  readonly client: number
  readonly name: string
  readonly item: string | null
}

/** How it stands: together with the others, not connected (again), or over, in words. */
export type Standing = 'coming' | 'together' | 'away' | { readonly over: string }

/** A document that is written together with others, while a page shows it. */
export interface Together {
  readonly document: Y.Doc
  readonly provider: WebsocketProvider
}

/** A message larger than may be (RFC 6455 section 7.4.1). */
const TOO_BIG = 1009
const FULL = 4413

const wordsOf = (code: number, reason: string): string =>
  code === FULL || code === TOO_BIG
    ? 'The agenda is full: what you wrote last is only here. Copy what you need of it, and open the agenda again.'
    : reason || 'The agenda was closed.'

const isOver = (code: number): boolean => code === TOO_BIG || (code >= 4400 && code < 4500)

const openTogether = ({ path, recurrence }: AgendaAddress): Together => {
  const document = new Y.Doc()
  const provider = new WebsocketProvider(
    `${location.origin.replace(/^http/, 'ws')}${path}`,
    'live',
    document,
    {
      params: recurrence ? { recurrence } : {},
      disableBc: true,
      shouldReconnect: (event) => !isOver(event.code),
    },
  )
  // Said at once, so that others see that somebody is here who has not typed yet.
  provider.awareness.setLocalState({ item: null })
  return { document, provider }
}

const othersIn = ({ provider, document }: Together): Other[] =>
  [...provider.awareness.getStates()].flatMap(([client, state]) =>
    client === document.clientID || typeof state.user?.name !== 'string'
      ? []
      : [{ client, name: state.user.name, item: typeof state.item === 'string' ? state.item : null }],
  )

/** Opens an agenda for as long as it is shown, and says who else has it open and how the connection stands. */
export const useTogether = (address: AgendaAddress) => {
  const { path, recurrence } = address
  const [together, setTogether] = useState<Together | null>(null)
  const [standing, setStanding] = useState<Standing>('coming')
  const [others, setOthers] = useState<readonly Other[]>([])
  useEffect(() => {
    const open = openTogether({ path, recurrence })
    const { provider } = open
    let unsent = false
    setStanding('coming')
    provider.on('sync', (is: boolean) => {
      if (!is) return
      unsent = false
      setTogether(open)
      setStanding('together')
    })
    const away = () => setStanding((before) => (typeof before === 'object' ? before : 'away'))
    provider.on('status', ({ status }: { status: string }) => {
      if (status === 'disconnected') away()
    })
    provider.on('connection-error', away)
    provider.on('connection-close', (event: CloseEvent | null) => {
      if (event && isOver(event.code)) setStanding({ over: wordsOf(event.code, event.reason) })
    })
    open.document.on('update', (_update: Uint8Array, origin: unknown) => {
      if (origin !== provider && !provider.wsconnected) unsent = true
    })
    provider.awareness.on('change', () => setOthers(othersIn(open)))
    const stay = (event: BeforeUnloadEvent) => {
      if (unsent) event.preventDefault()
    }
    // A connection without a network seems to stand for half a minute; the browser knows better.
    const leave = () => provider.disconnect()
    const comeBack = () => provider.connect()
    window.addEventListener('beforeunload', stay)
    window.addEventListener('offline', leave)
    window.addEventListener('online', comeBack)
    return () => {
      window.removeEventListener('beforeunload', stay)
      window.removeEventListener('offline', leave)
      window.removeEventListener('online', comeBack)
      provider.destroy()
      open.document.destroy()
      setTogether(null)
      setOthers([])
    }
  }, [path, recurrence])
  return { together, standing, others }
}
