import { fileURLToPath } from 'node:url'
import { runMigrations } from 'graphile-worker'
import { runner } from 'node-pg-migrate'

/** Brings a database to the newest shape: ours and the job queue's. Safe to run by several servers at once. */
export const migrate = async (databaseUrl: string): Promise<void> => {
  await runner({
    databaseUrl,
    dir: fileURLToPath(new URL('../migrations', import.meta.url)),
    direction: 'up',
    migrationsTable: 'migration',
    count: Number.POSITIVE_INFINITY,
    log: () => undefined,
  })
  await runMigrations({ connectionString: databaseUrl })
}
