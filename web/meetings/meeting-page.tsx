import type { Meeting } from '@marmot/contract/meetings'
import { lengthInWords, minutesBetween, spanInWords } from '@marmot/core/time'
import { useMemo } from 'react'
import { useParams, useSearchParams } from 'react-router'
import { AgendaEditor } from '../agenda/agenda-editor.tsx'
import { Conversation } from '../conversation/conversation.tsx'
import { asPerson } from '../conversation/ways.ts'
import { problemWords } from '../platform/api.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { useMeeting } from './meeting.ts'

const Page = ({ meeting }: { meeting: Meeting }) => {
  const { zone } = useMe()
  const now = useNow()
  const [search, setSearch] = useSearchParams()
  const { entryId, recurrence } = meeting
  const way = useMemo(() => asPerson(entryId, recurrence), [entryId, recurrence])
  const pictures = useMemo(() => ({ add: way.addFile, addressOf: way.fileAddress }), [way])
  const address = useMemo(() => ({ path: `${way.path}/agenda`, recurrence }), [way, recurrence])
  const start = Date.parse(meeting.start)
  const end = Date.parse(meeting.end)
  const details = () => {
    const after = new URLSearchParams(search)
    after.set('meeting', entryId)
    setSearch(after)
  }
  return (
    <main className="min-h-0 flex-1 max-md:overflow-y-auto md:flex md:flex-col">
      <header className="flex flex-wrap items-start gap-x-4 gap-y-1 border-line border-b px-5 py-3 max-md:px-4">
        <div className="min-w-0 flex-1 max-md:basis-full">
          <h1 className="text-balance font-bold text-xl leading-snug">{meeting.title}</h1>
          <p>
            {spanInWords(start, end, zone, now)}
            <span className="text-soft">
              , {lengthInWords(minutesBetween(start, end))}
              {meeting.place ? `, ${meeting.place}` : ''}
            </span>
          </p>
          {meeting.cancelled && <p className="font-semibold text-coral">⚠ This meeting was cancelled.</p>}
        </div>
        <Button onClick={details} className="max-md:min-h-11">
          Answers and details
        </Button>
        <a
          href="#conversation"
          className="flex min-h-11 items-center text-gentian underline underline-offset-2 md:hidden"
        >
          Conversation
        </a>
      </header>
      <div className="min-h-0 flex-1 md:grid md:grid-cols-[1fr_380px]">
        <section
          aria-label="Agenda"
          className="min-h-0 overflow-y-auto px-5 py-4 max-md:overflow-visible max-md:px-4"
        >
          <h2 className="mb-1 font-semibold text-lg">Agenda</h2>
          <AgendaEditor
            address={address}
            people={meeting.participants.map((one) => one.name)}
            length={minutesBetween(start, end)}
            pictures={pictures}
          />
        </section>
        <aside
          id="conversation"
          aria-label="Conversation and files"
          className="flex min-h-0 flex-col border-line bg-paper px-4 py-4 max-md:border-t md:border-l"
        >
          <Conversation way={way} zone={zone} />
        </aside>
      </div>
    </main>
  )
}

/** A meeting's own page, where it is prepared and held: its agenda, which all who take part write, and what they say. */
export const MeetingPage = () => {
  const { entryId = '' } = useParams()
  const [search] = useSearchParams()
  const meeting = useMeeting(entryId, search.get('date'))
  if (meeting.data) return <Page key={`${entryId} ${meeting.data.recurrence}`} meeting={meeting.data} />
  return (
    <main className="mx-auto max-w-lg p-8">
      {meeting.isError ? (
        <Trouble action={<Button onClick={() => meeting.refetch()}>Try again</Button>}>
          {problemWords(meeting.error)}
        </Trouble>
      ) : (
        <Loading what="the meeting" />
      )}
    </main>
  )
}
