// npm run bench: measures what has a budget, as ratios in one run.
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { installPackages, root } from './lib/install.mjs'

installPackages()
const run = (args) =>
  spawnSync(process.execPath, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'] }).status ?? 1
const built = run([
  join(root, 'node_modules', 'vite', 'bin', 'vite.js'),
  'build',
  'web',
  '--logLevel',
  'warn',
])
process.exit(built || run(['--import', 'tsx', 'bench/bench.ts']))
