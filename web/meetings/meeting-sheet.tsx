import type { Meeting, Participant } from '@marmot/contract/meetings'
import { type Scope, textOfNote } from '@marmot/core/entries'
import { mayNudge, tally, tallyInWords } from '@marmot/core/invitations'
import {
  clocksThere,
  DAY,
  dayOf,
  lengthInWords,
  minutesBetween,
  shortDay,
  shortTime,
  spanInWords,
  toWall,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import { BellRing, CalendarSearch, Check, CircleDashed, CircleHelp, Pencil, X } from 'lucide-react'
import { type ReactNode, Suspense, useEffect, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { dateChoice } from '../answers/answer-form.tsx'
import { MyAnswer } from '../answers/my-answer.tsx'
import { SeriesClashes } from '../answers/series-clashes.tsx'
import { SeriesWords } from '../answers/series-words.tsx'
import { Join } from '../conferences/join.tsx'
import { linkToJoin } from '../conferences/joining.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button, counted, Field, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet, SheetFoot } from '../ui/sheet.tsx'
import { WeatherLine } from '../weather/weather-line.tsx'
import { AroundMeeting } from './around-meeting.tsx'
import { DayAround } from './day-around.tsx'
import { useMeeting } from './meeting.ts'
import { ScopeChoice } from './scope-choice.tsx'
import { useMeetingWrites, waitInWords } from './writes.ts'

const NoteView = part(() => import('../entries/note-view.tsx').then((m) => m.NoteView))
const ChangeSheet = part(() => import('./change-sheet.tsx').then((m) => m.ChangeSheet))

const ANSWER = {
  'needs-action': { words: 'has not answered', icon: CircleDashed, tone: 'text-soft' },
  accepted: { words: 'yes', icon: Check, tone: 'font-semibold' },
  tentative: { words: 'perhaps', icon: CircleHelp, tone: '' },
  declined: { words: 'no', icon: X, tone: 'text-coral font-semibold' },
  delegated: { words: 'passed it on', icon: CircleHelp, tone: '' },
} as const

const NOT_ASKED = { words: 'not asked', icon: CircleDashed, tone: 'text-soft' } as const

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

const sentWords = ({ mail, mailMethod, seenAt, nudgedAt, answer }: Participant, zone: ZoneTable): string => {
  const words = MAIL[mailMethod ?? 'REQUEST'][mail]
  if (mailMethod === 'CANCEL' || mail === 'failed') return words
  if (answer !== 'needs-action') return ''
  const seen = seenAt ? 'has looked at it' : words
  return nudgedAt ? `${seen}, reminded ${shortTime(Date.parse(nudgedAt), zone)}` : seen
}

/** Asks one of those who have not answered once more. */
const Remind = ({ meeting, participant }: { meeting: Meeting; participant: Participant }) => {
  const writes = useMeetingWrites()
  const [busy, setBusy] = useState(false)
  const remind = async () => {
    setBusy(true)
    try {
      toast(await writes.nudge(meeting, participant.id))
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  return (
    <button
      type="button"
      disabled={busy}
      onClick={remind}
      aria-label={`Remind ${participant.name}`}
      className="mr-2 text-gentian underline underline-offset-2 max-md:min-h-thumb"
    >
      remind
    </button>
  )
}

const ParticipantRow = ({ participant, meeting }: { participant: Participant; meeting: Meeting }) => {
  const { zone } = useMe()
  const answer =
    participant.answer === 'needs-action' && !meeting.rsvp ? NOT_ASKED : ANSWER[participant.answer]
  const Icon = answer.icon
  const now = useNow()
  const mayRemind =
    meeting.mayChange &&
    meeting.rsvp &&
    !meeting.cancelled &&
    meeting.untold === null &&
    Date.parse(meeting.end) > now &&
    !participant.organizer &&
    participant.answer === 'needs-action' &&
    participant.mail === 'sent' &&
    mayNudge(participant.nudgedAt ? Date.parse(participant.nudgedAt) : null, now)
  const theirs = participant.zone
    ? clocksThere(Date.parse(meeting.start), Date.parse(meeting.end), zoneTable(participant.zone), zone)
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
        {!participant.everyDate && meeting.repeats && (
          <span className="text-soft text-sm"> some dates only</span>
        )}
        {participant.delegatedFrom && (
          <span className="text-soft text-sm"> in place of {participant.delegatedFrom}</span>
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
        {mayRemind && <Remind meeting={meeting} participant={participant} />}
        {participant.answeredAt && participant.mailMethod !== 'CANCEL'
          ? `${participant.answeredBy ? `${participant.answeredBy} for them, ` : ''}${shortTime(Date.parse(participant.answeredAt), zone)}`
          : sentWords(participant, zone)}
      </span>
      {participant.message && (
        <p className="col-span-2 mt-0.5 border-gentian border-l-2 pl-2 text-sm">“{participant.message}”</p>
      )}
    </li>
  )
}

/** Asks those who have not answered once more, now or by itself two days before. */
const Nudging = ({ meeting, waiting }: { meeting: Meeting; waiting: number }) => {
  const writes = useMeetingWrites()
  const [busy, setBusy] = useState(false)
  const { zone } = useMe()
  const now = useNow()
  const start = Date.parse(meeting.start)
  const attempt = async (work: () => Promise<unknown>) => {
    setBusy(true)
    try {
      const words = await work()
      if (typeof words === 'string') toast(words)
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  const others = meeting.participants.filter((one) => !one.organizer && one.answer === 'needs-action')
  const free = others.filter((one) => mayNudge(one.nudgedAt ? Date.parse(one.nudgedAt) : null, now))
  if (waiting === 0 || meeting.untold || !meeting.rsvp) return null
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-1 text-sm">
      {free.length > 0 ? (
        <Button disabled={busy} onClick={() => attempt(() => writes.nudge(meeting))}>
          <BellRing size={15} aria-hidden />
          {busy ? 'Reminding…' : `Remind ${counted(free.length, 'person', 'people')} who have not answered`}
        </Button>
      ) : (
        <span className="text-soft">All of them were reminded less than a day ago.</span>
      )}
      {start - now > 2 * DAY && (
        <label className="flex min-h-8 items-center gap-1.5 max-md:min-h-thumb">
          <input
            type="checkbox"
            className="accent-gentian"
            disabled={busy}
            checked={meeting.autoNudge}
            onChange={(event) => {
              const autoNudge = event.target.checked
              attempt(() =>
                writes.change(
                  meeting.entryId,
                  { version: meeting.version, autoNudge },
                  crypto.randomUUID(),
                  autoNudge
                    ? `Who has not answered by ${shortDay(dayOf(toWall(zone, start - 2 * DAY)))} is reminded`
                    : 'Nobody is reminded two days before',
                ),
              )
            }}
          />
          Remind them two days before
        </label>
      )}
    </div>
  )
}

const Cancel = ({ meeting, onDone }: { meeting: Meeting; onDone: () => void }) => {
  const writes = useMeetingWrites()
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const { zone } = useMe()
  const date = dateChoice(meeting, zone)
  const [scope, setScope] = useState<Scope>(date ? 'this' : 'all')
  const [reason, setReason] = useState('')
  const others = meeting.participants.length - 1
  const { alone } = meeting
  const names = meeting.places.map((place) => place.name)
  const places = `${names.join(' and ')} ${names.length === 1 ? 'is' : 'are'}`
  const from = date && meeting.recurrence
  const dates = date
    ? { this: `, ${date.words} only`, following: ` from ${date.words} on`, all: ', all dates' }[scope]
    : ''
  const cancel = async () => {
    setBusy(true)
    try {
      await writes.cancel(
        meeting.entryId,
        {
          reason,
          ...(from && scope !== 'all' ? { recurrence: from, following: scope === 'following' } : {}),
        },
        `${alone ? 'Gave back' : 'Cancelled'} ${meeting.title}${dates}`,
        alone,
      )
      onDone()
    } catch (error) {
      setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  return (
    <div className="flex flex-col gap-2 rounded-md border border-coral/60 p-3">
      {date && <ScopeChoice date={date} chosen={scope} onChoose={setScope} />}
      <p>
        {date &&
          {
            this: 'The other dates stay as they are. ',
            following: 'The dates before stay as they are. ',
            all: 'Every date of it is cancelled. ',
          }[scope]}
        {alone
          ? `${places} free again for others.`
          : `${counted(others, 'person is', 'people are')} told by mail${meeting.places.length ? `, and ${places} free again` : ''}.`}
      </p>
      {!alone && (
        <Field label="Why, for everybody to read (optional)">
          {(props) => (
            <textarea
              {...props}
              rows={2}
              maxLength={2000}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          )}
        </Field>
      )}
      {trouble && <Trouble>{trouble}</Trouble>}
      <div className="flex flex-wrap gap-2">
        <Button tone="trouble" disabled={busy} onClick={cancel}>
          {busy
            ? 'Cancelling…'
            : `${alone ? 'Give back' : 'Cancel'}${date ? { this: ` ${date.words}`, following: ` from ${date.words} on`, all: ' all dates' }[scope] : ''}${alone ? '' : ` and tell ${others}`}`}
        </Button>
        <Button disabled={busy} onClick={onDone}>
          Keep it
        </Button>
      </div>
    </div>
  )
}

/** While nobody was told of what was sent or changed: for how long still, and the way back. */
const Untold = ({ meeting, onGone }: { meeting: Meeting; onGone: () => void }) => {
  const { untold } = meeting
  const { clock } = useMe()
  const writes = useMeetingWrites()
  const [until, setUntil] = useState(0)
  const [left, setLeft] = useState(untold?.ms ?? 0)
  const [busy, setBusy] = useState(false)
  useEffect(() => setUntil(untold ? clock() + untold.ms : 0), [untold, clock])
  useEffect(() => {
    const timer = setInterval(() => setLeft(Math.max(0, until - clock())), 500)
    return () => clearInterval(timer)
  }, [until, clock])
  if (!untold) return null
  const { changeId } = untold
  const takeBack = async (id: string) => {
    setBusy(true)
    try {
      toast(await writes.takeBack(id))
      if (meeting.version === 1) onGone()
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 rounded-md bg-shade px-3 py-2">
      <span className="flex-1">
        {meeting.alone ? 'Your letter goes' : 'Nobody was told yet: letters go'} out{' '}
        {left > 0 ? `in ${waitInWords(left)}` : 'now'}.
      </span>
      {changeId && left > 0 && (
        <Button disabled={busy} onClick={() => takeBack(changeId)}>
          {busy ? 'Taking back…' : 'Take back'}
        </Button>
      )}
    </div>
  )
}

/** What whoever organizes it can do with a meeting that is still to come. */
const Actions = ({ meeting, onDone }: { meeting: Meeting; onDone: () => void }) => {
  const navigate = useNavigate()
  const [, setSearch] = useSearchParams()
  const [cancelling, setCancelling] = useState(false)
  if (cancelling) return <Cancel meeting={meeting} onDone={() => setCancelling(false)} />
  const date = meeting.recurrence ? `&date=${encodeURIComponent(meeting.recurrence)}` : ''
  const find = () => {
    onDone()
    navigate(`/arrange?change=${meeting.entryId}${date}`)
  }
  const change = () =>
    setSearch((before) => {
      const after = new URLSearchParams(before)
      after.set('change', '1')
      return after
    })
  return (
    <SheetFoot>
      <Button tone="trouble" onClick={() => setCancelling(true)}>
        {meeting.alone ? 'Give it back…' : 'Cancel it…'}
      </Button>
      <span className="flex-1" />
      {!meeting.alone && (
        <Button onClick={find}>
          <CalendarSearch size={16} aria-hidden /> Find another time
        </Button>
      )}
      <Button tone="primary" onClick={change}>
        <Pencil size={15} aria-hidden /> Change…
      </Button>
    </SheetFoot>
  )
}

/** What a reservation says of itself beside its time and places. */
const Said = ({ meeting }: { meeting: Meeting }) => {
  const { purpose, headCount, contact, shows } = meeting
  const asks = contact ? [contact.name, contact.telephone, contact.address].filter(Boolean).join(', ') : ''
  const words = [
    purpose ? `For ${purpose}` : '',
    headCount ? `${counted(headCount, 'person', 'people')} will be there` : '',
    meeting.alone && shows === 'listed' && meeting.iOrganize ? 'It takes none of your time' : '',
    asks ? `Ask ${asks}` : '',
  ].filter(Boolean)
  const asked = meeting.places.filter((place) => place.requested).map((place) => place.name)
  return (
    <>
      {asked.length > 0 && !meeting.cancelled && (
        <p className="font-semibold">{asked.join(' and ')}: asked for, and not granted yet.</p>
      )}
      {words.length > 0 && <p className="text-soft">{words.join('. ')}.</p>}
    </>
  )
}

/** Who takes part, with what they said, and who has to be asked once more. */
const Answers = ({ meeting, over }: { meeting: Meeting; over: boolean }) => {
  const sum = tally(meeting.participants)
  return (
    <section aria-label="Answers">
      <h3 className="font-semibold" aria-live="polite">
        {meeting.rsvp ? tallyInWords(sum) : 'No answers are asked for'}
        {meeting.repeats && <span className="font-normal text-soft"> for this date</span>}
      </h3>
      {sum.missing.length > 0 && (
        <p className="font-semibold text-coral">⚠ Required, and not coming: {sum.missing.join(', ')}</p>
      )}
      {meeting.mayChange && !meeting.cancelled && !over && (
        <Nudging meeting={meeting} waiting={sum.waiting} />
      )}
      <ul className="mt-1">
        {meeting.participants.map((participant) => (
          <ParticipantRow key={participant.id} participant={participant} meeting={meeting} />
        ))}
      </ul>
      {meeting.elsewhere.length > 0 && (
        <p className="border-line border-t py-1.5 text-soft">
          Not on this date: {meeting.elsewhere.map((one) => one.name).join(', ')}
        </p>
      )}
    </section>
  )
}

/** What the organizer says of it, with its lists, links and pictures; most have none, and are text. */
const Words = ({ note }: { note: string }) => {
  const text = <p className="mt-2 whitespace-pre-wrap">{textOfNote(note)}</p>
  if (!/<(?!\/?(?:p|br)\b)/i.test(note)) return text
  return (
    <Suspense fallback={text}>
      <NoteView note={note} />
    </Suspense>
  )
}

const Body = ({
  meeting,
  beside,
  onDone,
}: {
  meeting: Meeting
  beside: (meeting: Meeting) => ReactNode
  onDone: () => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const start = Date.parse(meeting.start)
  const end = Date.parse(meeting.end)
  const over = end <= now
  // Nothing of a meeting that somebody outside organizes is shared here.
  const outside = !meeting.participants.some((one) => one.organizer && one.personId !== null)
  const { conference } = meeting
  return (
    <div className="flex min-h-full flex-col gap-4">
      <div>
        <p className="font-semibold">{spanInWords(start, end, zone, now)}</p>
        <p className="text-soft">
          {lengthInWords(minutesBetween(start, end))}
          {meeting.place ? `, ${meeting.place}` : ''}. {meeting.alone ? 'Reserved' : 'Organized'} by{' '}
          {meeting.iOrganize ? 'you' : meeting.organizer}.
        </p>
        {meeting.outdoors && !meeting.cancelled && (
          <WeatherLine siteId={meeting.outdoors} span={{ start, end }} />
        )}
        <SeriesWords series={meeting.series} />
        <Said meeting={meeting} />
        {meeting.note && <Words note={meeting.note} />}
      </div>
      {conference && !meeting.cancelled && !over && (
        <Join
          joining={conference}
          start={start}
          end={end}
          now={now}
          zone={zone}
          link={async () => (outside ? conference.link : linkToJoin(meeting.entryId, meeting.recurrence))}
        />
      )}
      {meeting.untold && <Untold meeting={meeting} onGone={onDone} />}
      {meeting.cancelled && (
        <Trouble>
          {meeting.participants.length > 1
            ? 'This meeting was cancelled. There is nothing to answer.'
            : 'This was cancelled. The places are free again.'}
          {meeting.cancelReason && <p className="mt-1">“{meeting.cancelReason}”</p>}
        </Trouble>
      )}
      {!meeting.cancelled && !over && beside(meeting)}
      {!meeting.iOrganize && !meeting.cancelled && !over && (
        <>
          {meeting.repeats && <SeriesClashes entryId={meeting.entryId} />}
          <DayAround entryId={meeting.entryId} start={start} end={end} />
          {!meeting.rsvp && <p className="text-soft">No answer is needed.</p>}
          <MyAnswer meeting={meeting} />
        </>
      )}
      {!outside && !meeting.alone && <AroundMeeting meeting={meeting} />}
      {!meeting.alone && <Answers meeting={meeting} over={over} />}
      {meeting.mayChange && !meeting.cancelled && !over && <Actions meeting={meeting} onDone={onDone} />}
    </div>
  )
}

/**
 * The meeting named in the address bar, over whichever screen one is on: its answers arrive while one looks. With `change`
 * it is the change of it.
 */
export const MeetingSheet = ({
  beside,
}: {
  /** What else there is to see of a meeting that is still to come. */
  beside: (meeting: Meeting) => ReactNode
}) => {
  const [search, setSearch] = useSearchParams()
  const navigate = useNavigate()
  const entryId = search.get('meeting')
  // Which date of a series was pressed; without one it is the next.
  const recurrence = search.get('date')
  const meeting = useMeeting(entryId, recurrence)
  const without = (...names: readonly string[]) =>
    setSearch((before) => {
      const after = new URLSearchParams(before)
      for (const name of names) after.delete(name)
      return after
    })
  const close = () => without('meeting', 'date', 'change', 'say')
  if (entryId && search.get('change'))
    return (
      <Suspense>
        <ChangeSheet
          entryId={entryId}
          recurrence={recurrence ?? meeting.data?.recurrence ?? null}
          onFind={() =>
            navigate(
              `/arrange?change=${entryId}${recurrence ? `&date=${encodeURIComponent(recurrence)}` : ''}`,
            )
          }
          onClose={() => without('change')}
          onChanged={(changedId) =>
            setSearch((before) => {
              const after = new URLSearchParams(before)
              after.delete('change')
              if (changedId !== entryId) after.delete('date')
              after.set('meeting', changedId)
              return after
            })
          }
        />
      </Suspense>
    )
  return (
    <Sheet
      open={entryId !== null}
      onClose={close}
      title={meeting.data?.title ?? 'One moment'}
      wide={!meeting.data?.alone}
    >
      {meeting.isPending && <Loading what="the meeting" />}
      {meeting.isError && (
        <Trouble action={<Button onClick={() => meeting.refetch()}>Try again</Button>}>
          {problemWords(meeting.error)}
        </Trouble>
      )}
      {meeting.data && <Body meeting={meeting.data} beside={beside} onDone={close} />}
    </Sheet>
  )
}
