import type { Meeting } from '@marmot/contract/meetings'
import { minutesBetween } from '@marmot/core/time'
import { useMemo } from 'react'
import { Link } from 'react-router'
import { AgendaText } from '../agenda/agenda-text.tsx'
import { useAgenda } from '../agenda/reading.ts'
import { useConversation } from '../conversation/conversation.tsx'
import { asPerson } from '../conversation/ways.ts'
import { counted } from '../ui/parts.tsx'

/** Where a meeting's own page is. */
export const pageOf = (entryId: string, recurrence: string | null): string =>
  `/meeting/${entryId}${recurrence ? `?date=${encodeURIComponent(recurrence)}` : ''}`

/** What stands around a meeting, in short, with the way to its page: the agenda, and what is said about it. */
export const AroundMeeting = ({ meeting }: { meeting: Meeting }) => {
  const { entryId, recurrence } = meeting
  const agenda = useAgenda(entryId, recurrence)
  const way = useMemo(() => asPerson(entryId, recurrence), [entryId, recurrence])
  const talk = useConversation(way)
  const length = minutesBetween(Date.parse(meeting.start), Date.parse(meeting.end))
  const written = agenda.data && agenda.data.items.length + agenda.data.notes.length > 0
  const said = talk.data?.messages.length ?? 0
  const unread = talk.data?.unread ?? 0
  const files = talk.data?.files.length ?? 0
  const words = [
    said
      ? `${counted(said, 'message', 'messages')}${talk.data?.more ? ' and more' : ''}${unread ? `, ${unread} new` : ''}`
      : '',
    files ? counted(files, 'file', 'files') : '',
  ].filter(Boolean)
  return (
    <section aria-label="Agenda and conversation" className="flex flex-col gap-1">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h3 className="font-semibold">Agenda</h3>
        <span className="text-soft text-sm">{words.join(', ')}</span>
        <Link
          to={pageOf(entryId, recurrence)}
          className="ml-auto text-gentian underline underline-offset-2 max-md:min-h-thumb"
        >
          Open agenda and conversation
        </Link>
      </div>
      {agenda.data && written && <AgendaText agenda={agenda.data} length={length} />}
      {agenda.data && !written && <p className="text-soft">No agenda yet.</p>}
    </section>
  )
}
