import { startMarmot } from './app.ts'
import { readSettings } from './platform/settings.ts'

// What nobody waits for must not end the server: it is said, and everything else goes on.
process.on('unhandledRejection', (error) => process.stderr.write(`unhandled: ${error}\n`))

const running = await startMarmot(readSettings(process.env))
await running.round()
// The parent process waits for this line.
process.stdout.write(`listening ${running.port} mail ${running.mailPort}\n`)

let stopping = false
const stop = async () => {
  if (stopping) return
  stopping = true
  await running.stop()
  process.exit(0)
}
process.on('SIGINT', stop)
process.on('SIGTERM', stop)
// Started by another program, it ends with it, also when that one is killed.
if (process.env.MARMOT_WITH_PARENT === '1') process.stdin.on('end', stop).resume()
