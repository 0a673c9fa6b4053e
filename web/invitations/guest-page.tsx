import { answerInvitation, readInvitation } from '@marmot/contract/meetings'
import { textOfNote } from '@marmot/core/entries'
import { cityOf } from '@marmot/core/invitations'
import {
  clocksInWords,
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
import { useParams } from 'react-router'
import { call, problemCode, problemWords } from '../app/api.ts'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { AnswerForm } from './answer-form.tsx'

/** The guest's own zone, as the browser says it; the meeting's when it says none that is known. */
const guestZone = (otherwise: string): string => {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
  return zone && isZone(zone) ? zone : otherwise
}

const STATE = {
  'needs-action': 'You have not answered yet.',
  accepted: 'You said that you will come.',
  tentative: 'You said that you may come.',
  declined: 'You said that you cannot come.',
  delegated: 'You passed this on.',
} as const

/** The invitation behind a guest's link: no account, no calendar, just what it is and the answer. */
export const GuestPage = () => {
  const { token = '' } = useParams()
  const invitation = useQuery({
    queryKey: ['invitation', token],
    queryFn: () => call(readInvitation, { params: { token } }),
    retry: false,
  })
  const frame = 'mx-auto flex min-h-full max-w-xl flex-col justify-center gap-5 p-6'
  if (invitation.isPending)
    return (
      <main className={frame}>
        <Loading what="your invitation" />
      </main>
    )
  if (invitation.isError) {
    const lost = ['no-such-link', 'link-expired', 'not-found'].includes(problemCode(invitation.error))
    return (
      <main className={frame}>
        <h1 className="font-bold text-2xl">
          {lost ? 'This link does not open an invitation' : 'Your invitation could not be fetched'}
        </h1>
        <Trouble action={lost ? undefined : <Button onClick={() => invitation.refetch()}>Try again</Button>}>
          {problemWords(invitation.error)}
        </Trouble>
      </main>
    )
  }
  const it = invitation.data
  const start = Date.parse(it.start)
  const end = Date.parse(it.end)
  const zone = zoneTable(guestZone(it.zone))
  const theirs = zoneTable(it.zone)
  const day = dayOf(toWall(zone, start))
  const today = dayOf(toWall(zone, Date.parse(it.now)))
  const differs = offsetAt(zone, start) !== offsetAt(theirs, start)
  return (
    <main className={frame}>
      <div className="flex items-center gap-2 text-soft">
        <img src="/mark.svg" alt="" width={30} height={30} /> An invitation from the Corrie Institute
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
            For {it.organizer}:{' '}
            {dayOf(toWall(theirs, start)) === day ? '' : `${shortDay(dayOf(toWall(theirs, start)))} `}
            {clocksInWords(start, end, theirs)} ({cityOf(it.zone)} time)
          </p>
        )}
      </div>
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
        <Trouble>{it.organizer} has cancelled this meeting. There is nothing to answer.</Trouble>
      ) : (
        <section aria-label="Your answer" className="flex flex-col gap-2">
          <p role="status" className="font-semibold">
            {STATE[it.answer]}{' '}
            {it.answer === 'needs-action' ? '' : 'You can change it here until the meeting.'}
          </p>
          {it.message && <p className="text-soft">Your message: “{it.message}”</p>}
          <AnswerForm
            current={it.answer}
            organizer={it.organizer}
            give={async (answer, message) => {
              await call(answerInvitation, { params: { token }, body: { answer, message } })
              await invitation.refetch()
            }}
          />
        </section>
      )}
    </main>
  )
}
