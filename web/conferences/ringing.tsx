import { callEvent, dismissCall, listCalls } from '@marmot/contract/conferences'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { PhoneIncoming } from 'lucide-react'
import { useNavigate } from 'react-router'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { Button } from '../ui/parts.tsx'

const CALLS = ['calls']
/** It rings for a minute; looked at again a little oftener than that. */
const AGAIN_MS = 15_000

/** Whoever calls me into a meeting just now, over whichever screen I am on. */
export const Ringing = () => {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const calls = useQuery({
    queryKey: CALLS,
    queryFn: () => call(listCalls),
    staleTime: 0,
    meta: { heeds: [heed(callEvent)] },
    refetchInterval: ({ state }) => (state.data?.calls.length ? AGAIN_MS : false),
  })
  const dismiss = async (callId: string) => {
    try {
      await call(dismissCall, { params: { callId } })
    } catch (error) {
      toast.error(problemWords(error))
    }
    queries.invalidateQueries({ queryKey: CALLS })
  }
  return (calls.data?.calls ?? []).map((one) => (
    <div
      key={one.id}
      role="alertdialog"
      aria-label={`${one.by} calls you`}
      className="fixed top-14 left-1/2 z-50 flex w-[min(560px,94vw)] -translate-x-1/2 flex-wrap items-center gap-3 rounded-lg border-2 border-gentian bg-paper px-4 py-3 shadow-2xl"
    >
      <PhoneIncoming size={20} className="text-gentian" aria-hidden />
      <p className="min-w-0 flex-1">
        <b className="font-semibold">{one.by}</b> calls you to <b className="font-semibold">{one.title}</b>
      </p>
      <Button onClick={() => dismiss(one.id)} className="max-md:min-h-thumb">
        Not now
      </Button>
      <Button
        tone="primary"
        className="max-md:min-h-thumb"
        onClick={() => {
          navigate(
            `/meeting/${one.entryId}${one.recurrence ? `?date=${encodeURIComponent(one.recurrence)}` : ''}`,
          )
          dismiss(one.id)
        }}
      >
        Go to the meeting
      </Button>
    </div>
  ))
}
