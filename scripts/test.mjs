// npm test: installs what is missing, then types, lint, import rules, unused code, unit tests, server tests on a PostgreSQL of their
// own, and journeys in a real browser. Ends with the line `N passed, N failed`. `npm run test:core`, `test:server` and
// `test:e2e` run one part; `npm run test:random` tries the properties of core many times over, each time from another seed.
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { installChromium, installPackages, installPostgres, root } from './lib/install.mjs'

const only = process.argv[2]
const wants = (part) => !only || only === part || (only === 'random' && part === 'core')
const RANDOM_TIMES = '20'

installPackages()
if (wants('server') || wants('e2e')) installPostgres()
if (wants('e2e')) installChromium()

const reports = mkdtempSync(join(tmpdir(), 'marmot-reports-'))
const sum = { passed: 0, failed: 0 }
const bin = (name) => join(root, 'node_modules', '.bin', name)

const run = (title, command, args, env = {}) => {
  console.log(`\n— ${title}`)
  const done = spawnSync(command, args, {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ...env },
  })
  return done.status === 0
}

/** A part that is one check: it passes or fails as a whole. */
const check = (title, command, args) => {
  if (run(title, command, args)) sum.passed++
  else sum.failed++
}

/** A part that reports its own tests. One that ends badly with no failed test to show for it counts as failed too. */
const suite = (title, command, args, env, count) => {
  const fine = run(title, command, args, env)
  try {
    const { passed, failed } = count()
    sum.passed += passed
    sum.failed += failed || (fine && passed > 0 ? 0 : 1)
  } catch {
    sum.failed++
  }
}

const read = (file) => JSON.parse(readFileSync(join(reports, file), 'utf8'))

const vitest = (title, project, env = {}) =>
  suite(
    title,
    bin('vitest'),
    [
      'run',
      '--project',
      project,
      '--reporter',
      'default',
      '--reporter',
      'json',
      '--outputFile.json',
      join(reports, `${project}.json`),
    ],
    env,
    () => {
      const { numPassedTests, numFailedTests } = read(`${project}.json`)
      return { passed: numPassedTests, failed: numFailedTests }
    },
  )

if (!only) {
  check('types', bin('tsc'), ['--noEmit', '-p', 'tsconfig.json'])
  check('format and lint', bin('biome'), ['check', '--error-on-warnings', '.'])
  check('import rules', process.execPath, ['scripts/imports.mjs'])
  check('owners of tables, circles of domains', process.execPath, ['scripts/owners.mjs'])
  check('unused code', bin('knip'), [])
}
if (wants('core')) {
  const seed = String(Math.floor(Math.random() * 2 ** 31))
  const random = {
    MARMOT_SEED: seed,
    MARMOT_PROPERTY_TIMES: process.env.MARMOT_PROPERTY_TIMES ?? RANDOM_TIMES,
  }
  if (only === 'random') console.log(`Seed ${seed}, ${random.MARMOT_PROPERTY_TIMES} times as many examples.`)
  vitest('core, contract and what else needs no database', 'core', only === 'random' ? random : {})
}
if (wants('server')) vitest('server, on a PostgreSQL of its own', 'server')
if (wants('e2e')) {
  check('build', process.execPath, ['scripts/build.mjs'])
  suite(
    'journeys in a browser',
    bin('playwright'),
    ['test', '-c', 'e2e'],
    { PLAYWRIGHT_JSON_OUTPUT_NAME: join(reports, 'e2e.json') },
    () => {
      const { stats } = read('e2e.json')
      if (stats.flaky) console.log(`\n${stats.flaky} passed only at the second try: see above which.`)
      return { passed: stats.expected + stats.flaky, failed: stats.unexpected }
    },
  )
}
rmSync(reports, { recursive: true, force: true })
console.log(`\n${sum.passed} passed, ${sum.failed} failed`)
process.exit(sum.failed === 0 && sum.passed > 0 ? 0 : 1)
