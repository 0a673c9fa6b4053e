import { QueryCache, QueryClient } from '@tanstack/react-query'
import { ApiProblem, offline } from './problem.ts'
import { noteFromBefore } from './seen.ts'

/** Whether an answer did not come, which says nothing about what it would have said: no network, or a server that is busy or away. */
const didNotCome = (error: unknown): boolean =>
  error instanceof ApiProblem &&
  (error.problem.code === offline.code || error.problem.status === 429 || error.problem.status > 500)

/**
 * The answers that the page has. What is shown stays, and is said to be from before (`useAsOf`), where it is asked for anew and no
 * answer comes; whoever reads or writes in it loses nothing. It gives way where the server refuses it.
 */
export const queriesOf = (retry: (count: number, error: Error) => boolean): QueryClient =>
  new QueryClient({
    queryCache: new QueryCache({
      onError: (error, query) => {
        if (query.state.data === undefined || !didNotCome(error)) return
        noteFromBefore(query.state.dataUpdatedAt)
        query.setState({ ...query.state, status: 'success', error: null })
      },
    }),
    defaultOptions: {
      queries: {
        // Also without a network: what was kept then answers.
        networkMode: 'always',
        staleTime: 30_000,
        refetchOnWindowFocus: true,
        refetchOnReconnect: true,
        retry,
        retryDelay: 400,
      },
    },
  })

/** Asks a second and a third time where the server could not be reached. */
export const twiceMore = (count: number, error: Error): boolean =>
  count < 2 && (!(error instanceof ApiProblem) || error.problem.status === 0)
