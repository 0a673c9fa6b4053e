import type { Context, Middleware } from 'koa'
import type { Logger } from 'pino'
import { ProblemError } from './problems.ts'

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
      const problem =
        error instanceof ProblemError
          ? error
          : new ProblemError(
              500,
              'unforeseen',
              'Something went wrong on our side. Nothing was changed; try again.',
            )
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
