import { agendaEvent, readAgenda, readAgendaByLink } from '@marmot/contract/agenda'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'

/** The agenda of a meeting's date as it reads, asked anew whenever what somebody wrote has come to rest. */
export const useAgenda = (entryId: string, recurrence: string | null) =>
  useQuery({
    queryKey: ['agenda', entryId, recurrence],
    queryFn: () => call(readAgenda, { params: { entryId }, query: recurrence ? { recurrence } : {} }),
    meta: { heeds: [heed(agendaEvent, (event) => event.entryId === entryId)] },
  })

export const agendaByLinkKey = (token: string) => ['agenda', token]

/** The same by a guest's link. */
export const useAgendaByLink = (token: string, recurrence: string | null) =>
  useQuery({
    queryKey: [...agendaByLinkKey(token), recurrence],
    queryFn: () => call(readAgendaByLink, { params: { token }, query: recurrence ? { recurrence } : {} }),
  })
