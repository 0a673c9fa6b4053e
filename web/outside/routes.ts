import type { joinPoll, markByLink, proposeTimeByLink, readPollByLink } from '@marmot/contract/polls'
import type { AnyRoute } from '@marmot/contract/route'
import type { bookVisit, moveVisit, proveVisit, readVisitKind, readVisitPage } from '@marmot/contract/visits'
import type { z } from 'zod'
import { addressOf, ask } from '../platform/ask.ts'

/**
 * A route of the contract without its schemas: what those without an account load is a third smaller for it. That each is as the
 * contract has it is held by a test; what comes back is taken as the server's word.
 */
export interface Outside<R extends AnyRoute> {
  readonly method: R['method']
  readonly path: string
  /** Only a type. */
  readonly of?: R
}

export const POLL: Outside<typeof readPollByLink> = { method: 'GET', path: '/api/poll-links/:token' }
export const MARK: Outside<typeof markByLink> = { method: 'PUT', path: '/api/poll-links/:token/marks' }
export const JOIN: Outside<typeof joinPoll> = { method: 'POST', path: '/api/poll-links/:token/voters' }
export const PROPOSE: Outside<typeof proposeTimeByLink> = {
  method: 'POST',
  path: '/api/poll-links/:token/times',
}
export const PAGE: Outside<typeof readVisitPage> = { method: 'GET', path: '/api/v/:page' }
export const KIND: Outside<typeof readVisitKind> = { method: 'GET', path: '/api/v/:page/:kind' }
export const TAKE: Outside<typeof bookVisit> = { method: 'POST', path: '/api/v/:page/:kind/visits' }
export const PROVE: Outside<typeof proveVisit> = { method: 'POST', path: '/api/visit-proofs/:token' }
export const MOVE: Outside<typeof moveVisit> = { method: 'POST', path: '/api/visits/:token/move' }

interface Given<R extends AnyRoute> {
  readonly params: z.input<R['params']>
  readonly query?: Record<string, unknown>
  readonly body?: z.input<R['body']>
  readonly key?: string
}

/** Asks a route for those without an account. Throws `ApiProblem`. */
export const askOutside = async <R extends AnyRoute>(
  { method, path }: Outside<R>,
  { params, query = {}, body, key }: Given<R>,
): Promise<z.output<R['answer']>> => {
  const answer: unknown = await ask(method, addressOf(path, Object(params), query), { body, key })
  return answer as z.output<R['answer']>
}
