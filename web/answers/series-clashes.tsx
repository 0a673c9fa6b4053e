import { readDates } from '@marmot/contract/meetings'
import { dayInWords, dayOf, shortDay, toWall } from '@marmot/core/time'
import { useQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { call } from '../platform/api.ts'
import { ON_MY_TIME } from '../platform/live.ts'
import { useMe, useNow } from '../platform/session.tsx'

const datesKey = (entryId: string) => ['series dates', entryId]

/** So many are named; whoever has more has seen enough. */
const MOST_NAMED = 6

/** How many dates of a series are to come, until when, and which of them collide with my own time; each opens. */
export const SeriesClashes = ({ entryId }: { entryId: string }) => {
  const { zone } = useMe()
  const today = dayOf(toWall(zone, useNow()))
  const [, setSearch] = useSearchParams()
  const dates = useQuery({
    queryKey: datesKey(entryId),
    queryFn: () => call(readDates, { params: { entryId } }),
    meta: { heeds: ON_MY_TIME },
  })
  const last = dates.data?.dates.at(-1)
  if (!dates.data || !last) return null
  const { dates: coming, more } = dates.data
  const clashing = coming.filter((date) => date.clash && date.answer !== 'declined')
  const dayAt = (start: string) => dayOf(toWall(zone, Date.parse(start)))
  return (
    <div>
      <p>
        {coming.length === 1
          ? 'One date is to come, on '
          : `${coming.length}${more ? ' and more' : ''} dates are to come, ${more ? 'these until' : 'the last on'} `}
        {dayInWords(dayAt(last.start), today)}.
        {clashing.length === 0 && ' None of them collides with your own time.'}
      </p>
      {clashing.length > 0 && (
        <div className="mt-0.5">
          <p className="font-semibold text-coral">
            ⚠ {clashing.length === 1 ? 'One of them collides' : `${clashing.length} of them collide`} with
            your own time:
          </p>
          <ul className="flex flex-wrap gap-x-4">
            {clashing.slice(0, MOST_NAMED).map((date) => (
              <li key={date.recurrence}>
                <button
                  type="button"
                  className="min-h-7 text-left underline decoration-coral/50 underline-offset-2 max-md:min-h-thumb"
                  onClick={() => setSearch({ meeting: entryId, date: date.recurrence })}
                >
                  {shortDay(dayAt(date.start))}
                </button>{' '}
                <span className="text-soft">{date.clash?.title}</span>
              </li>
            ))}
            {clashing.length > MOST_NAMED && <li>and {clashing.length - MOST_NAMED} more</li>}
          </ul>
        </div>
      )}
    </div>
  )
}
