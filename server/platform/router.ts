import { createHash } from 'node:crypto'
import type { IncomingMessage } from 'node:http'
import Router from '@koa/router'
import type { AnyRoute, Route } from '@marmot/contract/route'
import type { Context } from 'koa'
import type pg from 'pg'
import type { z } from 'zod'
import type { Clock } from './clock.ts'
import { at, type Sql } from './database.ts'
import { invalid, ProblemError } from './problems.ts'

/** What every handler can reach. */
export interface Deps {
  readonly pool: pg.Pool
  readonly clock: Clock
}

/** Who is asking, found from the session cookie. */
export interface Asker {
  readonly id: string
  readonly name: string
}

export interface Asked<P, Q, B> {
  readonly params: P
  readonly query: Q
  readonly body: B
  /** The bytes of the body, where the route asks for bytes. */
  readonly raw: Buffer
  readonly asker: Asker
  readonly context: Context
}

const MOST_BYTES = 256 * 1024

const sizeInWords = (bytes: number): string =>
  bytes < 1024 * 1024 ? `${bytes / 1024} kB` : `${Math.round(bytes / 1024 / 1024)} MB`

/** Somebody who sends far too much is cut off rather than listened to. */
const CUT_OFF = 8

const readBytes = async (request: IncomingMessage, most: number): Promise<Buffer> => {
  const parts: Buffer[] = []
  let size = 0
  // Read to its end, though kept no further than allowed: a connection closed in the middle of sending loses the answer.
  for await (const part of request) {
    size += part.length
    if (size <= most) parts.push(part)
    if (size > CUT_OFF * most) break
  }
  if (size > most)
    throw new ProblemError(
      413,
      'too-large',
      `What was sent is larger than ${sizeInWords(most)}. Nothing was changed.`,
    )
  return Buffer.concat(parts)
}

const readJson = (bytes: Buffer): unknown => {
  if (bytes.length === 0) return {}
  try {
    return JSON.parse(bytes.toString('utf8'))
  } catch {
    throw new ProblemError(400, 'malformed', 'What was sent is not readable JSON. Nothing was changed.')
  }
}

const parse = <T extends z.ZodType>(schema: T, given: unknown, status = 422): z.infer<T> => {
  const read = schema.safeParse(given)
  if (!read.success) throw invalid(read.error, status)
  return read.data
}

const NOBODY: Asker = { id: '00000000-0000-0000-0000-000000000000', name: '' }

/**
 * The router of the HTTP interface. `mount` joins a route of the contract to its handler: what comes in is parsed by
 * the contract, what goes out too, so that no field leaves which the contract does not name.
 */
export const createRoutes = (deps: Deps, findAsker: (context: Context) => Promise<Asker | null>) => {
  const router = new Router()
  const mounted = new Set<AnyRoute>()

  const mount = <P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, A extends z.ZodType>(
    route: Route<P, Q, B, A>,
    handle: (asked: Asked<z.infer<P>, z.infer<Q>, z.infer<B>>) => Promise<z.input<A>>,
  ): void => {
    mounted.add(route)
    const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete'
    router[method](route.path, async (context) => {
      const asker = route.who === 'person' ? await findAsker(context) : NOBODY
      if (!asker)
        throw new ProblemError(401, 'not-signed-in', 'Nobody is signed in here, or the session has ended.')
      const params = parse(route.params, context.params, 404)
      const query = parse(route.query, context.query)
      const hasBody = route.method === 'POST' || route.method === 'PUT'
      const raw = hasBody ? await readBytes(context.req, route.rawBytes ?? MOST_BYTES) : Buffer.alloc(0)
      const body = parse(route.body, route.rawBytes ? {} : readJson(raw))
      const answer = await handle({ params, query, body, raw, asker, context })
      // A handler that writes to the response itself (live events, a file) leaves nothing to say.
      if (context.respond === false || route.answersFile) return
      context.body = route.answer.parse(answer)
    })
  }
  return { router, mount, mounted, deps }
}

export type Routes = ReturnType<typeof createRoutes>

/**
 * Does `work` once for each `Idempotency-Key` of a person, inside the caller's transaction: the same request again
 * gets the first one's answer, and a failed one leaves no trace, so it can be tried again.
 */
export const once = async <T>(
  sql: Sql,
  clock: Clock,
  asked: { asker: Asker; context: Context; body: unknown },
  work: () => Promise<T>,
): Promise<T> => {
  const key = asked.context.get('idempotency-key')
  if (!key || key.length > 100)
    throw new ProblemError(
      400,
      'no-key',
      'This request needs an Idempotency-Key, so that it can be repeated safely.',
    )
  const hash = createHash('sha256')
    .update(`${asked.context.path} ${JSON.stringify(asked.body)}`)
    .digest()
  const taken = await sql.query(
    'insert into repeated_request (person_id, key, asked_hash, at) values ($1, $2, $3, $4) on conflict do nothing',
    [asked.asker.id, key, hash, at(clock())],
  )
  if (taken.rowCount === 0) {
    const before = await sql.query<{ asked_hash: Buffer; answer: T }>(
      'select asked_hash, answer from repeated_request where person_id = $1 and key = $2',
      [asked.asker.id, key],
    )
    const row = before.rows[0]
    if (!row?.asked_hash.equals(hash))
      throw new ProblemError(422, 'key-reused', 'This Idempotency-Key was used for something else.')
    return row.answer
  }
  const answer = await work()
  await sql.query('update repeated_request set answer = $3 where person_id = $1 and key = $2', [
    asked.asker.id,
    key,
    JSON.stringify(answer),
  ])
  return answer
}

/** Throws away the answers that are kept for repeated requests, a week after. */
export const tidyRepeats = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from repeated_request where at < $1::timestamptz - interval '7 days'", [at(now)])
}
