import type { PollLine } from '@marmot/contract/poll-lines'
import { dayOf, shortDay, shortTime, toWall } from '@marmot/core/time'
import { Link } from 'react-router'
import { useMe, useNow } from '../platform/session.tsx'
import { counted } from '../ui/parts.tsx'

/** Polls in lines: what others ask me, or what I ask. Each leads to its page. */
export const PollLines = ({ polls }: { polls: readonly PollLine[] }) => {
  const { zone } = useMe()
  const now = useNow()
  const day = (at: string) => shortDay(dayOf(toWall(zone, Date.parse(at))))
  return (
    <ul className="overflow-hidden rounded-lg bg-paper">
      {polls.map((poll) => {
        const over = Date.parse(poll.closes) <= now
        return (
          <li key={poll.pollId} className="border-line border-t first:border-t-0">
            <Link
              to={`/poll/${poll.pollId}`}
              className="grid grid-cols-[1fr_auto] gap-x-3 px-4 py-2 hover:bg-shade/60 max-md:min-h-thumb"
            >
              <b className="min-w-0 truncate font-semibold">{poll.title}</b>
              <span className="whitespace-nowrap">
                {day(poll.first) === day(poll.last)
                  ? day(poll.first)
                  : `${day(poll.first)} to ${day(poll.last)}`}
              </span>
              <span className="min-w-0 truncate text-soft text-sm">
                {poll.mine
                  ? `${poll.marked} of ${poll.asked} have answered`
                  : `${poll.organizer}, ${counted(poll.times, 'time', 'times')}`}
              </span>
              <span className={`text-right text-sm ${over ? 'font-semibold' : 'text-soft'}`}>
                {over
                  ? 'choose a time'
                  : `answer${poll.mine ? 's' : ''} until ${shortTime(Date.parse(poll.closes), zone)}`}
              </span>
            </Link>
          </li>
        )
      })}
    </ul>
  )
}
