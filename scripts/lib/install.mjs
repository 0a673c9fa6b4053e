// Installs what is missing, with nothing but Node.js: packages from the lock file, Debian's PostgreSQL and Chromium.
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

export const root = new URL('../..', import.meta.url).pathname.replace(/\/$/, '')
export const isRoot = process.getuid?.() === 0

const run = (command, args, options = {}) => {
  const done = spawnSync(command, args, { stdio: ['ignore', 'inherit', 'inherit'], cwd: root, ...options })
  if (done.status !== 0) throw new Error(`${command} ${args.join(' ')} failed`)
}

/** Installs the packages of the lock file, unless that very lock file was installed before. */
export const installPackages = () => {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  const mark = join(root, 'node_modules', '.marmot-lock')
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return
  console.log('Installing packages (once)…')
  // Not `npm ci`: it refuses a lock file when a registry lacks the packages that are for other platforms.
  run('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'])
  writeFileSync(mark, lock)
}

let updated = false
const debian = (names, what) => {
  const command = `apt-get install -y --no-install-recommends ${names.join(' ')}`
  if (!isRoot) {
    console.error(`${what} is missing. Install it with:\n  sudo ${command}`)
    process.exit(1)
  }
  console.log(`Installing ${what} (once)…`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  const stdio = ['ignore', 'ignore', 'inherit']
  if (!updated) run('apt-get', ['update', '-q'], { env, stdio })
  updated = true
  run('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...names], { env, stdio })
}

const findPostgres = () => {
  const base = '/usr/lib/postgresql'
  if (!existsSync(base)) return null
  const versions = readdirSync(base)
    .filter((version) => existsSync(join(base, version, 'bin', 'initdb')) && Number(version) >= 15)
    .sort((a, b) => Number(b) - Number(a))
  return versions[0] ? join(base, versions[0], 'bin') : null
}

/** The folder of PostgreSQL's programs. */
export const installPostgres = () => {
  if (!findPostgres()) debian(['postgresql'], 'PostgreSQL')
  const found = findPostgres()
  if (!found) throw new Error('PostgreSQL 15 or newer was not found in /usr/lib/postgresql')
  return found
}

export const CHROMIUM = '/usr/bin/chromium'

export const installChromium = () => {
  if (!existsSync(CHROMIUM)) debian(['chromium'], 'Chromium')
}
