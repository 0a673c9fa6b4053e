// Builds what runs: the pages for the browser and the worker that opens them without a network, the server and its threads for Node.js.
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { root } from './install.mjs'

const vite = join(root, 'node_modules', 'vite', 'bin', 'vite.js')

/** Builds the web application and the server. False when one of them could not be built; it has said why. */
export const build = () =>
  ['web', 'web/worker', 'server'].every(
    (part) =>
      spawnSync(process.execPath, [vite, 'build', part, '--logLevel', 'warn'], {
        cwd: root,
        stdio: ['ignore', 'inherit', 'inherit'],
      }).status === 0,
  )
