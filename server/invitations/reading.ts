import {
  BadMessage,
  type Counter,
  type Outside,
  type Reply,
  readIncoming,
  readOutside,
} from '@marmot/core/letters'
import { ThreadEnded, type Threads, type ThreadWork } from '../platform/threads.ts'

/** What was read; or why nothing could be. Only data comes back from a thread, and no error with a code of its own. */
type Outcome<T> =
  | { readonly read: T }
  | { readonly bad: { readonly code: BadMessage['code']; readonly message: string } }

const attempt = <T>(read: () => T): Outcome<T> => {
  try {
    return { read: read() }
  } catch (error) {
    if (error instanceof BadMessage) return { bad: { code: error.code, message: error.message } }
    throw error
  }
}

/** A calendar part from outside, to be read for each of some zones, in which times that name none are meant. */
interface FromOutside {
  readonly text: string
  readonly method: Outside['method']
  readonly homes: readonly string[]
}
type ReadOutside = ReadonlyMap<string, readonly Outside[]>

/** A calendar part that somebody sends back to an invitation of ours. */
interface SentBack {
  readonly text: string
  readonly method: string | null
  readonly from: string
}
type ReadBack = readonly (Reply | Counter)[]

/** Reads a calendar part from outside where it holds nobody up. */
export const readForHomes: ThreadWork<FromOutside, Outcome<ReadOutside>> = async ({ text, method, homes }) =>
  attempt(() => new Map(homes.map((home) => [home, readOutside(text, method, home)])))

/** Reads what is sent back to an invitation where it holds nobody up. */
export const readSentBack: ThreadWork<SentBack, Outcome<ReadBack>> = async ({ text, method, from }) =>
  attempt(() => readIncoming(text, from, method, 'UTC'))

/** A calendar part is read in milliseconds; what takes longer than this is none that anybody means. */
const MOST_MS = 10_000

const inThread = async <I, T>(threads: Pick<Threads, 'run'>, name: string, input: I): Promise<T> => {
  const signal = AbortSignal.timeout(MOST_MS)
  const outcome = await threads.run<I, Outcome<T>>(name, input, { signal }).catch((error: unknown) => {
    if (error instanceof ThreadEnded && signal.aborted)
      throw new BadMessage('too-large', 'The calendar part takes too long to be read.')
    throw error
  })
  if ('bad' in outcome) throw new BadMessage(outcome.bad.code, outcome.bad.message)
  return outcome.read
}

/** Has a calendar part from outside read in a thread, by zone. Throws `BadMessage` where it cannot be. */
export const outsideInThread = (threads: Pick<Threads, 'run'>, input: FromOutside): Promise<ReadOutside> =>
  inThread(threads, 'readOutside', input)

/** Has what is sent back read in a thread. Throws `BadMessage` where it cannot be. */
export const sentBackInThread = (threads: Pick<Threads, 'run'>, input: SentBack): Promise<ReadBack> =>
  inThread(threads, 'readSentBack', input)
