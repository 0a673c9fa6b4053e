import {
  cancelMeeting,
  type Meeting,
  meetingEvent,
  type Participant,
  readMeeting,
} from '@marmot/contract/meetings'
import { textOfNote } from '@marmot/core/entries'
import { tally, tallyInWords } from '@marmot/core/invitations'
import {
  clocksInWords,
  lengthInWords,
  minutesBetween,
  shortTime,
  spanInWords,
  zoneTable,
} from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Check, CircleDashed, CircleHelp, X } from 'lucide-react'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { dateChoice, MyAnswer, WhichDates } from '../answers/answer-form.tsx'
import { SeriesWords } from '../answers/series-words.tsx'
import { call, problemWords } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { DayAround } from './day-around.tsx'

const ANSWER = {
  'needs-action': { words: 'has not answered', icon: CircleDashed, tone: 'text-soft' },
  accepted: { words: 'accepted', icon: Check, tone: 'font-semibold' },
  tentative: { words: 'tentative', icon: CircleHelp, tone: '' },
  declined: { words: 'declined', icon: X, tone: 'text-coral font-semibold' },
  delegated: { words: 'delegated', icon: CircleHelp, tone: '' },
} as const

const MAIL = {
  REQUEST: {
    none: '',
    waiting: 'invitation on its way',
    sent: 'invitation sent',
    failed: '⚠ invitation was refused by their mail server',
  },
  CANCEL: {
    none: '',
    waiting: 'cancellation on its way',
    sent: 'told that it is cancelled',
    failed: '⚠ cancellation was refused by their mail server',
  },
} as const

const sentWords = ({ mail, mailMethod, seenAt, answer }: Participant): string => {
  const words = MAIL[mailMethod ?? 'REQUEST'][mail]
  if (mailMethod === 'CANCEL' || mail === 'failed') return words
  return answer !== 'needs-action' ? '' : seenAt ? 'has looked at it' : words
}

const ParticipantRow = ({ participant, meeting }: { participant: Participant; meeting: Meeting }) => {
  const { zone } = useMe()
  const answer = ANSWER[participant.answer]
  const Icon = answer.icon
  const theirs = participant.zone
    ? clocksInWords(Date.parse(meeting.start), Date.parse(meeting.end), zoneTable(participant.zone))
    : 'guest'
  return (
    <li className="grid grid-cols-[1fr_auto] gap-x-3 border-line border-t py-1.5">
      <span className="min-w-0 truncate">
        {participant.name}
        {participant.organizer ? (
          <span className="text-soft text-sm"> organizes</span>
        ) : (
          !participant.required && <span className="text-soft text-sm"> optional</span>
        )}
      </span>
      {participant.organizer ? (
        <span />
      ) : (
        <span className={`flex items-center justify-end gap-1 ${answer.tone}`}>
          <Icon size={15} aria-hidden /> {answer.words}
        </span>
      )}
      <span className="text-[13px] text-soft">{theirs}</span>
      <span className="text-right text-[13px] text-soft">
        {participant.answeredAt && participant.mailMethod !== 'CANCEL'
          ? `${participant.answeredBy ? `${participant.answeredBy} for them, ` : ''}${shortTime(Date.parse(participant.answeredAt), zone)}`
          : sentWords(participant)}
      </span>
      {participant.message && (
        <p className="col-span-2 mt-0.5 border-gentian border-l-2 pl-2 text-sm">“{participant.message}”</p>
      )}
    </li>
  )
}

