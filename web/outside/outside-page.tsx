import { GuestPoll } from '../polls/guest-poll.tsx'

/**
 * What somebody without an account sees, by a link. Loaded by itself: nothing of the staff's application comes along.
 */
export const OutsidePage = () => {
  const [, , token = ''] = location.pathname.split('/')
  return <GuestPoll token={token} />
}
