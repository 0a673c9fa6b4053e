import type { Problem } from '@marmot/contract/route'

/** A problem (RFC 9457) that the server answered with, or one of our own when it could not be reached. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

/** What is said where the server cannot be reached. */
export const offline: Problem = {
  type: 'urn:marmot:problem:offline',
  title: 'Marmot cannot be reached',
  status: 0,
  code: 'offline',
  detail: 'Marmot cannot be reached just now. What you see is from before; nothing was sent or changed.',
}

/** What is said where the answer is none that this page knows. */
export const unreadable: Problem = {
  ...offline,
  type: 'urn:marmot:problem:unreadable',
  code: 'unreadable',
  detail: 'Marmot answered something that this page does not understand. Reload the page.',
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

/** What is wrong with which field, by its path. */
export const problemFields = (error: unknown): Readonly<Record<string, string>> =>
  error instanceof ApiProblem
    ? Object.fromEntries((error.problem.fields ?? []).map(({ path, message }) => [path, message]))
    : {}
