import { DEMO_PASSWORD } from '@marmot/server/people/index.ts'
import { startClock } from '@marmot/server/platform/clock.ts'
import { openPool } from '@marmot/server/platform/database.ts'
import { migrate } from '@marmot/server/platform/migrate.ts'
import { isEmpty, loadDemo } from './load.ts'

const url = process.env.DATABASE_URL
if (!url) throw new Error('DATABASE_URL is missing')
await migrate(url)
const pool = openPool(url)
if (await isEmpty(pool)) {
  const now = startClock(process.env.MARMOT_NOW ?? null)()
  const demo = await loadDemo(pool, now, DEMO_PASSWORD, process.env.MARMOT_PARTNER ?? null)
  process.stdout.write(
    `demo: ${demo.people.length} people, ${demo.entries.length} entries, ${demo.reservations.length} reservations\n`,
  )
}
await pool.end()
