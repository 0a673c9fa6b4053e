import { createHash } from 'node:crypto'
import type { IncomingMessage } from 'node:http'
import Router from '@koa/router'
import type { AnyRoute, Route } from '@marmot/contract/route'
import { isBroken, manyLines } from '@marmot/core/text'
import type { Context } from 'koa'
import type pg from 'pg'
import type { WebSocket } from 'ws'
import type { z } from 'zod'
import type { Clock } from './clock.ts'
import { at, type Sql } from './database.ts'
import { invalid, ProblemError } from './problems.ts'
import type { Threads } from './threads.ts'

/** What every handler can reach. */
export interface Deps {
  readonly pool: pg.Pool
  readonly clock: Clock
  /** Where thought goes that would hold the thread that answers. */
  readonly threads: Threads
}

/** Who is asking, found from the session cookie. */
export interface Asker {
  readonly id: string
  readonly name: string
  /** Their session, as the hash of its token. */
  readonly session: string
}

export interface Asked<P, Q, B> {
  readonly params: P
  readonly query: Q
  readonly body: B
  /** The bytes of the body, where the route asks for bytes. */
  readonly raw: Buffer<ArrayBuffer>
  readonly asker: Asker
  readonly context: Context
}

/** What is asked for when a WebSocket is to be opened. */
export interface SocketAsked<P, Q> {
  readonly params: P
  readonly query: Q
  /** Whoever signed in; without a session where the route is for guests. */
  readonly asker: Asker
}

/** What is done with a WebSocket once it is open. */
export type Opened = (socket: WebSocket) => void

/** A route that opens a WebSocket: `open` decides whether it may be, and throws a problem where not. */
export interface SocketRoute {
  readonly route: AnyRoute
  readonly open: (asked: SocketAsked<unknown, unknown>) => Promise<Opened>
}

const MOST_BYTES = 256 * 1024

const sizeInWords = (bytes: number): string =>
  bytes < 1024 * 1024 ? `${bytes / 1024} kB` : `${Math.round(bytes / 1024 / 1024)} MB`

/** Room for a body whose size nobody said. */
const FIRST_BYTES = 16 * 1024
/** Somebody who sends far too much is cut off rather than listened to. */
const CUT_OFF = 8

const readBytes = async (request: IncomingMessage, most: number): Promise<Buffer<ArrayBuffer>> => {
  // A large body goes where it will stay, part by part, instead of being there twice at its end.
  const said = Number(request.headers['content-length'])
  let kept = Buffer.alloc(said <= most ? said : FIRST_BYTES)
  let size = 0
  // Read to its end, though kept no further than allowed: a connection closed in the middle of sending loses the answer.
  for await (const part of request) {
    const begin = size
    size += part.length
    if (size > CUT_OFF * most) break
    if (size > most) continue
    if (size > kept.length) kept = Buffer.concat([kept], Math.min(most, 2 * size))
    kept.set(part, begin)
  }
  if (size > most)
    throw new ProblemError(
      413,
      'too-large',
      `What was sent is larger than ${sizeInWords(most)}. Nothing was changed.`,
    )
  return kept.subarray(0, size)
}

const readJson = (bytes: Buffer): unknown => {
  if (bytes.length === 0) return {}
  try {
    return JSON.parse(bytes.toString('utf8'))
  } catch {
    throw new ProblemError(400, 'malformed', 'What was sent is not readable JSON. Nothing was changed.')
  }
}

/**
 * The same with every text in it fit to be kept: line ends as line feeds, no other control characters. Throws at a NUL or
 * half a character, naming the field: nobody types them, and PostgreSQL keeps neither.
 */
const fit = (given: unknown, path: readonly string[] = []): unknown => {
  if (typeof given === 'string') {
    if (isBroken(given)) {
      const message = 'has characters in it that are none'
      const name = path.join('.')
      throw new ProblemError(422, 'invalid', name ? `${name}: ${message}` : message, {
        fields: [{ path: name, message }],
      })
    }
    return manyLines(given)
  }
  if (Array.isArray(given)) return given.map((each, i) => fit(each, [...path, String(i)]))
  if (given !== null && typeof given === 'object')
    return Object.fromEntries(Object.entries(given).map(([name, each]) => [name, fit(each, [...path, name])]))
  return given
}

/** What came in as the contract has it; throws the problem that names the field at fault. */
export const parse = <T extends z.ZodType>(schema: T, given: unknown, status = 422): z.infer<T> => {
  const read = schema.safeParse(fit(given))
  if (!read.success) throw invalid(read.error, status)
  return read.data
}

const NOBODY: Asker = { id: '00000000-0000-0000-0000-000000000000', name: '', session: '' }

/**
 * The router of the HTTP interface. `mount` joins a route of the contract to its handler: what comes in is parsed by
 * the contract, what goes out too, so that no field leaves which the contract does not name.
 */
