import { QueryClientProvider } from '@tanstack/react-query'
import { Suspense } from 'react'
import { BrowserRouter, Navigate, Route, Routes } from 'react-router'
import { Now } from '../now/now.tsx'
import { nowQuery } from '../now/now-query.ts'
import { SignIn } from '../people/sign-in.tsx'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { queriesOf, twiceMore } from '../platform/queries.ts'
import { Boundary } from '../platform/screen.tsx'
import { sessionQuery, useSession, WithMe } from '../platform/session.tsx'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import {
  Arrange,
  GuestPage,
  MeetingPage,
  MyTime,
  People,
  PlacePage,
  Places,
  PollPage,
  Settings,
} from './screens.ts'
import { Shell } from './shell.tsx'

const queries = queriesOf(twiceMore)

/** The first drawing waits at most so long for the first answers, in milliseconds. */
const PATIENCE_MS = 400

/** Has the answers that the first screen is drawn from, where they come soon: it is drawn once then, instead of three times. */
export const firstAnswers = (): Promise<unknown> => {
  const answers = async () => {
    await queries.prefetchQuery(sessionQuery)
    if (queries.getQueryData(sessionQuery.queryKey) && ['/', '/now'].includes(location.pathname))
      await queries.prefetchQuery(nowQuery)
  }
  return Promise.race([answers(), new Promise((resolve) => setTimeout(resolve, PATIENCE_MS))])
}

const Lost = () => (
  <main className="p-8">
    <h1 className="font-semibold text-lg">There is nothing at this address.</h1>
    <p className="mt-2">
      <a className="text-gentian underline" href="/now">
        Go to what needs you now
      </a>
    </p>
  </main>
)

const Inside = () => {
  const session = useSession()
  if (session.isPending)
    return (
      <div className="p-8">
        <Loading what="your time" />
      </div>
    )
  if (session.isError)
    return (
      <main className="mx-auto max-w-lg p-8">
        <Trouble action={<Button onClick={() => session.refetch()}>Try again</Button>}>
          {problemWords(session.error)}
        </Trouble>
      </main>
    )
  if (!session.data) return <SignIn />
  return (
    <WithMe session={session.data.session} ahead={session.data.ahead}>
      <Routes>
        <Route element={<Shell />}>
          <Route path="/now" element={<Now />} />
          <Route path="/time" element={<MyTime />} />
          <Route path="/arrange" element={<Arrange />} />
          <Route path="/people" element={<People />} />
          <Route path="/settings" element={<Settings />} />
          <Route path="/places" element={<Places />} />
          <Route path="/places/:placeId" element={<PlacePage />} />
          <Route path="/meeting/:entryId" element={<MeetingPage />} />
          <Route path="/poll/:pollId" element={<PollPage />} />
          <Route path="/" element={<Navigate to="/now" replace />} />
          <Route path="*" element={<Lost />} />
        </Route>
      </Routes>
    </WithMe>
  )
}

const Messages = part(() => import('./messages.tsx').then((m) => m.Messages), { quiet: true })

/** The whole application. */
export const App = () => (
  <QueryClientProvider client={queries}>
    <BrowserRouter>
      <Boundary onRetry={() => undefined}>
        <Routes>
          <Route path="/i/:token" element={<GuestPage />} />
          <Route path="*" element={<Inside />} />
        </Routes>
      </Boundary>
    </BrowserRouter>
    <Suspense>
      <Messages />
    </Suspense>
  </QueryClientProvider>
)
