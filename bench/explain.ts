import { readFileSync } from 'node:fs'
import { join } from 'node:path'

import { z } from 'zod'
import { startCluster } from '../scripts/lib/postgres.mjs'
import { openPool } from '../server/platform/database.ts'
import { startConferenceStandIn } from '../standins/conference/server.ts'
import { startWeatherStandIn } from '../standins/weather/server.ts'
import { FOLDER, openLarge } from './large.ts'

/**
 * Whether any statement of the routes and tasks reads a table that grows from end to end. Every route is asked on the
 * large demo, every task is run, and PostgreSQL writes down the plan of each statement, those that cascades run
 * included. Reading from end to end is made so dear that a plan has it only where no index would do.
 */

/** Tables that do not grow with use: an organisation has so many people, places and sites. */
const STEADY = new Set([
  'person',
  'team',
  'team_member',
  'site',
  'resource',
  'working_hours',
  'zone_change',
  'closure',
  'trained_person',
  'setting',
  'reminder_length',
  // Emptied each minute.
  'contact_due',
  'migration',
])
/** The job queue's own, which look after themselves; and PostgreSQL's. */
const OTHERS = /^(graphile_worker|pg_catalog|information_schema)$/

interface Node {
  'Node Type'?: string
  'Relation Name'?: string
  'Index Cond'?: string
  'Index Name'?: string
  Schema?: string
  Plans?: Node[]
}

const node: z.ZodType<Node> = z.lazy(() =>
  z.object({
    'Node Type': z.string().optional(),
    'Relation Name': z.string().optional(),
    'Index Cond': z.string().optional(),
    'Index Name': z.string().optional(),
    Schema: z.string().optional(),
    Plans: z.array(node).optional(),
  }),
)
const logged = z.object({ 'Query Text': z.string(), Plan: node })

/** Tables that the large demo fills: of the others, which hold a few rows, a plan with an index read whole says nothing. */
const FILLED = new Set(['entry', 'occurrence', 'participant', 'attendance', 'reservation'])
/** An index that is meant to be read whole: it holds just what is asked for. */
const MEANT = new Set(['entry_running', 'entry_auto_nudge', 'entry_conference_wanted'])

/** Of an index that holds a few rows of a filled table, by its size in bytes, a plan that reads it whole says as little. */
const FEW_BYTES = 65_536
const few = new Set<string>()

/** The table itself read, or an index on it without any condition. */
const isWhole = (plan: Node): boolean =>
  plan['Node Type'] === 'Seq Scan' ||
  (/^Index (Only )?Scan$/.test(plan['Node Type'] ?? '') &&
    plan['Index Cond'] === undefined &&
    FILLED.has(plan['Relation Name'] ?? '') &&
    !MEANT.has(plan['Index Name'] ?? '') &&
    !few.has(plan['Index Name'] ?? ''))

const scannedIn = (plan: Node): string[] => [
  ...(isWhole(plan) &&
  plan['Relation Name'] &&
  !STEADY.has(plan['Relation Name']) &&
  !OTHERS.test(plan.Schema ?? 'public')
    ? [plan['Relation Name']]
    : []),
  ...(plan.Plans ?? []).flatMap(scannedIn),
]

/** The plans that PostgreSQL wrote into its log since `from` (in bytes). */
const plansSince = (log: string, from: number): z.infer<typeof logged>[] =>
  readFileSync(log)
    .subarray(from)
    .toString()
    .split(/duration: [\d.]+ ms {2}plan:\n/)
    .slice(1)
    .flatMap((part) => {
      const end = part.search(/\n[^\t]/)
      const read = logged.safeParse(JSON.parse(part.slice(0, end < 0 ? undefined : end).replace(/^\t/gm, '')))
      return read.success ? [read.data] : []
    })

