import type { Problem } from '@marmot/contract/route'
import { ApiProblem, offline, unreadable } from './problem.ts'

/** The address of a route with its parameters filled in. */
export const addressOf = (path: string, params: object, query: object): string => {
  const filled = Object.entries(params).reduce(
    (text, [name, value]) => text.replace(`:${name}`, encodeURIComponent(String(value))),
    path,
  )
  const search = new URLSearchParams()
  for (const [name, value] of Object.entries(query)) if (value !== undefined) search.set(name, String(value))
  return search.size ? `${filled}?${search}` : filled
}

const isProblem = (json: unknown): json is Problem =>
  typeof json === 'object' &&
  json !== null &&
  'code' in json &&
  typeof json.code === 'string' &&
  'detail' in json &&
  typeof json.detail === 'string'

/** The JSON of an answer; throws the problem when it is one. */
export const jsonOf = async (response: Response): Promise<unknown> => {
  const json: unknown = await response.json().catch(() => null)
  if (response.ok) return json
  throw new ApiProblem(isProblem(json) ? json : unreadable)
}

/** What is sent beside the address. */
export interface Sent {
  readonly body?: unknown
  /** Makes a repeated request harmless: the same key, the same answer. */
  readonly key?: string | undefined
  readonly signal?: AbortSignal | undefined
}

/** Asks the server, and gives the JSON of its answer. Throws `ApiProblem`. */
export const ask = async (
  method: string,
  address: string,
  { body, key, signal }: Sent = {},
): Promise<unknown> => {
  const headers: Record<string, string> = {}
  if (body !== undefined) headers['content-type'] = 'application/json'
  if (key) headers['idempotency-key'] = key
  try {
    const response = await fetch(address, {
      method,
      headers,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      ...(signal ? { signal } : {}),
    })
    return await jsonOf(response)
  } catch (error) {
    if (signal?.aborted || error instanceof ApiProblem) throw error
    throw new ApiProblem(offline)
  }
}
