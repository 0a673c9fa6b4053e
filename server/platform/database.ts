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

/** A pool whose lost connections are reported to `onLost` instead of ending the process. */
export const openPool = (url: string, onLost: (error: Error) => void = () => undefined): pg.Pool => {
  const pool = new pg.Pool({ connectionString: url, max: 20 })
  pool.on('error', onLost)
  pool.on('connect', (client) => client.on('error', onLost))
  return pool
}

/** Runs `work` in one transaction: all of it happens, or none. */
export const transaction = async <T>(pool: pg.Pool, work: (sql: Sql) => Promise<T>): Promise<T> => {
  const client = await pool.connect()
  try {
    await client.query('begin')
    const result = await work(client)
    await client.query('commit')
    return result
  } catch (error) {
    await client.query('rollback').catch(() => undefined)
    throw error
  } finally {
    client.release()
  }
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
