import { readPoll } from '@marmot/contract/organized-polls'
import { pollEvent } from '@marmot/contract/polls'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

export const pollKey = (pollId: string) => ['poll', pollId]

/** A poll that I ask, or in which I am asked. */
export const usePoll = (pollId: string) =>
  useQuery({
    queryKey: pollKey(pollId),
    queryFn: () => call(readPoll, { params: { pollId } }),
    retry: false,
    // What others marked, and what my own time says to it.
    meta: { heeds: [heed(pollEvent, (event) => event.pollId === pollId), ...ON_MY_TIME] },
  })
