import type { Context, Middleware } from 'koa'
import type { Logger } from 'pino'
import { ProblemError } from './problems.ts'

/**
 * What PostgreSQL says when it stops or starts (its codes of class 57P and 08), and what Node.js and node-postgres say when it is
 * not there.
 */
const AWAY_CODES = /^(?:57P0[1-3]|08\w{3}|ECONNREFUSED|ECONNRESET|EPIPE)$/
const AWAY_WORDS = /^Connection terminated|^timeout exceeded when trying to connect/

/** Whether something went wrong only because the database is away for the moment. */
export const databaseIsAway = (error: unknown): boolean =>
  error instanceof Error &&
  ((typeof Object(error).code === 'string' && AWAY_CODES.test(Object(error).code)) ||
    AWAY_WORDS.test(error.message))

/** PostgreSQL's codes for a statement that took longer than it may, or waited longer for a lock. */
const BUSY_CODES: readonly unknown[] = ['57014', '55P03']

/** Whether something was given up only because it took too long, as where others hold what it needs. */
export const databaseIsBusy = (error: unknown): boolean =>
  error instanceof Error && BUSY_CODES.includes(Object(error).code)

const asProblem = (error: unknown): ProblemError => {
  if (error instanceof ProblemError) return error
  if (databaseIsAway(error))
    return new ProblemError(
      503,
      'away',
      'Marmot cannot reach its data just now. Try again in a moment: nothing is done twice.',
    )
  if (databaseIsBusy(error))
    return new ProblemError(
      503,
      'busy',
      'That took too long, since Marmot is very busy. Nothing was changed; try again in a moment.',
    )
  return new ProblemError(
    500,
    'unforeseen',
    'Something went wrong on our side. Nothing was changed; try again.',
  )
}

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS'])

/** Turns whatever is thrown into a problem (RFC 9457). What we did not foresee is logged and told without detail. */
export const problemsAsAnswers =
  (log: Logger): Middleware =>
  async (context, next) => {
    try {
      await next()
      if (context.status === 404 && context.body === undefined && context.path.startsWith('/api/'))
        throw new ProblemError(
          404,
          'no-such-route',
          `There is nothing at ${context.method} ${context.path.slice(0, 100)}.`,
        )
    } catch (error) {
      if (!(error instanceof ProblemError)) log.error({ error, path: context.path }, 'unforeseen')
      const problem = asProblem(error)
      context.status = problem.status
      context.type = 'application/problem+json'
      context.body = JSON.stringify(problem.toProblem())
    }
  }

/** Whether a page of another origin asks. */
export const fromForeignOrigin = (context: Pick<Context, 'get' | 'host'>): boolean => {
  const origin = context.get('origin')
  return (origin !== '' && !sameHost(origin, context.host)) || context.get('sec-fetch-site') === 'cross-site'
}

/** Refuses changes that a page of another origin asks for. */
export const ownOriginOnly: Middleware = async (context, next) => {
  if (!SAFE.has(context.method)) {
    if (fromForeignOrigin(context))
      throw new ProblemError(
        403,
        'foreign-origin',
        'This request came from another site, so it was not carried out.',
      )
  }
  await next()
}

const sameHost = (origin: string, host: string): boolean => {
  try {
    return new URL(origin).host === host
  } catch {
    return false
  }
}

const policyFor = (frames: string): string =>
  `default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors ${frames}; base-uri 'none'; form-action 'self'`

/** The policy of a page that may stand in the frame of any other site. */
export const FRAMED = policyFor('*')
const OWN = policyFor("'none'")

/** Headers that keep the pages to themselves. */
export const safeHeaders: Middleware = async (context, next) => {
  context.set('content-security-policy', OWN)
  context.set('referrer-policy', 'no-referrer')
  context.set('x-content-type-options', 'nosniff')
  await next()
}
