import type { Route } from '@marmot/contract/route'
import type { z } from 'zod'
import { addressOf, ask, jsonOf } from './ask.ts'
import { ApiProblem, offline, unreadable } from './problem.ts'

interface Given<P, Q, B> {
  params?: P
  query?: Q
  body?: B
  /** Makes a repeated request harmless: the same key, the same answer. */
  key?: string
  signal?: AbortSignal
}

/** Calls a route of the contract. Throws `ApiProblem`. */
export const call = async <
  P extends z.ZodType,
  Q extends z.ZodType,
  B extends z.ZodType,
  A extends z.ZodType,
>(
  route: Route<P, Q, B, A>,
  { params, query, ...sent }: Given<z.input<P>, z.input<Q>, z.input<B>> = {},
): Promise<z.output<A>> => {
  const json = await ask(route.method, addressOf(route.path, Object(params ?? {}), Object(query ?? {})), sent)
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
