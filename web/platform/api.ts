import { type Problem, problem, type Route } from '@marmot/contract/route'
import type { z } from 'zod'

/** A problem (RFC 9457) that the server answered with, or one of our own when it could not be reached. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

const offline: Problem = {
  type: 'urn:marmot:problem:offline',
  title: 'Marmot cannot be reached',
  status: 0,
  code: 'offline',
  detail: 'Marmot cannot be reached just now. What you see is from before; nothing was sent or changed.',
}

const unreadable: Problem = {
  ...offline,
  type: 'urn:marmot:problem:unreadable',
  code: 'unreadable',
  detail: 'Marmot answered something that this page does not understand. Reload the page.',
}

interface Given<P, Q, B> {
  params?: P
  query?: Q
  body?: B
  /** Makes a repeated request harmless: the same key, the same answer. */
  key?: string
  signal?: AbortSignal
}

const addressOf = (path: string, params: object, query: object): string => {
  const filled = Object.entries(params).reduce(
    (text, [name, value]) => text.replace(`:${name}`, encodeURIComponent(String(value))),
    path,
  )
  const search = new URLSearchParams()
  for (const [name, value] of Object.entries(query)) if (value !== undefined) search.set(name, String(value))
  return search.size ? `${filled}?${search}` : filled
}

/** Calls a route of the contract. Throws `ApiProblem`. */
export const call = async <
  P extends z.ZodType,
  Q extends z.ZodType,
  B extends z.ZodType,
  A extends z.ZodType,
>(
  route: Route<P, Q, B, A>,
  given: Given<z.input<P>, z.input<Q>, z.input<B>> = {},
): Promise<z.output<A>> => {
  const address = addressOf(route.path, Object(given.params ?? {}), Object(given.query ?? {}))
  const headers: Record<string, string> = {}
  if (given.body !== undefined) headers['content-type'] = 'application/json'
  if (given.key) headers['idempotency-key'] = given.key
  let response: Response
  try {
    response = await fetch(address, {
      method: route.method,
      headers,
      ...(given.body === undefined ? {} : { body: JSON.stringify(given.body) }),
      ...(given.signal ? { signal: given.signal } : {}),
    })
  } catch (error) {
    if (given.signal?.aborted) throw error
    throw new ApiProblem(offline)
  }
  const json = await jsonOf(response)
  const answer = route.answer.safeParse(json)
  if (!answer.success) throw new ApiProblem(unreadable)
  return answer.data
}

/** The JSON of an answer; throws the problem when it is one. */
const jsonOf = async (response: Response): Promise<unknown> => {
  const json: unknown = await response.json().catch(() => null)
  if (response.ok) return json
  const read = problem.safeParse(json)
  throw new ApiProblem(read.success ? read.data : unreadable)
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

/** What went wrong as words for a person. */
export const problemWords = (error: unknown): string =>
  error instanceof ApiProblem ? error.problem.detail : 'Something went wrong in this page. Reload it.'

/** The stable code of what went wrong. */
export const problemCode = (error: unknown): string =>
  error instanceof ApiProblem ? error.problem.code : 'unforeseen'

/** Facts that came with what went wrong. */
export const problemMore = (error: unknown): Record<string, unknown> =>
  error instanceof ApiProblem ? (error.problem.more ?? {}) : {}
