import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { loadDemo } from '../../demo/load.ts'
import { startCluster } from '../../scripts/lib/postgres.mjs'
import { DEMO_PASSWORD } from '../people/index.ts'
import { openPool } from '../platform/database.ts'
import { migrate } from '../platform/migrate.ts'

/** The tests' own instant: a Monday morning in Innsbruck. */
export const TEST_NOW = '2026-11-23T08:12:00Z'

declare module 'vitest' {
  interface ProvidedContext {
    clusterUrl: string
  }
}

/** Starts a PostgreSQL for the tests alone and makes the demo once, as a template that each test file copies. */
export const setup = async (project: TestProject) => {
  const folder = mkdtempSync(join(tmpdir(), 'marmot-test-'))
  const cluster = await startCluster(folder, { fast: true })
  const admin = openPool(cluster.url('postgres'))
  await admin.query('create database demo_template')
  await admin.end()
  await migrate(cluster.url('demo_template'))
  const pool = openPool(cluster.url('demo_template'))
  await loadDemo(pool, Date.parse(TEST_NOW), DEMO_PASSWORD)
  await pool.end()
  project.provide('clusterUrl', cluster.url('postgres'))
  return () => {
    cluster.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