export const createRoutes = (deps: Deps, findAsker: (context: Context) => Promise<Asker | null>) => {
  const router = new Router()
  const mounted = new Set<AnyRoute>()
  const taken = new Set<string>()

  const sockets: SocketRoute[] = []

  const note = (route: AnyRoute): void => {
    if (taken.has(`${route.method} ${route.path}`))
      throw new Error(`Two domains bring the route ${route.path}.`)
    taken.add(`${route.method} ${route.path}`)
    mounted.add(route)
  }

  /** Who asks by a route; throws where it is for people alone and nobody is signed in. */
  const askerOf = async (route: AnyRoute, context: Context): Promise<Asker> => {
    const asker = route.who === 'person' ? await findAsker(context) : NOBODY
    if (asker) return asker
    throw new ProblemError(401, 'not-signed-in', 'Nobody is signed in here, or the session has ended.')
  }

  const mount = <P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, A extends z.ZodType>(
    route: Route<P, Q, B, A>,
    handle: (asked: Asked<z.infer<P>, z.infer<Q>, z.infer<B>>) => Promise<z.input<A>>,
    /** Throws where somebody may not ask, before the body is read: where it is large and anybody can send it. */
    admit: (params: z.infer<P>) => Promise<unknown> = async () => undefined,
  ): void => {
    note(route)
    const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete'
    router[method](route.path, async (context) => {
      const asker = await askerOf(route, context)
      const params = parse(route.params, context.params, 404)
      const query = parse(route.query, context.query)
      await admit(params)
      const hasBody = route.method === 'POST' || route.method === 'PUT'
      const raw = hasBody ? await readBytes(context.req, route.rawBytes ?? MOST_BYTES) : Buffer.alloc(0)
      const body = parse(route.body, route.rawBytes ? {} : readJson(raw))
      const answer = await handle({ params, query, body, raw, asker, context })
      // A handler that writes to the response itself (live events, a file) leaves nothing to say.
      if (context.respond === false || route.answersFile) return
      context.body = route.answer.parse(answer)
    })
  }

  /** Joins a route that opens a WebSocket to whoever decides whether it may be, and what is done with it. */
  const mountSocket = <P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, A extends z.ZodType>(
    route: Route<P, Q, B, A>,
    open: (asked: SocketAsked<z.infer<P>, z.infer<Q>>) => Promise<Opened>,
  ): void => {
    note(route)
    sockets.push({
      route,
      open: ({ params, query, asker }) =>
        open({ params: parse(route.params, params, 404), query: parse(route.query, query), asker }),
    })
    router.get(route.path, async (context) => {
      await askerOf(route, context)
      throw new ProblemError(426, 'not-a-page', 'This is a live connection, and is opened as a WebSocket.')
    })
  }
  return { router, mount, mountSocket, mounted, sockets, askerOf, deps }
}

export type Routes = ReturnType<typeof createRoutes>

const sha256 = (text: string): Buffer => createHash('sha256').update(text).digest()

/**
 * Does `work` once for each `Idempotency-Key` of an asker, inside the caller's transaction: the same request again gets
 * the first one's answer, and a failed one leaves no trace, so it can be tried again. The asker is a person, or whatever
 * names who comes by a link.
 */
export const once = async <T>(
  sql: Sql,
  clock: Clock,
  asked: { asker: Asker | string; context: Context; body: unknown },
  work: () => Promise<T>,
): Promise<T> => {
  const key = asked.context.get('idempotency-key')
  if (!key || key.length > 100)
    throw new ProblemError(
      400,
      'no-key',
      'This request needs an Idempotency-Key, so that it can be repeated safely.',
    )
  const asker = typeof asked.asker === 'string' ? asked.asker : asked.asker.id
  const hash = sha256(`${asked.context.path} ${JSON.stringify(asked.body)}`)
  // The key is kept as a hash: it may be what a secret is made of.
  const kept = sha256(key).toString('hex')
  const taken = await sql.query(
    'insert into repeated_request (asker, key, asked_hash, at) values ($1, $2, $3, $4) on conflict do nothing',
    [asker, kept, hash, at(clock())],
  )
  if (taken.rowCount === 0) {
    const before = await sql.query<{ asked_hash: Buffer; answer: T }>(
      'select asked_hash, answer from repeated_request where asker = $1 and key = $2',
      [asker, kept],
    )
    const row = before.rows[0]
    if (!row?.asked_hash.equals(hash))
      throw new ProblemError(422, 'key-reused', 'This Idempotency-Key was used for something else.')
    return row.answer
  }
  const answer = await work()
  await sql.query('update repeated_request set answer = $3 where asker = $1 and key = $2', [
    asker,
    kept,
    JSON.stringify(answer),
  ])
  return answer
}

/** Throws away the answers that are kept for repeated requests, a week after. */
export const tidyRepeats = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from repeated_request where at < $1::timestamptz - interval '7 days'", [at(now)])
}
