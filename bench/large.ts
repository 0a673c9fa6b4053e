import type { ChildProcess } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type pg from 'pg'
import { startCluster } from '../scripts/lib/postgres.mjs'
import { startProgram, stopProgram } from '../scripts/lib/processes.mjs'
import { openPool } from '../server/platform/database.ts'

export const ADDRESS = 'ilse.brandacher@corrie.example'
const PASSWORD = 'watch-the-ridge'

/** Marmot running on the large demo, in a process of its own as `npm start` runs it. */
export interface Large {
  readonly folder: string
  readonly pool: pg.Pool
  readonly url: string
  readonly databaseUrl: string
  readonly server: ChildProcess
  /** Asks the server for something as Ilse. */
  readonly ask: (path: string, body?: unknown) => Promise<Response>
  /** Sends anything as Ilse: bytes as they are, everything else as JSON. */
  readonly send: (method: string, path: string, body?: unknown) => Promise<Response>
  /** By which Ilse is known. */
  readonly cookie: string
  readonly stop: (options?: { keepCluster?: boolean }) => Promise<void>
}

/** Where the large demo is. */
export const FOLDER = process.env.MARMOT_LARGE ?? fileURLToPath(new URL('../.data-large', import.meta.url))

/** Starts Marmot on the large demo, or a program that does so; null when it has not been made. */
export const openLarge = async ({
  program = 'server/dist/main.js',
  env = {},
}: {
  program?: string
  env?: Record<string, string>
} = {}): Promise<Large | null> => {
  if (!existsSync(join(FOLDER, 'postgres'))) return null
  const cluster = await startCluster(FOLDER)
  const databaseUrl: string = cluster.url('postgres')
  const { child, line } = await startProgram(program, {
    DATABASE_URL: databaseUrl,
    PORT: '0',
    MARMOT_MAIL_PORT: '0',
    MARMOT_LOG: 'silent',
    MARMOT_NOW: '2026-11-23T08:12:00Z',
    ...env,
  })
  const url = `http://127.0.0.1:${/listening (\d+)/.exec(line)?.[1]}`
  const signIn = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ address: ADDRESS, password: PASSWORD }),
  })
  const cookie = (signIn.headers.get('set-cookie') ?? '').split(';')[0] ?? ''
  const pool = openPool(databaseUrl, () => undefined, { filling: true })
  return {
    folder: FOLDER,
    pool,
    url,
    databaseUrl,
    server: child,
    ask: (path, body) =>
      fetch(`${url}${path}`, {
        headers: { cookie, ...(body ? { 'content-type': 'application/json' } : {}) },
        ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      }),
    cookie,
    send: (method, path, body) =>
      fetch(`${url}${path}`, {
        method,
        headers: {
          cookie,
          'idempotency-key': randomUUID(),
          'content-type': Buffer.isBuffer(body) ? 'application/octet-stream' : 'application/json',
        },
        ...(body === undefined
          ? {}
          : { body: Buffer.isBuffer(body) ? new Uint8Array(body) : JSON.stringify(body) }),
      }),
    stop: async ({ keepCluster = false } = {}) => {
      await stopProgram(child)
      await pool.end()
      if (!keepCluster) cluster.stop()
    },
  }
}