const cluster = await startCluster(FOLDER)
const admin = openPool(cluster.url('postgres'), () => undefined, { most: 1 })
const SETTINGS = {
  session_preload_libraries: "'auto_explain'",
  'auto_explain.log_min_duration': '0',
  'auto_explain.log_format': "'json'",
  'auto_explain.log_nested_statements': 'on',
  'auto_explain.log_verbose': 'on',
  enable_seqscan: 'off',
}
const log = join(cluster.data, 'server.log')
const from = readFileSync(log).length
for (const [name, value] of Object.entries(SETTINGS))
  await admin.query(`alter database postgres set ${name} = ${value}`)

let wrong: string[] = []
try {
  const key = 'asked for its plan'
  const conference = await startConferenceStandIn({ port: 0, key, file: null })
  const weather = await startWeatherStandIn({ port: 0, now: () => Date.parse('2026-11-23T08:00:00Z') })
  const large = await openLarge({
    env: {
      MARMOT_CONFERENCE_URL: `http://localhost:${conference.port}`,
      MARMOT_CONFERENCE_KEY: key,
      MARMOT_WEATHER_URL: `http://localhost:${weather.port}`,
    },
  })
  if (!large) throw new Error('There is no large demo: make it first with npm run demo:large')
  try {
    const asked = new Set<string>()
    const ask = async <T>(method: string, route: string, path: string, body?: unknown): Promise<T> => {
      asked.add(`${method} ${route}`)
      const response = await large.send(method, path, body)
      const text = await response.text()
      if (response.status >= 500) throw new Error(`${method} ${path}: ${text.slice(0, 300)}`)
      return (response.headers.get('content-type')?.includes('application/json') ? JSON.parse(text) : {}) as T
    }
    await import('./explain-asks.ts').then(({ askEverything }) => askEverything(ask, large))
    const described = await ask<{ paths: Record<string, Record<string, unknown>> }>(
      'GET',
      '/api/openapi.json',
      '/api/openapi.json',
    )
    const missing = Object.entries(described.paths)
      .flatMap(([path, methods]) =>
        Object.keys(methods).map((method) => `${method.toUpperCase()} ${path.replace(/\{(\w+)\}/g, ':$1')}`),
      )
      .filter((route) => !asked.has(route))
    if (missing.length) throw new Error(`Not asked: ${missing.join(', ')}`)
    for (const task of ['minutely', 'nightly']) {
      const job = await large.pool.query<{ id: string }>(
        `select id from graphile_worker.add_job($1, '{}'::json, job_key := $2)`,
        [task, `explain-${task}`],
      )
      const done = async () =>
        (await large.pool.query('select 1 from graphile_worker.jobs where id = $1', [job.rows[0]?.id]))
          .rowCount === 0
      const end = Date.now() + 600_000
      while (!(await done())) {
        if (Date.now() > end) throw new Error(`${task} did not end`)
        await new Promise((resolve) => setTimeout(resolve, 250))
      }
    }
  } finally {
    await large.stop({ keepCluster: true })
    await conference.stop()
    await weather.stop()
  }
  const indexes = await admin.query<{ name: string }>(
    `select relname as name from pg_class where relkind = 'i' and pg_relation_size(oid) <= ${FEW_BYTES}`,
  )
  for (const { name } of indexes.rows) few.add(name)
  const plans = plansSince(log, from)
  const found = new Map<string, Set<string>>()
  for (const plan of plans)
    for (const table of scannedIn(plan.Plan)) {
      const text = plan['Query Text'].replace(/\s+/g, ' ').trim()
      found.set(text, (found.get(text) ?? new Set()).add(table))
    }
  wrong = [...found].map(([text, tables]) => `${[...tables].join(', ')}: ${text.slice(0, 400)}`)
  console.log(`${plans.length} plans of ${new Set(plans.map((plan) => plan['Query Text'])).size} statements`)
} finally {
  for (const name of Object.keys(SETTINGS)) await admin.query(`alter database postgres reset ${name}`)
  await admin.end()
  cluster.stop()
}
for (const each of wrong) console.log(`read from end to end: ${each}\n`)
console.log(
  `${wrong.length} statements read a table that grows from end to end: ${wrong.length ? 'NOT met' : 'met'}`,
)
process.exit(wrong.length ? 1 : 0)
