// Child processes that say when they are ready, and are stopped together.
import { spawn } from 'node:child_process'
import { root } from './install.mjs'

/**
 * How every program of ours is run. Room for young objects is kept small: answers of half a megabyte come and go, and
 * with the usual 16 MB, three times over, the server under load stood at 400 MB where it now stands at 200. Old objects
 * get no limit here: it would be each thread's, too, in place of the smaller one of its own.
 */
const NODE_FLAGS = ['--max-semi-space-size=4']

/** Starts a program, built or as TypeScript, and waits for its first line that begins with `listening`. */
export const startProgram = (file, env, { quiet = false } = {}) =>
  new Promise((resolve, reject) => {
    const child = spawn(
      process.execPath,
      [...NODE_FLAGS, ...(file.endsWith('.ts') ? ['--import', 'tsx'] : []), file],
      {
        cwd: root,
        env: { ...process.env, ...env, MARMOT_WITH_PARENT: '1' },
        // The child ends when this pipe does, so that nothing is left running when we are killed.
        stdio: ['pipe', 'pipe', quiet ? 'ignore' : 'inherit'],
      },
    )
    let said = ''
    child.stdout.on('data', (part) => {
      if (said.includes('\n') || !said) said += part
      const line = said.split('\n').find((each) => each.startsWith('listening'))
      if (line) resolve({ child, line })
      else if (!quiet) process.stdout.write(part)
    })
    child.on('exit', (code) => reject(new Error(`${file} ended with ${code}`)))
    child.on('error', reject)
  })

/** Ends a child kindly, then, after five seconds, for good. */
export const stopProgram = (child) =>
  new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) {
      resolve()
      return
    }
    const force = setTimeout(() => child.kill('SIGKILL'), 5000)
    child.on('exit', () => {
      clearTimeout(force)
      resolve()
    })
    child.kill('SIGTERM')
  })
