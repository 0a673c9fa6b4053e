import { Suspense } from 'react'
import { useSearchParams } from 'react-router'
import { About } from '../contacts/about.tsx'
import { MeetingSheet } from '../meetings/meeting-sheet.tsx'
import { part } from '../platform/part.tsx'
import { Proposals } from '../proposals/proposal-card.tsx'

const ProposeSheet = part(() => import('../proposals/propose-sheet.tsx').then((m) => m.ProposeSheet))

/** The meeting in the address bar, over whichever screen one is on; or the sheet in which another time is proposed for it. */
export const MeetingByAddress = () => {
  const [search, setSearch] = useSearchParams()
  const entryId = search.get('meeting')
  if (!entryId || !search.get('propose'))
    return (
      <MeetingSheet
        beside={(meeting) => (
          <>
            <Proposals meeting={meeting} />
            {meeting.iOrganize && <About subject={{ kind: 'entry', id: meeting.entryId }} />}
          </>
        )}
      />
    )
  const close = () =>
    setSearch((before) => {
      const after = new URLSearchParams(before)
      after.delete('propose')
      return after
    })
  return (
    <Suspense>
      <ProposeSheet entryId={entryId} recurrence={search.get('date')} onClose={close} />
    </Suspense>
  )
}
