import { type IncomingMessage, type Server, ServerResponse, STATUS_CODES } from 'node:http'
import type { Duplex } from 'node:stream'
import type { AnyRoute } from '@marmot/contract/route'
import type Koa from 'koa'
import type { Logger } from 'pino'
import { type WebSocket, WebSocketServer } from 'ws'
import { fromForeignOrigin } from './guard.ts'
import { ProblemError } from './problems.ts'
import type { Opened, Routes } from './router.ts'

const BEAT_MS = 20_000
/** As much as a whole document that somebody comes back with after they were offline. */
const MOST_MESSAGE_BYTES = 192 * 1024
/** Whoever takes nothing for so long is cut off, and comes again by themselves. */
const MOST_WAITING_BYTES = 2 * 1024 * 1024
/** So many stay open for one session, or for one guest's link. */
const MOST_OPEN = 20

/** Closing codes (RFC 6455 section 7.4.2): those from 4400 to 4499 say that coming again is of no use. */
export const CLOSED = {
  unreadable: 4400,
  signedOut: 4401,
  notYours: 4404,
  tooLarge: 4413,
  tooMany: 4429,
  again: 4503,
} as const

const MOST_REASON_BYTES = 120

/** Closes a WebSocket and says why, as far as the words fit into its last message. */
export const closeSocket = (socket: WebSocket, code: number, words: string): void =>
  socket.close(code, words.slice(0, MOST_REASON_BYTES))

/** Sends to a WebSocket, or cuts it off when it takes nothing. */
export const sendTo = (socket: WebSocket, bytes: Uint8Array): void => {
  if (socket.readyState !== socket.OPEN) return
  if (socket.bufferedAmount > MOST_WAITING_BYTES) socket.terminate()
  else socket.send(bytes)
}

const paramsOf = (route: AnyRoute, path: string): Record<string, string> | null => {
  const wanted = route.path.split('/')
  const given = path.split('/')
  if (wanted.length !== given.length) return null
  const params: Record<string, string> = {}
  for (const [i, part] of wanted.entries()) {
    const value = given[i] ?? ''
    if (part.startsWith(':')) params[part.slice(1)] = value
    else if (part !== value) return null
  }
  return params
}

/** Answers a request that is not let in with its problem, and hangs up. */
const refuse = (raw: Duplex, error: ProblemError): void => {
  const body = JSON.stringify(error.toProblem())
  raw.end(
    `HTTP/1.1 ${error.status} ${STATUS_CODES[error.status] ?? ''}\r\ncontent-type: application/problem+json\r\n` +
      `content-length: ${Buffer.byteLength(body)}\r\nconnection: close\r\n\r\n${body}`,
  )
}

interface Seat {
  readonly session: string
  answered: boolean
}

/**
 * WebSockets beside the routes: each is opened by a route of the contract, by somebody in a session (or with a guest's link),
 * from a page of ours. They end with their session, and when nobody answers at the other end.
 */
export const openSockets = (
  {
    server,
    app,
    routes: { sockets: routes, askerOf },
    log,
  }: { server: Server; app: Koa; routes: Pick<Routes, 'sockets' | 'askerOf'>; log: Logger },
  lasting: (sessions: readonly string[]) => Promise<Set<string>>,
) => {
  const sockets = new WebSocketServer({ noServer: true, maxPayload: MOST_MESSAGE_BYTES })
  const seats = new Map<WebSocket, Seat>()

  const seat = async (request: IncomingMessage): Promise<{ opened: Opened; session: string }> => {
    const context = app.createContext(request, new ServerResponse(request))
    if (fromForeignOrigin(context))
      throw new ProblemError(403, 'foreign-origin', 'This came from another site, so it was not opened.')
    const found = routes.flatMap((one) => {
      const params = paramsOf(one.route, context.path)
      return params ? [{ ...one, params }] : []
    })[0]
    if (!found) throw new ProblemError(404, 'no-such-route', 'There is nothing to be opened here.')
    const asker = await askerOf(found.route, context)
    const key = asker.session || context.path
    if ([...seats.values()].filter((one) => one.session === key).length >= MOST_OPEN)
      throw new ProblemError(429, 'too-many-open', 'Too many of these are open already. Close some windows.')
    const opened = await found.open({ params: found.params, query: context.query, asker })
    return { opened, session: key }
  }

  server.on('upgrade', async (request, raw, head) => {
    raw.on('error', (error: Error) => log.debug({ error }, 'a connection ended early'))
    try {
      const { opened, session } = await seat(request)
      if (raw.destroyed) return
      sockets.handleUpgrade(request, raw, head, (socket) => {
        const own: Seat = { session, answered: true }
        seats.set(socket, own)
        socket.on('pong', () => {
          own.answered = true
        })
        socket.on('error', (error) => log.debug({ error }, 'a socket'))
        socket.on('close', () => seats.delete(socket))
        opened(socket)
      })
    } catch (error) {
      if (!(error instanceof ProblemError)) log.error({ error }, 'a socket could not be opened')
      refuse(raw, error instanceof ProblemError ? error : new ProblemError(500, 'unforeseen', 'Try again.'))
    }
  })

  const endSessions = (gone: (session: string) => boolean) => {
    for (const [socket, { session }] of seats)
      if (!session.startsWith('/') && gone(session))
        closeSocket(socket, CLOSED.signedOut, 'You are signed out here.')
  }

  const beat = setInterval(async () => {
    for (const [socket, own] of seats) {
      if (!own.answered) socket.terminate()
      own.answered = false
      socket.ping()
    }
    const open = [...new Set([...seats.values()].map((one) => one.session))].filter(
      (one) => !one.startsWith('/'),
    )
    if (open.length === 0) return
    try {
      const going = await lasting(open)
      endSessions((session) => open.includes(session) && !going.has(session))
    } catch (error) {
      log.debug({ error }, 'sessions were not looked for')
    }
  }, BEAT_MS)

  return {
    /** Closes what is open in a session that has ended. */
    ended: (session: string) => endSessions((one) => one === session),
    close: (): void => {
      clearInterval(beat)
      for (const socket of seats.keys()) {
        closeSocket(socket, CLOSED.again, 'Marmot is started anew.')
        setTimeout(() => socket.terminate(), 500).unref()
      }
      sockets.close()
    },
  }
}
