import type { Problem } from '@marmot/contract/route'
import type { z } from 'zod'

/** Something that went wrong in a way a person can be told about (RFC 9457). `code` is stable. */
export class ProblemError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly detail: string,
    readonly extra: Pick<Problem, 'fields' | 'more'> = {},
  ) {
    super(`${code}: ${detail}`)
  }

  toProblem(): Problem {
    return {
      type: `urn:marmot:problem:${this.code}`,
      title: TITLES[this.status] ?? 'It did not work',
      status: this.status,
      code: this.code,
      detail: this.detail,
      ...this.extra,
    }
  }
}

const TITLES: Record<number, string> = {
  400: 'That could not be read',
  401: 'Sign in first',
  403: 'That is not allowed',
  404: 'There is no such thing',
  409: 'Something changed meanwhile',
  410: 'This link no longer works',
  413: 'That is too large',
  422: 'Something is not right yet',
  426: 'That is opened otherwise',
  429: 'Too many tries',
  499: 'It was stopped',
  500: 'Marmot made a mistake',
  503: 'Marmot is busy',
}

/** Zod's complaints as a problem that names the fields. */
export const invalid = (error: z.ZodError, status = 422): ProblemError => {
  const fields = error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message }))
  const words = fields.map((field) => (field.path ? `${field.path}: ${field.message}` : field.message))
  return new ProblemError(status, 'invalid', words.join('; '), { fields })
}

export const notFound = (what: string): ProblemError =>
  new ProblemError(404, 'not-found', `There is no such ${what}, or it is not yours to see.`)
