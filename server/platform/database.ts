import { createHash } from 'node:crypto'
import { Socket } from 'node:net'
import pg from 'pg'

/** Whatever runs a query: the pool, or a client inside a transaction. */
export interface Sql {
  query<Row extends pg.QueryResultRow>(
    text: string,
    values?: readonly unknown[],
  ): Promise<pg.QueryResult<Row>>
}

// Counts come as bigint; none of ours passes 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number)

/** No statement of a request or a task takes longer, and no transaction waits longer for its next one. */
const STATEMENT_MS = 30_000
const IDLE_IN_TRANSACTION_MS = 60_000

/**
 * A socket that sends what is written in one turn of the event loop at once. Waking the database takes longer than most
 * of what it is woken for: six statements sent by themselves took 0.6 ms, and 0.3 ms so.
 */
class GatheringSocket extends Socket {
  #waits = false

  override uncork(): void {
    if (this.#waits) {
      super.uncork()
      return
    }
    this.#waits = true
    process.nextTick(() => {
      this.#waits = false
      super.uncork()
    })
  }
}

/** Ours are some hundreds; should one ever be made of what comes from outside, it stays without a name. */
const MOST_NAMED = 2000
const names = new Map<string, string>()

/** The name of a statement, by which a connection knows it again and has its plan ready; planning is half of the work. */
const nameOf = (text: string): string | undefined => {
  const known = names.get(text)
  if (known || names.size >= MOST_NAMED) return known
  const name = createHash('sha256').update(text).digest('base64url').slice(0, 24)
  names.set(text, name)
  return name
}

/** Gives every statement with values a name. */
const naming = (client: pg.PoolClient): void => {
  const { query } = client
  const named = (text: unknown, values?: unknown, ...more: unknown[]): unknown =>
    typeof text === 'string' && Array.isArray(values)
      ? Reflect.apply(query, client, [{ name: nameOf(text), text, values }, ...more])
      : Reflect.apply(query, client, [text, values, ...more])
  Object.assign(client, { query: named })
}

/**
 * A pool of at most `most` connections, whose lost ones are reported to `onLost` instead of ending the process. A
 * statement that goes on for too long, and a transaction that somebody left open, are ended by the database; `filling`
 * is for those who fill it: no limit, and COPY, which cannot be sent together with anything.
 */
export const openPool = (
  url: string,
  onLost: (error: Error) => void = () => undefined,
  { most = 20, filling = false }: { most?: number; filling?: boolean } = {},
): pg.Pool => {
  const pool = new pg.Pool({
    connectionString: url,
    max: most,
    // Compiling a statement takes 100 ms and more; none of ours runs long enough to win that back. Nor from helpers: starting
    // them took up to 30 ms, and finding by words 118 ms at the median instead of 84, openings for 200 people 310 instead of 255.
    options: '-c jit=off -c max_parallel_workers_per_gather=0',
    ...(filling ? {} : { pipeline: true, stream: () => new GatheringSocket() }),
    statement_timeout: filling ? 0 : STATEMENT_MS,
    idle_in_transaction_session_timeout: IDLE_IN_TRANSACTION_MS,
  })
  pool.on('error', onLost)
  pool.on('connect', (client) => {
    client.on('error', onLost)
    if (!filling) naming(client)
  })
  return pool
}

/** Whether the database answers; throws when it does not. */
export const answers = async (sql: Sql): Promise<boolean> => (await sql.query('select 1')).rowCount === 1

/**
 * Runs `work` on one connection, without a transaction: what it reads `together` is sent at once, where a pool would send
 * each statement on a connection of its own, and wake the database for each.
 */
export const onOne = async <T>(pool: pg.Pool, work: (sql: Sql) => Promise<T>): Promise<T> => {
  const client = await pool.connect()
  try {
    return await work(client)
  } finally {
    client.release()
  }
}

const BEGIN = 'begin'
const BEGIN_ONE_PLAN = 'begin; set local plan_cache_mode = force_generic_plan'

/**
 * Runs `work` in one transaction: all of it happens, or none. With `onePlan` its statements keep one plan for all values
 * instead of being planned for each: for work whose statements touch few rows whatever is asked, half of which was
 * planning. `rehearsed` work gives what it would give, and nothing of it is kept.
 */
export const transaction = async <T>(
  pool: pg.Pool,
  work: (sql: Sql) => Promise<T>,
  { onePlan = false, rehearsed = false } = {},
): Promise<T> => {
  const client = await pool.connect()
  try {
    await client.query(onePlan ? BEGIN_ONE_PLAN : BEGIN)
    const result = await work(client)
    await client.query(rehearsed ? 'rollback' : 'commit')
    return result
  } catch (error) {
    await client.query('rollback').catch(() => undefined)
    throw error
  } finally {
    client.release()
  }
}

/** PostgreSQL's word for a statement after one that failed in the same transaction. */
const ABORTED = '25P02'

/**
 * Statements that do not wait for one another's answers, sent together: each takes a third of a millisecond to send, and
 * together hardly more than one does. In a transaction they are carried out in their order; through a pool, in any. Waits
 * for all of them, also when one has failed, so that none is left on a connection that went back to its pool; then throws
 * what failed first.
 */
export const together = async <T extends readonly unknown[]>(
  work: {
    readonly [K in keyof T]: Promise<T[K]>
  },
): Promise<T> => {
  const ended = await Promise.allSettled(work)
  const reasons = ended.flatMap((one) => (one.status === 'rejected' ? [one.reason] : []))
  if (reasons.length)
    throw reasons.find((one) => !(one instanceof pg.DatabaseError) || one.code !== ABORTED) ?? reasons[0]
  return Promise.all(work)
}

/** SQL for an instant as milliseconds. `extract` would count in decimals, which takes several times as long. */
export const msSql = (instant: string): string => `round(date_part('epoch', ${instant}) * 1000)`
/** SQL for the start or end of a range as milliseconds. */
export const startMs = (range: string): string => msSql(`lower(${range})`)
export const endMs = (range: string): string => msSql(`upper(${range})`)
/** SQL for a wall time in the contract's form. */
export const wallSql = (column: string): string => `to_char(${column}, 'YYYY-MM-DD"T"HH24:MI')`

/** A `timestamptz` parameter from milliseconds. */
export const at = (ms: number): string => new Date(ms).toISOString()

/** True for PostgreSQL's complaint that an exclusion or unique constraint refuses a row. */
export const isRefusedBy = (error: unknown, constraint: string): boolean =>
  error instanceof pg.DatabaseError && error.constraint === constraint
