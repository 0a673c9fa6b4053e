import { writeFileSync } from 'node:fs'
import { monitorEventLoopDelay } from 'node:perf_hooks'

/**
 * The server as it is, with a record of how long its thread was held: written to `MARMOT_MEASURED` twice a second, in
 * milliseconds. `kill -USR2` begins it anew.
 */
const RESOLUTION_MS = 10
const delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS })
delay.enable()
process.on('SIGUSR2', () => delay.reset())
const file = process.env.MARMOT_MEASURED
setInterval(() => {
  // The histogram counts from one timer to the next, its own resolution included.
  const ms = (nanoseconds: number) => Math.max(0, nanoseconds / 1e6 - RESOLUTION_MS)
  const said = { median: ms(delay.percentile(50)), p99: ms(delay.percentile(99)), longest: ms(delay.max) }
  if (file) writeFileSync(file, JSON.stringify(said))
}, 500).unref()

await import(new URL('../server/dist/main.js', import.meta.url).href)
