import { PassThrough } from 'node:stream'
import { type ImportProgress, previewImport, takeImport } from '@marmot/contract/feeds'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { ThreadEnded } from '../platform/threads.ts'
import {
  type carryOutImport,
  importing,
  type LookInput,
  type lookAtImport,
  type TakeInput,
} from './importing.ts'
import { isFileOf } from './store.ts'

/** Reading a file of the largest size takes seconds; one that takes longer is not a calendar. */
const MOST_LOOK_MS = 60_000

type Looked = Awaited<ReturnType<typeof lookAtImport>>
type Taken = Awaited<ReturnType<typeof carryOutImport>>

/** What is said of a thread that ended: the file asked too much of it. */
const tooMuch = (error: unknown): unknown =>
  error instanceof ThreadEnded
    ? new ProblemError(422, 'too-much', 'It takes too much time or room to read. Nothing was imported.')
    : error

export const importRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock, threads } = deps
  const atWork = new Set<string>()

  mount(previewImport, async ({ raw, asker, context }) => {
    // A small body lies in memory that it shares with others, which cannot move into a thread.
    const whole = raw.length === raw.buffer.byteLength
    const bytes = whole ? new Uint8Array(raw.buffer) : new Uint8Array(raw)
    const charset = /charset="?([\w.:-]+)/i.exec(context.get('content-type'))?.[1] ?? null
    const input: LookInput = { personId: asker.id, bytes, charset, now: clock() }
    try {
      return await threads.run<LookInput, Looked>('lookAt', input, {
        signal: AbortSignal.timeout(MOST_LOOK_MS),
        transfer: [bytes.buffer],
      })
    } catch (error) {
      throw tooMuch(error)
    }
  })

  mount(takeImport, async ({ params, asker, context }) => {
    if (!(await isFileOf(pool, params.importId, asker.id))) throw notFound('file that was looked at')
    if (atWork.has(asker.id)) throw importing()
    atWork.add(asker.id)
    const stream = new PassThrough()
    context.type = 'application/x-ndjson'
    context.body = stream
    const left = new AbortController()
    // Whoever goes away has stopped it: nothing is left half done.
    context.res.on('close', () => left.abort())
    const tell = (progress: ImportProgress) => stream.write(`${JSON.stringify(progress)}\n`)
    const input: TakeInput = { personId: asker.id, importId: params.importId, now: clock() }
    threads
      .run<TakeInput, Taken>('takeIn', input, {
        signal: left.signal,
        told: (said) => tell(said as ImportProgress),
      })
      .then(
        ({ of, changeId }) => tell({ done: of, of, ...(changeId ? { changeId } : {}) }),
        (error) => {
          const told = tooMuch(error)
          const trouble =
            told instanceof ProblemError
              ? told.detail
              : 'Something went wrong on our side. Nothing was imported; try again.'
          tell({ done: 0, of: 0, trouble })
        },
      )
      .finally(() => {
        atWork.delete(asker.id)
        stream.end()
      })
    return {}
  })
}
