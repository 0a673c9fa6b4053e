import { meetingEvent } from '@marmot/contract/meetings'
import {
  listProposals,
  type Proposal,
  type proposeTime as ProposeTime,
  proposeTime,
  refuseProposal,
  takeProposal,
  withdrawProposal,
} from '@marmot/contract/proposals'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import type { z } from 'zod'
import { useMeetingWrites } from '../meetings/writes.ts'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME } from '../platform/live.ts'

const proposalsKey = (entryId: string) => ['proposals', entryId]

/** The open proposals for a meeting: all of them for whoever may change it, for others their own. */
export const useProposals = (entryId: string) =>
  useQuery({
    queryKey: proposalsKey(entryId),
    queryFn: () => call(listProposals, { params: { entryId } }),
    meta: { heeds: [heed(meetingEvent, (event) => event.entryId === entryId), ...ON_MY_TIME] },
  })

type ProposeBody = z.input<(typeof ProposeTime)['body']>

/** Proposes, takes and declines other times. */
export const useProposalWrites = () => {
  const queries = useQueryClient()
  const meetings = useMeetingWrites()
  const refresh = () => void queries.invalidateQueries()
  return {
    propose: async (entryId: string, body: ProposeBody, key: string) => {
      await call(proposeTime, { params: { entryId }, body, key })
      refresh()
    },
    /** Moves the meeting there, with a way back; `words` say what was done. */
    take: async (proposal: Proposal, version: number, key: string, words: string) => {
      const params = { proposalId: proposal.id }
      const changed = await call(takeProposal, { params, body: { version }, key })
      meetings.done(words, changed)
      refresh()
    },
    refuse: async (proposal: Proposal, message: string) => {
      await call(refuseProposal, { params: { proposalId: proposal.id }, body: { message } })
      refresh()
    },
    withdraw: async (proposal: Pick<Proposal, 'id'>) => {
      await call(withdrawProposal, { params: { proposalId: proposal.id } })
      refresh()
    },
  }
}
