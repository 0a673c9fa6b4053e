import { answerMeeting } from '@marmot/contract/meetings'
import { createStore, del, set, values } from 'idb-keyval'
import { z } from 'zod'
import { call } from '../platform/api.ts'
import { ApiProblem, problemMore, problemWords } from '../platform/problem.ts'
import { showWaiting, type Waiting } from './waiting.ts'

const store = (() => {
  let opened: ReturnType<typeof createStore> | null = null
  return () => {
    opened ??= createStore('marmot-answers', 'waiting')
    return opened
  }
})()

/** Whatever an older Marmot kept in another form is no answer any more. */
const kept: z.ZodType<Waiting> = z.object({
  id: z.string(),
  personId: z.string(),
  entryId: z.string(),
  recurrence: z.string().nullable(),
  title: z.string(),
  answer: z.enum(['accepted', 'tentative', 'declined']),
  message: z.string(),
  quiet: z.boolean(),
  given: z.string(),
  version: z.number(),
  refused: z
    .object({ words: z.string(), start: z.string().nullable(), end: z.string().nullable() })
    .nullable(),
})

/** The answers of one person that are kept on this device, the oldest first. */
export const readWaiting = async (personId: string): Promise<Waiting[]> =>
  (await values(store()).catch(() => []))
    .flatMap((value) => kept.safeParse(value).data ?? [])
    .filter((one) => one.personId === personId)
    .sort((one, other) => one.given.localeCompare(other.given))

const show = async (personId: string): Promise<void> => showWaiting(await readWaiting(personId))

/** Keeps an answer until it can be sent; one to the same dates that waits already gives way to it. Throws where this device keeps nothing. */
export const keepAnswer = async (answer: Waiting): Promise<void> => {
  const same = (await readWaiting(answer.personId)).filter(
    (one) => one.entryId === answer.entryId && one.recurrence === answer.recurrence,
  )
  await set(answer.id, answer, store())
  for (const one of same) await del(one.id, store())
  await show(answer.personId)
}

/** Throws an answer away that waits, or that was refused. */
export const dropAnswer = async ({ id, personId }: Waiting): Promise<void> => {
  await del(id, store())
  await show(personId)
}

/** Throws all answers of a person away that are kept on this device. */
export const dropAll = async (personId: string): Promise<void> => {
  for (const one of await readWaiting(personId)) await del(one.id, store())
  showWaiting([])
}

/** Whether the same may go well later: nobody was reached, or whoever was had trouble of their own. */
const later = ({ problem: { status } }: ApiProblem): boolean =>
  status === 0 || status >= 500 || status === 401 || status === 429

const text = (value: unknown): string | null => (typeof value === 'string' ? value : null)

const sendOne = async ({ entryId, recurrence, answer, message, quiet, given, version }: Waiting) => {
  await call(answerMeeting, {
    params: { entryId },
    body: { answer, message, quiet, late: { given, version }, ...(recurrence ? { recurrence } : {}) },
  })
}

const sendAll = async (personId: string): Promise<{ sent: Waiting[]; refused: Waiting[] }> => {
  const sent: Waiting[] = []
  const refused: Waiting[] = []
  for (const one of await readWaiting(personId)) {
    if (one.refused) continue
    try {
      await sendOne(one)
      await del(one.id, store())
      sent.push(one)
    } catch (error) {
      if (!(error instanceof ApiProblem) || later(error)) break
      const { start, end } = problemMore(error)
      const why = { words: problemWords(error), start: text(start), end: text(end) }
      await set(one.id, { ...one, refused: why }, store())
      refused.push(one)
    }
  }
  await show(personId)
  return { sent, refused }
}

/**
 * Sends the answers that wait, each once: of several windows only one does, and what is refused is kept with the reason, for
 * whoever gave it to decide anew. Gives what was sent and what was refused now.
 */
export const sendWaiting = (personId: string): ReturnType<typeof sendAll> =>
  // A page that is not served safely has no locks; the server takes the same answer twice as one.
  globalThis.navigator?.locks?.request('marmot-answers', () => sendAll(personId)) ?? sendAll(personId)
