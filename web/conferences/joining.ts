import { conferenceEvent, joinByLink, joinMeeting, readRecord } from '@marmot/contract/conferences'
import { useQuery } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'

const dated = (recurrence: string | null) => (recurrence ? { recurrence } : {})

/** Who is in a meeting and who was, asked anew whenever somebody comes or goes. */
export const useRecord = (entryId: string, recurrence: string | null, enabled: boolean) =>
  useQuery({
    queryKey: ['record', entryId, recurrence],
    queryFn: () => call(readRecord, { params: { entryId }, query: dated(recurrence) }),
    enabled,
    meta: { heeds: [heed(conferenceEvent, (event) => event.entryId === entryId)] },
  })

/** The address by which I join a meeting under my own name. */
export const linkToJoin = async (entryId: string, recurrence: string | null): Promise<string> =>
  (await call(joinMeeting, { params: { entryId }, body: dated(recurrence) })).link

/** The same for a guest. */
export const guestLinkToJoin = async (token: string, recurrence: string | null): Promise<string> =>
  (await call(joinByLink, { params: { token }, body: dated(recurrence) })).link
