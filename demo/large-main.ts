import { DEMO_PASSWORD } from '@marmot/server/people/index.ts'
import { startClock } from '@marmot/server/platform/clock.ts'
import { openPool } from '@marmot/server/platform/database.ts'
import { migrate } from '@marmot/server/platform/migrate.ts'
import { LARGE, makeLarge, type Size } from './large.ts'
import { isEmpty, loadDemo } from './load.ts'

const number = (name: string, otherwise: number): number => {
  const value = Number(process.env[name] ?? otherwise)
  if (!Number.isInteger(value) || value < 0) throw new Error(`${name} is no whole number`)
  return value
}

const url = process.env.DATABASE_URL
if (!url) throw new Error('DATABASE_URL is missing')
const size: Size = {
  people: number('LARGE_PEOPLE', LARGE.people),
  resources: number('LARGE_RESOURCES', LARGE.resources),
  entries: number('LARGE_ENTRIES', LARGE.entries),
}
await migrate(url)
const pool = openPool(url, () => undefined, { filling: true })
if (await isEmpty(pool)) {
  const started = Date.now()
  const now = startClock(process.env.MARMOT_NOW ?? null)()
  const demo = await loadDemo(pool, now, DEMO_PASSWORD)
  await makeLarge(pool, demo, now, size, (words) =>
    process.stdout.write(`${String(Math.round((Date.now() - started) / 1000)).padStart(4)} s  ${words}\n`),
  )
  process.stdout.write(`the large demo took ${Math.round((Date.now() - started) / 1000)} s\n`)
}
await pool.end()
