import { answerInvitation, readInvitation, renewInvitation } from '@marmot/contract/meetings'
import { textOfNote } from '@marmot/core/entries'
import { cityOf } from '@marmot/core/letters'
import {
  clocksInWords,
  clocksThere,
  dayInWords,
  dayOf,
  daysAway,
  isZone,
  offsetAt,
  offsetInWords,
  shortDay,
  toWall,
  zoneTable,
} from '@marmot/core/time'
import { useQuery } from '@tanstack/react-query'
import { Suspense, useState } from 'react'
import { useParams, useSearchParams } from 'react-router'
import { AnswerForm, answerIn } from '../answers/answer-form.tsx'
import { SeriesWords } from '../answers/series-words.tsx'
import { call } from '../platform/api.ts'
import { part } from '../platform/part.tsx'
import { problemCode, problemWords } from '../platform/problem.ts'
import { GuestProposal } from '../proposals/guest-proposal.tsx'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { useVisit } from '../visits/visit.ts'

/** The guest's own zone, as the browser says it; the meeting's when it says none that is known. */
const guestZone = (otherwise: string): string => {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
  return zone && isZone(zone) ? zone : otherwise
}

const VisitActions = part(() => import('../visits/visit-actions.tsx').then((m) => m.VisitActions))
const GuestAround = part(() => import('./guest-around.tsx').then((m) => m.GuestAround))

const STATE = {
  'needs-action': 'You have not answered yet.',
  accepted: 'You said that you will come.',
  tentative: 'You said that you may come.',
  declined: 'You said that you cannot come.',
  delegated: 'You passed this on.',
} as const

const SAID = {
  'needs-action': 'not answered',
  accepted: 'yes',
  tentative: 'perhaps',
  declined: 'no',
  delegated: 'passed on',
} as const

/** A link that has run out: a new one goes to the address that was invited, and to nobody else. */
const Renew = ({ token, words }: { token: string; words: string }) => {
  const [state, setState] = useState<'asked' | 'sending' | 'sent'>('asked')
  const [trouble, setTrouble] = useState('')
  const renew = async () => {
    setState('sending')
    try {
      await call(renewInvitation, { params: { token } })
      setState('sent')
      setTrouble('')
    } catch (error) {
      setTrouble(problemWords(error))
      setState('asked')
    }
  }
  if (state === 'sent')
    return <p role="status">A letter with a new link is on its way to the address that was invited.</p>
  return (
    <div className="flex flex-col items-start gap-3">
      <p>{words}</p>
      <Button tone="primary" disabled={state === 'sending'} onClick={renew}>
        {state === 'sending' ? 'Sending…' : 'Send me a new link'}
      </Button>
      {trouble && <Trouble>{trouble}</Trouble>}
    </div>
  )
}

const invitationKey = (token: string) => ['invitation', token]

