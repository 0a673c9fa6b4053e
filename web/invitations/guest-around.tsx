import type { Joining } from '@marmot/core/conferences'
import { minutesBetween, type ZoneTable } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { Suspense, useEffect, useMemo, useState } from 'react'
import { AgendaText } from '../agenda/agenda-text.tsx'
import { agendaByLinkKey, useAgendaByLink } from '../agenda/reading.ts'
import { Join } from '../conferences/join.tsx'
import { guestLinkToJoin } from '../conferences/joining.ts'
import { Conversation } from '../conversation/conversation.tsx'
import { byLink } from '../conversation/ways.ts'
import { part } from '../platform/part.tsx'
import { Button, Loading } from '../ui/parts.tsx'

const AgendaEditor = part(() => import('../agenda/agenda-editor.tsx').then((m) => m.AgendaEditor))

/** What stands around a meeting for a guest: the agenda, to be read and written, and the conversation. */
export const GuestAround = ({
  token,
  recurrence,
  zone,
  span,
  now,
  conference,
  names,
}: {
  token: string
  recurrence: string | null
  zone: ZoneTable
  /** Of the meeting, in milliseconds. */
  span: { readonly start: number; readonly end: number }
  now: number
  conference: Joining | null
  names: readonly string[]
}) => {
  const queries = useQueryClient()
  const length = minutesBetween(span.start, span.end)
  const [writing, setWriting] = useState(false)
  const agenda = useAgendaByLink(token, recurrence)
  const way = useMemo(() => byLink(token, recurrence), [token, recurrence])
  const address = useMemo(() => ({ path: `${way.path}/agenda`, recurrence }), [way, recurrence])
  const pictures = useMemo(() => ({ add: way.addFile, addressOf: way.fileAddress }), [way])
  useEffect(() => {
    const source = new EventSource(`/api/invitations/${token}/events`)
    const anew = () => {
      queries.invalidateQueries({ queryKey: ['conversation', token] })
      queries.invalidateQueries({ queryKey: agendaByLinkKey(token) })
    }
    source.onmessage = anew
    source.addEventListener('again', anew)
    return () => source.close()
  }, [queries, token])
  const written = agenda.data && agenda.data.items.length + agenda.data.notes.length > 0
  return (
    <>
      {conference && (
        <Join
          joining={conference}
          {...span}
          now={now}
          zone={zone}
          link={() => guestLinkToJoin(token, recurrence)}
        />
      )}
      <section aria-label="Agenda" className="flex flex-col gap-1.5">
        <h2 className="font-semibold text-lg">Agenda</h2>
        {writing ? (
          <Suspense fallback={<Loading what="the agenda" />}>
            <AgendaEditor address={address} people={names} length={length} pictures={pictures} />
          </Suspense>
        ) : (
          <>
            {agenda.data && written && <AgendaText agenda={agenda.data} length={length} />}
            {agenda.data && !written && <p className="text-soft">No agenda yet.</p>}
            <Button className="self-start max-md:min-h-thumb" onClick={() => setWriting(true)}>
              Write in the agenda
            </Button>
          </>
        )}
      </section>
      <Conversation way={way} zone={zone} />
    </>
  )
}
