import { lazy, Suspense } from 'react'
import { Loading } from './ui/parts.tsx'

const GuestPoll = lazy(() => import('./polls/guest-poll.tsx').then((m) => ({ default: m.GuestPoll })))
const VisitPage = lazy(() => import('./visits/visit-page.tsx').then((m) => ({ default: m.VisitPage })))

/**
 * What somebody without an account sees: a poll by a link, a page on which they pick a time. Loaded by itself: nothing of the
 * staff's application comes along.
 */
export const OutsidePage = () => {
  const [, door = '', first = '', second = ''] = location.pathname.split('/').map(decodeURIComponent)
  return (
    <Suspense
      fallback={
        <main className="p-6">
          <Loading what="the page" />
        </main>
      }
    >
      {door === 'v' ? <VisitPage page={first} kind={second} /> : <GuestPoll token={first} />}
    </Suspense>
  )
}
