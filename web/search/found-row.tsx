import type { FoundEntry } from '@marmot/contract/search'
import { clocksInWords, dayOf, shortDay, toWall } from '@marmot/core/time'
import { useMe, useNow } from '../platform/session.tsx'

/** When something is that was found, as short as it is clear: with the year where it is another. */
const useWhen = (found: FoundEntry): string => {
  const { zone } = useMe()
  const now = useNow()
  const start = Date.parse(found.start)
  const day = dayOf(toWall(zone, start))
  const year = (at: number) => new Date(toWall(zone, at)).getUTCFullYear()
  const dated = `${shortDay(day)}${year(start) === year(now) ? '' : ` ${year(start)}`}`
  return found.allDay ? dated : `${dated}, ${clocksInWords(start, Date.parse(found.end), zone)}`
}

const SAID: Record<string, string> = {
  'needs-action': 'awaits your answer',
  declined: 'you said no',
  delegated: 'you passed it on',
}

/** An entry that was found, in two lines: what it is and when; where, and whose. */
export const FoundRow = ({ found }: { found: FoundEntry }) => {
  const now = useNow()
  const { person } = useMe()
  const when = useWhen(found)
  const over = Date.parse(found.end) <= now
  const words = [
    found.repeats ? 'repeats' : '',
    found.place,
    (found.mine && !found.meeting) || found.owner === person.name ? '' : found.owner,
    SAID[found.answer ?? ''] ?? '',
  ].filter(Boolean)
  return (
    <span className={`block min-w-0 ${over ? 'text-soft' : ''}`}>
      <span className="flex gap-3">
        <span className="min-w-0 flex-1 truncate font-semibold">{found.title || '(no title)'}</span>
        <span className="whitespace-nowrap tabular-nums">{when}</span>
      </span>
      {words.length > 0 && <span className="block truncate text-[13px] text-soft">{words.join(', ')}</span>}
    </span>
  )
}
