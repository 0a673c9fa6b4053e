import { readVisit } from '@marmot/contract/visits'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'

const visitKey = (token: string) => ['visit', token]

/** What a visitor may still do about their visit, by the link to their invitation; an error where the meeting is no visit of theirs. */
export const useVisit = (token: string, enabled: boolean) =>
  useQuery({
    queryKey: visitKey(token),
    queryFn: () => call(readVisit, { params: { token } }),
    enabled,
    retry: false,
  })
