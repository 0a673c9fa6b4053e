import { EventEmitter } from 'node:events'
import { type Runner, run, type TaskList, type WorkerEvents, Logger as WorkerLogger } from 'graphile-worker'
import pg from 'pg'
import type { Logger } from 'pino'
import type { Sql } from './database.ts'
import { keepRunning, type Round } from './rounds.ts'

/** A job to be added: what it is about, and the key under which it is there once. */
export interface NewJob {
  readonly payload: Record<string, unknown>
  readonly key: string
  /** How long it waits, in milliseconds; it is there once, so that the same one again waits anew. */
  readonly delay?: number
}

/** Adds jobs in the caller's transaction, all at once: they run after the commit, or, if there is none, never. */
export const addJobs = async (sql: Sql, task: string, jobs: readonly NewJob[]): Promise<void> => {
  if (jobs.length === 0) return
  await sql.query(
    `select 1 from graphile_worker.add_jobs((
       select array_agg(($1::text, p::json, null, now() + w * interval '1 millisecond', 25, k, null, null)::graphile_worker.job_spec)
         from unnest($2::text[], $3::text[], $4::float8[]) d(p, k, w)))`,
    [
      task,
      jobs.map((job) => JSON.stringify(job.payload)),
      jobs.map((job) => job.key),
      jobs.map((job) => job.delay ?? 0),
    ],
  )
}

/** Adds one job. */
export const addJob = (
  sql: Sql,
  task: string,
  payload: Record<string, unknown>,
  key: string,
  delay = 0,
): Promise<void> => addJobs(sql, task, [{ payload, key, delay }])

const REAP_MS = 3000
/** After the database went away, the runner is started anew, at first soon and then ever later. */
const WAITS = { soon: 500, late: 10_000 }

const STOP_MS = 5000

/** Waits until something is over, well or not, but not for ever. */
const settled = async (work: Promise<unknown>): Promise<void> => {
  let timer: NodeJS.Timeout | undefined
  const enough = new Promise<void>((resolve) => {
    timer = setTimeout(resolve, STOP_MS)
  })
  await Promise.race([work.catch(() => undefined), enough])
  clearTimeout(timer)
}

/**
 * Starts the runner once. A worker that was killed keeps its jobs locked for four hours in the queue's own rules; an
 * invitation must not wait that long. So each worker's id is held as an advisory lock by its server for as long as it
 * lives, and whoever can take the lock of a worker that has jobs knows it to be dead, and frees them.
 */
const startRound = async (
  databaseUrl: string,
  pool: pg.Pool,
  tasks: TaskList,
  log: Logger,
  onLost: () => void,
): Promise<Round> => {
  const alive = new pg.Client({ connectionString: databaseUrl, connectionTimeoutMillis: STOP_MS })
  const events: WorkerEvents = new EventEmitter()
  const workers = new Set<string>()
  // One connection holds all the locks, and it takes one query at a time.
  let turn: Promise<unknown> = Promise.resolve()
  const ask = <Row extends pg.QueryResultRow>(
    text: string,
    values: string[],
  ): Promise<pg.QueryResult<Row>> => {
    const answer = turn.then(() => alive.query<Row>(text, values))
    turn = answer.catch(() => undefined)
    return answer
  }
  const hold = (workerId: string) => ask('select pg_advisory_lock(hashtextextended($1, 0))', [workerId])
  // Without its connection nobody would know that its workers live: the whole round is over.
  alive.on('error', onLost)
  alive.on('end', onLost)
  await alive.connect()
  events.on('worker:create', ({ worker }) => {
    workers.add(worker.workerId)
    hold(worker.workerId).catch((error) => log.warn({ error }, 'a worker could not be marked alive'))
  })
  let runner: Runner
  try {
    runner = await run({
      pgPool: pool,
      taskList: tasks,
      // Every minute, and every night at two; what was missed is not made up for. The queue sees to it that of several
      // servers one does it.
      crontab: '* * * * * minutely ?max=3&jobKey=minutely\n0 2 * * * nightly',
      concurrency: 4,
      pollInterval: 1000,
      // Together, what is done is noted by one statement; and only so is trouble with the noting handled: by itself each
      // note would be a rejection that nobody catches.
      preset: { worker: { completeJobBatchDelay: 0, failJobBatchDelay: 0 } },
      noHandleSignals: true,
      events,
      logger: new WorkerLogger(() => (level, message) => {
        if (level === 'error' || level === 'warning') log.warn(message)
      }),
    })
  } catch (error) {
    await alive.end().catch(() => undefined)
    throw error
  }
  runner.promise.then(onLost, onLost)
  const reap = async () => {
    // Five seconds of grace, because a new worker may take a job just before its lock is held.
    const locked = await pool.query<{ locked_by: string }>(
      `select distinct locked_by from graphile_worker.jobs
        where locked_by is not null and locked_at < now() - interval '5 seconds'`,
    )
    for (const { locked_by } of locked.rows) {
      if (workers.has(locked_by)) continue
      const free = await ask<{ free: boolean }>(
        'select pg_try_advisory_lock(hashtextextended($1, 0)) as free',
        [locked_by],
      )
      if (!free.rows[0]?.free) continue
      log.info({ worker: locked_by }, 'freeing the jobs of a worker that died')
      await pool.query('select graphile_worker.force_unlock_workers($1)', [[locked_by]])
      await ask('select pg_advisory_unlock(hashtextextended($1, 0))', [locked_by])
    }
  }
  const reaper = setInterval(
    () => reap().catch((error) => log.warn({ error }, 'dead workers not looked for')),
    REAP_MS,
  )
  return {
    stop: async () => {
      clearInterval(reaper)
      // A runner whose database went away can wait for ever for what it was doing.
      await settled(runner.stop())
      await settled(runner.kill())
      await settled(alive.end())
    },
  }
}

/**
 * Runs jobs for as long as the server does. When the database went away, or the runner gave up, what is left of it is
 * stopped and it is started anew.
 */
export const startJobs = (databaseUrl: string, pool: pg.Pool, tasks: TaskList, log: Logger): Promise<Round> =>
  keepRunning(
    (onLost) => startRound(databaseUrl, pool, tasks, log, onLost),
    WAITS,
    (words, error) => log.warn(error ? { error } : {}, `the job runner: ${words}`),
  )
