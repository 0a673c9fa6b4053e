import { screen } from './platform/screen.tsx'

const GuestPoll = screen(() => import('./polls/guest-poll.tsx').then((m) => m.GuestPoll))
const VisitPage = screen(() => import('./visits/visit-page.tsx').then((m) => m.VisitPage))

/**
 * What somebody without an account sees: a poll by a link, a page on which they pick a time. Loaded by itself: nothing of the
 * staff's application comes along.
 */
export const OutsidePage = () => {
  const [, door = '', first = '', second = ''] = location.pathname.split('/').map(decodeURIComponent)
  return door === 'v' ? <VisitPage page={first} kind={second} /> : <GuestPoll token={first} />
}
