import { EventEmitter } from 'node:events'
import { type Runner, run, type TaskList, type WorkerEvents, Logger as WorkerLogger } from 'graphile-worker'
import pg from 'pg'
import type { Logger } from 'pino'
import type { Sql } from './database.ts'

/** Adds a job in the caller's transaction: it runs after the commit, or, if there is none, never. */
export const addJob = async (
  sql: Sql,
  task: string,
  payload: Record<string, unknown>,
  key: string,
): Promise<void> => {
  await sql.query('select graphile_worker.add_job($1, $2::json, job_key := $3, max_attempts := 25)', [
    task,
    JSON.stringify(payload),
    key,
  ])
}

const REAP_MS = 3000

/**
 * Runs jobs. A worker that was killed keeps its jobs locked for four hours in the queue's own rules; an invitation
 * must not wait that long. So each worker's id is held as an advisory lock by its server for as long as it lives,
 * and whoever can take the lock of a worker that has jobs knows it to be dead, and frees them.
 */
export const startJobs = async (databaseUrl: string, pool: pg.Pool, tasks: TaskList, log: Logger) => {
  const alive = new pg.Client({ connectionString: databaseUrl })
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
  alive.on('error', (error) => log.warn({ error }, 'the jobs’ connection was lost'))
  await alive.connect()
  events.on('worker:create', ({ worker }) => {
    workers.add(worker.workerId)
    hold(worker.workerId).catch((error) => log.warn({ error }, 'a worker could not be marked alive'))
  })
  const runner: Runner = await run({
    pgPool: pool,
    taskList: tasks,
    // Every minute, and every night at two; what was missed is not made up for. The queue sees to it that of several
    // servers one does it.
    crontab: '* * * * * minutely ?max=3&jobKey=minutely\n0 2 * * * nightly',
    concurrency: 4,
    pollInterval: 1000,
    noHandleSignals: true,
    events,
    logger: new WorkerLogger(() => (level, message) => {
      if (level === 'error' || level === 'warning') log.warn(message)
    }),
  })
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
    stop: async (): Promise<void> => {
      clearInterval(reaper)
      await runner.stop().catch(() => undefined)
      await alive.end().catch(() => undefined)
    },
  }
}
