import { meetingEvent } from '@marmot/contract/meetings'
import { countNow } from '@marmot/contract/now'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

const countKey = () => ['now', 'count']

/** How much waits for me, on whatever screen I am; nothing while nothing does. */
export const WaitingCount = () => {
  const count = useQuery({
    queryKey: countKey(),
    queryFn: () => call(countNow),
    meta: { heeds: [...ON_MY_TIME, heed(meetingEvent)], aside: true },
  })
  const waiting = count.data?.waiting ?? 0
  if (waiting === 0) return null
  return (
    <span className="ml-1.5 rounded-full bg-sun px-1.5 font-semibold text-sun-ink text-xs leading-[17px] max-md:absolute max-md:top-0.5 max-md:right-0 max-md:ml-0 max-md:px-1 max-md:leading-[15px]">
      {waiting > 99 ? '99+' : waiting}
      <span className="sr-only"> waiting for you</span>
    </span>
  )
}
