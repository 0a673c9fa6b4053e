import { type Meeting, meetingEvent, readMeeting } from '@marmot/contract/meetings'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

const meetingKey = (...asked: readonly (string | null)[]) => ['meeting', ...asked]

/** A meeting at one of its dates, at the next without; asked anew whenever somebody answers or changes it. */
export const useMeeting = (entryId: string | null, recurrence: string | null) =>
  useQuery<Meeting>({
    queryKey: meetingKey(entryId, recurrence),
    queryFn: () =>
      call(readMeeting, { params: { entryId: entryId ?? '' }, query: recurrence ? { recurrence } : {} }),
    enabled: entryId !== null,
    // What is looked at to be changed has to be what is there now.
    staleTime: 0,
    meta: { heeds: [heed(meetingEvent, (event) => event.entryId === entryId), ...ON_MY_TIME] },
  })