const Cancel = ({ meeting, onDone }: { meeting: Meeting; onDone: () => void }) => {
  const queries = useQueryClient()
  const [asked, setAsked] = useState(false)
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const { zone } = useMe()
  const date = dateChoice(meeting, zone)
  const [which, setWhich] = useState(meeting.recurrence)
  const others = meeting.participants.length - 1
  const dates = date ? (which ? `, ${date.words} only` : ', all dates') : ''
  const cancel = async () => {
    setBusy(true)
    try {
      const { told } = await call(cancelMeeting, {
        params: { entryId: meeting.entryId },
        body: which ? { recurrence: which } : {},
      })
      toast(`Cancelled: ${meeting.title}${dates}. ${told} ${told === 1 ? 'person is' : 'people are'} told.`)
      await queries.invalidateQueries()
      onDone()
    } catch (error) {
      setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  if (!asked)
    return (
      <Button tone="trouble" className="self-start" onClick={() => setAsked(true)}>
        Cancel this meeting…
      </Button>
    )
  return (
    <div className="flex flex-col gap-2 rounded-md border border-coral/60 p-3">
      {date && <WhichDates date={date} chosen={which} onChoose={setWhich} />}
      <p>
        {date && (which ? 'The other dates stay as they are. ' : 'Every date of it is cancelled. ')}
        {others} {others === 1 ? 'person is' : 'people are'} told by mail
        {meeting.places.length
          ? `, and ${meeting.places.map((place) => place.name).join(' and ')} is free again`
          : ''}
        . This cannot be taken back.
      </p>
      {trouble && <Trouble>{trouble}</Trouble>}
      <div className="flex gap-2">
        <Button tone="trouble" disabled={busy} onClick={cancel}>
          {busy
            ? 'Cancelling…'
            : `Cancel${date ? (which ? ` ${date.words}` : ' all dates') : ''} and tell ${others}`}
        </Button>
        <Button disabled={busy} onClick={() => setAsked(false)}>
          Keep it
        </Button>
      </div>
    </div>
  )
}

const Body = ({ meeting, onDone }: { meeting: Meeting; onDone: () => void }) => {
  const { zone } = useMe()
  const now = useNow()
  const start = Date.parse(meeting.start)
  const end = Date.parse(meeting.end)
  const sum = tally(meeting.participants)
  const over = end <= now
  return (
    <div className="flex flex-col gap-4">
      <div>
        <p className="font-semibold">{spanInWords(start, end, zone, now)}</p>
        <p className="text-soft">
          {lengthInWords(minutesBetween(start, end))}
          {meeting.place ? `, ${meeting.place}` : ''}. Organized by{' '}
          {meeting.iOrganize ? 'you' : meeting.organizer}.
        </p>
        <SeriesWords series={meeting.series} />
        {meeting.note && <p className="mt-2 whitespace-pre-wrap">{textOfNote(meeting.note)}</p>}
      </div>
      {meeting.cancelled && <Trouble>This meeting was cancelled. There is nothing to answer.</Trouble>}
      {!meeting.iOrganize && !meeting.cancelled && !over && (
        <>
          <DayAround entryId={meeting.entryId} start={start} end={end} />
          <MyAnswer meeting={meeting} />
        </>
      )}
      <section aria-label="Answers">
        <h3 className="font-semibold" aria-live="polite">
          {tallyInWords(sum)}
          {meeting.repeats && <span className="font-normal text-soft"> for this date</span>}
        </h3>
        {sum.missing.length > 0 && (
          <p className="font-semibold text-coral">⚠ Required, and not coming: {sum.missing.join(', ')}</p>
        )}
        <ul className="mt-1">
          {meeting.participants.map((participant) => (
            <ParticipantRow key={participant.id} participant={participant} meeting={meeting} />
          ))}
        </ul>
      </section>
      {meeting.iOrganize && !meeting.cancelled && !over && <Cancel meeting={meeting} onDone={onDone} />}
    </div>
  )
}

const meetingKey = (...asked: readonly (string | null)[]) => ['meeting', ...asked]

/** The meeting named in the address bar, over whichever screen one is on: its answers arrive while one looks. */
export const MeetingSheet = () => {
  const [search, setSearch] = useSearchParams()
  const entryId = search.get('meeting')
  // Which date of a series was pressed; without one it is the next.
  const recurrence = search.get('date')
  const meeting = useQuery({
    queryKey: meetingKey(entryId, recurrence),
    queryFn: () =>
      call(readMeeting, { params: { entryId: entryId ?? '' }, query: recurrence ? { recurrence } : {} }),
    enabled: entryId !== null,
    meta: { heeds: [heed(meetingEvent, (event) => event.entryId === entryId)] },
  })
  const close = () =>
    setSearch((before) => {
      const after = new URLSearchParams(before)
      after.delete('meeting')
      after.delete('date')
      return after
    })
  return (
    <Sheet open={entryId !== null} onClose={close} title={meeting.data?.title ?? 'Meeting'} wide>
      {meeting.isPending && <Loading what="the meeting" />}
      {meeting.isError && (
        <Trouble action={<Button onClick={() => meeting.refetch()}>Try again</Button>}>
          {problemWords(meeting.error)}
        </Trouble>
      )}
      {meeting.data && <Body meeting={meeting.data} onDone={close} />}
    </Sheet>
  )
}
