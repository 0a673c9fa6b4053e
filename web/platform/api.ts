import type { Route } from '@marmot/contract/route'
import type { z } from 'zod'
import { addressOf, ask, jsonOf } from './ask.ts'
import { ApiProblem, offline, problemCode, unreadable } from './problem.ts'
import { noteAnswer, noteFromBefore } from './seen.ts'

interface Given<P, Q, B> {
  params?: P
  query?: Q
  body?: B
  /** Makes a repeated request harmless: the same key, the same answer. */
  key?: string
  signal?: AbortSignal
}

/** What was kept of an answer when the server could be reached last; throws what went wrong where nothing was. */
const fromBefore = async (address: string, error: unknown): Promise<unknown> => {
  if (problemCode(error) !== offline.code) throw error
  // No part of the first screen; where it cannot be fetched, nothing is kept either.
  const { keptAnswer } = await import('./kept.ts').catch(() => ({ keptAnswer: () => undefined }))
  const seen = await keptAnswer(address)
  if (!seen) throw error
  noteFromBefore(seen.at)
  return seen.json
}

/**
 * Calls a route of the contract. Where the server cannot be reached, what was kept of its last answer is given, and said to be
 * from before (`useAsOf`). Throws `ApiProblem`.
 */
export const call = async <
  P extends z.ZodType,
  Q extends z.ZodType,
  B extends z.ZodType,
  A extends z.ZodType,
>(
  route: Route<P, Q, B, A>,
  { params, query, ...sent }: Given<z.input<P>, z.input<Q>, z.input<B>> = {},
): Promise<z.output<A>> => {
  const address = addressOf(route.path, Object(params ?? {}), Object(query ?? {}))
  const reading = route.method === 'GET'
  const json = await ask(route.method, address, sent).then(
    (fresh) => {
      if (reading) noteAnswer(address, fresh)
      return fresh
    },
    (error) => {
      if (reading) return fromBefore(address, error)
      throw error
    },
  )
  const answer = route.answer.safeParse(json)
  if (!answer.success) throw new ApiProblem(unreadable)
  return answer.data
}

/** Sends a file's bytes. Throws `ApiProblem`. */
export const upload = async (address: string, file: Blob, signal?: AbortSignal): Promise<unknown> => {
  let response: Response
  try {
    response = await fetch(address, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
      ...(signal ? { signal } : {}),
    })
  } catch (error) {
    if (signal?.aborted) throw error
    throw new ApiProblem(offline)
  }
  return jsonOf(response)
}
