// npm run demo:large: makes the large organisation once, in a data folder of its own, and says how to start Marmot on it.
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { join, resolve } from 'node:path'
import { installPackages, root } from './lib/install.mjs'
import { reachableFolder, startCluster } from './lib/postgres.mjs'

installPackages()
const wanted = resolve(process.env.MARMOT_DATA ?? join(root, '.data-large'))
const tag = createHash('sha256').update(wanted).digest('hex').slice(0, 10)
const cluster = await startCluster(reachableFolder(wanted, `/var/lib/marmot-${tag}`))
const done = spawnSync(process.execPath, ['--import', 'tsx', 'demo/large-main.ts'], {
  cwd: root,
  stdio: ['ignore', 'inherit', 'inherit'],
  env: { ...process.env, DATABASE_URL: cluster.url('postgres') },
})
cluster.stop()
if (done.status === 0)
  console.log(`It is in ${wanted}. Start Marmot on it with: MARMOT_DATA=${wanted} npm start`)
process.exit(done.status ?? 1)
