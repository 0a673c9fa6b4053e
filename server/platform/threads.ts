import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { MessageChannel, type MessagePort, type Transferable } from 'node:worker_threads'
import type { Problem } from '@marmot/contract/route'
import type pg from 'pg'
import { Piscina } from 'piscina'
import { ProblemError } from './problems.ts'

/**
 * Thought that would hold the thread that answers (parsing files, expanding series, searching for many people) runs in
 * these. A piece of work is a function of a domain's `thread.ts`, exported by `server/threads.ts` under its name.
 */
export interface ThreadContext {
  /** A pool of the thread's own, so that what is read goes through no other thread. */
  readonly pool: pg.Pool
  /** Tells whoever asked how far the work is. */
  readonly tell: (said: unknown) => void
  /** True once nobody waits for the work any more: it may end where it likes. */
  readonly stopped: () => boolean
}

/** A function that can run in a thread: plain data in, plain data out. */
export type ThreadWork<I, O> = (input: I, context: ThreadContext) => Promise<O>

export interface ThreadOptions<Said> {
  /** Ends the thread in the middle of the work; its transaction is rolled back. */
  readonly signal?: AbortSignal
  /** Asks the work to end by itself, which spares the thread. */
  readonly stop?: AbortSignal
  readonly told?: (said: Said) => void
  /** Buffers that move into the thread instead of being copied. */
  readonly transfer?: readonly Transferable[]
}

/** Why a thread gave nothing: it was ended from outside, or it needed more memory than it may have. */
export class ThreadEnded extends Error {}

export interface Threads {
  /** Runs a domain's function by its name; `Work` is its type. Rejects with what it threw, or with `ThreadEnded`. */
  readonly run: <I, O>(name: string, input: I, options?: ThreadOptions<unknown>) => Promise<O>
  readonly stop: () => Promise<void>
}

/** Two processors; one thread more would only share them. */
const MOST_THREADS = 2
const MOST_WAITING = 200
/** A thread that needs more than this has been given something that nobody keeps as a calendar. */
const MOST_MB = 160
const IDLE_MS = 600_000

/** What comes back from a thread. An error loses all but its message on the way, so a problem travels as data. */
type Outcome<O> = { readonly value: O } | { readonly problem: Problem }

const isEnd = (error: unknown): boolean =>
  error instanceof Error &&
  (error.name === 'AbortError' || ('code' in error && String(error.code).startsWith('ERR_WORKER')))

/** Where a thread begins: as TypeScript it has to learn to read it first. */
const FILE = fileURLToPath(
  new URL(import.meta.url.endsWith('.ts') ? '../threads.mjs' : './threads.js', import.meta.url),
)

/** Opens the threads; none is started before there is something to do. */
export const openThreads = (databaseUrl: string): Threads => {
  if (!existsSync(FILE)) throw new Error(`There is no ${FILE}`)
  const piscina = new Piscina({
    filename: FILE,
    name: 'run',
    minThreads: 0,
    maxThreads: MOST_THREADS,
    maxQueue: MOST_WAITING,
    idleTimeout: IDLE_MS,
    // The answering thread goes first.
    niceIncrement: 5,
    // A thread that waits must go on hearing its database connections.
    atomics: 'disabled',
    execArgv: [],
    resourceLimits: { maxOldGenerationSizeMb: MOST_MB, maxYoungGenerationSizeMb: 8 },
    workerData: { databaseUrl },
  })
  return {
    run: async (name, input, { signal, stop, told, transfer = [] } = {}) => {
      const { port1, port2 } = new MessageChannel()
      if (told) port1.on('message', told)
      const ask = () => port1.postMessage('stop')
      stop?.addEventListener('abort', ask)
      try {
        const outcome: Outcome<never> = await piscina.run(
          { name, input, port: port2 },
          { ...(signal ? { signal } : {}), transferList: [port2, ...transfer] },
        )
        if ('value' in outcome) return outcome.value
        const { status, code, detail, fields, more } = outcome.problem
        throw new ProblemError(status, code, detail, { fields, more })
      } catch (error) {
        if (isEnd(error)) throw new ThreadEnded(error instanceof Error ? error.message : '')
        if (piscina.queueSize >= MOST_WAITING)
          throw new ProblemError(
            503,
            'busy',
            'Marmot has too much to do just now. Nothing was changed; try again.',
          )
        throw error
      } finally {
        stop?.removeEventListener('abort', ask)
        port1.close()
      }
    },
    stop: () => piscina.close({ force: true }),
  }
}

/** Makes a domain's function one that a thread is called with; it is read when it is first asked for. What it throws keeps the words meant for a person. */
export const inThread =
  <I, O>(load: () => Promise<ThreadWork<I, O>>, pool: () => pg.Pool) =>
  async ({ input, port }: { input: I; port: MessagePort }): Promise<Outcome<O>> => {
    let stopped = false
    port.on('message', () => {
      stopped = true
    })
    const tell = (said: unknown) => port.postMessage(said)
    try {
      const work = await load()
      return { value: await work(input, { pool: pool(), tell, stopped: () => stopped }) }
    } catch (error) {
      if (error instanceof ProblemError) return { problem: error.toProblem() }
      throw error
    } finally {
      port.close()
    }
  }
