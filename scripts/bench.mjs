// npm run bench: measures what has a budget, as ratios in one run.
import { spawnSync } from 'node:child_process'
import { build } from './lib/build.mjs'
import { installPackages, root } from './lib/install.mjs'

installPackages()
const run = (args) =>
  spawnSync(process.execPath, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'] }).status ?? 1
process.exit(build() ? run(['--import', 'tsx', 'bench/bench.ts']) : 1)