/** The invitation behind a guest's link: no account, no calendar, just what it is and the answer. */
export const GuestPage = () => {
  const { token = '' } = useParams()
  const [search] = useSearchParams()
  const invitation = useQuery({
    queryKey: invitationKey(token),
    queryFn: () => call(readInvitation, { params: { token } }),
    retry: false,
  })
  // Of a visit one does not say whether one comes: one moves it, or cancels it.
  const visit = useVisit(token, invitation.data?.rsvp === false)
  const [shown, setShown] = useState<string | null>(null)
  const frame = 'mx-auto flex min-h-full max-w-xl flex-col justify-center gap-5 p-6'
  if (invitation.isPending)
    return (
      <main className={frame}>
        <Loading what="your invitation" />
      </main>
    )
  if (invitation.isError) {
    const code = problemCode(invitation.error)
    const lost = ['no-such-link', 'link-expired', 'not-found', 'invalid', 'no-such-route'].includes(code)
    return (
      <main className={frame}>
        <h1 className="font-bold text-2xl">
          {lost ? 'This link does not open an invitation' : 'Your invitation could not be fetched'}
        </h1>
        {code === 'link-expired' ? (
          <Renew token={token} words={problemWords(invitation.error)} />
        ) : (
          <Trouble
            action={lost ? undefined : <Button onClick={() => invitation.refetch()}>Try again</Button>}
          >
            {lost
              ? 'It may have been cut off on its way. Open it from the invitation again, whole; if that does not help, ask the person who invited you.'
              : problemWords(invitation.error)}
          </Trouble>
        )}
      </main>
    )
  }
  const it = invitation.data
  // Of a series one looks at a date, the next one first.
  const date = it.dates.find((one) => one.recurrence === shown) ?? it.dates[0]
  const start = Date.parse(date?.start ?? it.start)
  const end = Date.parse(date?.end ?? it.end)
  const answer = date?.answer ?? it.answer
  const zone = zoneTable(guestZone(it.zone))
  const theirs = zoneTable(it.zone)
  const day = dayOf(toWall(zone, start))
  const today = dayOf(toWall(zone, Date.parse(it.now)))
  const differs = offsetAt(zone, start) !== offsetAt(theirs, start)
  return (
    <main className={frame}>
      <div className="flex items-center gap-2 text-soft">
        <img src="/mark.svg" alt="" width={30} height={30} /> An invitation
      </div>
      <header>
        <p>
          Hello {it.guest}, {it.organizer} invites you to
        </p>
        <h1 className="text-balance font-bold text-3xl">{it.title}</h1>
      </header>
      <div className="rounded-lg border-gentian border-l-4 bg-paper px-4 py-3">
        <p className="font-semibold text-lg">
          {dayInWords(day, today)}, {clocksInWords(start, end, zone)}
        </p>
        <p className="text-soft">
          {daysAway(day, today)}, in your time (
          {[...new Set([cityOf(zone.zone), offsetInWords(offsetAt(zone, start))])].join(', ')})
        </p>
        {differs && (
          <p className="mt-1 text-soft">
            For {it.organizer}: {clocksThere(start, end, theirs, zone)} ({cityOf(it.zone)} time)
          </p>
        )}
      </div>
      {date && (
        <div className="flex flex-col gap-1.5">
          <SeriesWords series={it.series} />
          <label className="flex flex-wrap items-center gap-2">
            Date
            <select
              value={date.recurrence}
              onChange={(event) => setShown(event.target.value)}
              className="min-h-9 rounded-md border border-soft/50 bg-paper px-2"
            >
              {it.dates.map((one) => (
                <option key={one.recurrence} value={one.recurrence}>
                  {shortDay(dayOf(toWall(zone, Date.parse(one.start))))}: {SAID[one.answer]}
                </option>
              ))}
            </select>
          </label>
        </div>
      )}
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1">
        {it.place && (
          <>
            <dt className="text-soft">Where</dt>
            <dd>{it.place}</dd>
          </>
        )}
        {it.others.length > 0 && (
          <>
            <dt className="text-soft">With</dt>
            <dd>{it.others.join(', ')}</dd>
          </>
        )}
        {it.note && (
          <>
            <dt className="text-soft">Note</dt>
            <dd className="whitespace-pre-wrap">{textOfNote(it.note)}</dd>
          </>
        )}
      </dl>
      {it.cancelled ? (
        <Trouble>
          {it.organizer} has cancelled this meeting. There is nothing to answer.
          {it.cancelReason && <p className="mt-1">“{it.cancelReason}”</p>}
        </Trouble>
      ) : visit.data ? (
        <Suspense fallback={<Loading what="your visit" />}>
          <VisitActions token={token} zone={zone} onChanged={() => void invitation.refetch()} />
        </Suspense>
      ) : (
        <section aria-label="Your answer" className="flex flex-col gap-2">
          <p role="status" className="font-semibold">
            {STATE[answer]} {answer === 'needs-action' ? '' : 'You can change it here until the meeting.'}
          </p>
          {it.message && <p className="text-soft">Your message: “{it.message}”</p>}
          <AnswerForm
            current={answer}
            organizer={it.organizer}
            date={date ? { recurrence: date.recurrence, words: shortDay(day) } : null}
            meant={answerIn(search)}
            give={async (given, message, recurrence) => {
              const dated = recurrence ? { recurrence } : {}
              await call(answerInvitation, {
                params: { token },
                body: { answer: given, message, ...dated },
                key: crypto.randomUUID(),
              })
              await invitation.refetch()
            }}
          />
          <GuestProposal
            key={date?.recurrence ?? ''}
            token={token}
            zone={zone}
            now={Date.parse(it.now)}
            organizer={it.organizer}
            start={start}
            end={end}
            recurrence={date?.recurrence ?? null}
          />
        </section>
      )}
      <Suspense fallback={<Loading what="the agenda" />}>
        <GuestAround
          token={token}
          recurrence={date?.recurrence ?? null}
          zone={zone}
          span={{ start, end }}
          now={Date.parse(it.now)}
          conference={it.conference}
          names={[it.organizer, it.guest, ...it.others]}
        />
      </Suspense>
    </main>
  )
}
