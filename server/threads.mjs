// From its sources a thread begins here: it learns to read TypeScript, as the server itself does, and takes its work from
// threads.ts.
import { register } from 'tsx/esm/api'

register()
export const { run } = await import('./threads.ts')
