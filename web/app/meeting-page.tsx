import { emptyBrief } from '@marmot/contract/briefs'
import type { Record } from '@marmot/contract/conferences'
import type { Meeting } from '@marmot/contract/meetings'
import { canJoin } from '@marmot/core/conferences'
import { dayOf, lengthInWords, minutesBetween, spanInWords, toWall } from '@marmot/core/time'
import { useMemo, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { AgendaEditor } from '../agenda/agenda-editor.tsx'
import { Join } from '../conferences/join.tsx'
import { linkToJoin, useRecord } from '../conferences/joining.ts'
import { MeetRightAway } from '../conferences/right-away.tsx'
import { Attendance, WhoIsHere } from '../conferences/who-is-here.tsx'
import { Conversation } from '../conversation/conversation.tsx'
import { asPerson } from '../conversation/ways.ts'
import { useMeeting } from '../meetings/meeting.ts'
import { useBrief } from '../openings/brief.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Loading, Trouble } from '../ui/parts.tsx'

/** What is left of a meeting: who was there and how long; from it one meets again, or arranges the next. */
const After = ({ meeting, record }: { meeting: Meeting; record: Record }) => {
  const { zone, person, session } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  const { change } = useBrief()
  const [again, setAgain] = useState(false)
  const others = meeting.participants.filter((one) => one.personId !== person.id)
  const arrange = () => {
    change({
      ...emptyBrief(dayOf(toWall(zone, now)), person.id),
      title: meeting.title,
      minutes: minutesBetween(Date.parse(meeting.start), Date.parse(meeting.end)),
      people: [
        { id: person.id, required: true, group: null },
        ...others.flatMap(({ personId, required }) =>
          personId ? [{ id: personId, required, group: null }] : [],
        ),
      ],
      guests: others.flatMap(({ personId, address, name, required }) =>
        personId ? [] : [{ address, name: name === address ? '' : name, required }],
      ),
    })
    navigate('/arrange')
  }
  return (
    <section aria-label="Record" className="mb-4 flex flex-col gap-2 rounded-md bg-paper px-4 py-3">
      <Attendance record={record} zone={zone} />
      <div className="flex flex-wrap gap-2">
        {session.conferences && (
          <Button onClick={() => setAgain(true)} className="max-md:min-h-thumb">
            Meet again…
          </Button>
        )}
        <Button onClick={arrange} className="max-md:min-h-thumb">
          Arrange the next one
        </Button>
      </div>
      {again && (
        <MeetRightAway
          title={meeting.title}
          people={others.map(({ personId, name, address }) => ({ id: personId, name, address }))}
          onClose={() => setAgain(false)}
        />
      )}
    </section>
  )
}

const Header = ({ meeting, there }: { meeting: Meeting; there: number }) => {
  const { zone } = useMe()
  const now = useNow()
  const [search, setSearch] = useSearchParams()
  const { entryId, recurrence, conference } = meeting
  const start = Date.parse(meeting.start)
  const end = Date.parse(meeting.end)
  const details = () => {
    const after = new URLSearchParams(search)
    after.set('meeting', entryId)
    setSearch(after)
  }
  return (
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
      {conference && !meeting.cancelled && (
        <Join
          joining={conference}
          start={start}
          end={end}
          now={now}
          zone={zone}
          there={there}
          link={() => linkToJoin(entryId, recurrence)}
        />
      )}
      <Button onClick={details} className="on-screen max-md:min-h-thumb">
        Answers and details
      </Button>
      <a
        href="#conversation"
        className="flex min-h-thumb items-center text-gentian underline underline-offset-2 md:hidden"
      >
        Conversation
      </a>
    </header>
  )
}

const Page = ({ meeting }: { meeting: Meeting }) => {
  const { zone } = useMe()
  const now = useNow()
  const { entryId, recurrence } = meeting
  const way = useMemo(() => asPerson(entryId, recurrence), [entryId, recurrence])
  const pictures = useMemo(() => ({ add: way.addFile, addressOf: way.fileAddress }), [way])
  const address = useMemo(() => ({ path: `${way.path}/agenda`, recurrence }), [way, recurrence])
  const start = Date.parse(meeting.start)
  const end = Date.parse(meeting.end)
  const record = useRecord(entryId, recurrence, true).data
  const there = record?.attended.filter((one) => one.until === null).length ?? 0
  const on = meeting.conference !== null && !meeting.cancelled && canJoin({ start, end }, now, there)
  return (
    <div className="min-h-0 flex-1 max-md:overflow-y-auto md:flex md:flex-col">
      <Header meeting={meeting} there={there} />
      <div className="min-h-0 flex-1 md:grid md:grid-cols-[1fr_380px]">
        <section
          aria-label="Agenda"
          className="min-h-0 overflow-y-auto px-5 py-4 max-md:overflow-visible max-md:px-4"
        >
          {record && record.attended.length > 0 && there === 0 && <After meeting={meeting} record={record} />}
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
          className="on-screen flex min-h-0 flex-col gap-4 border-line bg-paper px-4 py-4 max-md:border-t md:border-l"
        >
          {on && record && (
            <WhoIsHere record={record} entryId={entryId} recurrence={recurrence} zone={zone} />
          )}
          <Conversation way={way} zone={zone} />
        </aside>
      </div>
    </div>
  )
}

/** A meeting's own page, where it is prepared and held: its agenda, who is there, what they say, and what is left of it. */
export const MeetingPage = () => {
  const { entryId = '' } = useParams()
  const [search] = useSearchParams()
  const meeting = useMeeting(entryId, search.get('date'))
  if (meeting.data) return <Page key={`${entryId} ${meeting.data.recurrence}`} meeting={meeting.data} />
  return (
    <div className="mx-auto max-w-lg p-8">
      {meeting.isError ? (
        <Trouble action={<Button onClick={() => meeting.refetch()}>Try again</Button>}>
          {problemWords(meeting.error)}
        </Trouble>
      ) : (
        <Loading what="the meeting" />
      )}
    </div>
  )
}
