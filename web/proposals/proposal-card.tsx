import type { Meeting } from '@marmot/contract/meetings'
import type { Proposal } from '@marmot/contract/proposals'
import { lengthInWords, minutesBetween, shortTime, spanInWords } from '@marmot/core/time'
import { useRef, useState } from 'react'
import { standingWords, useStanding } from '../meetings/standing.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button, Field, Trouble } from '../ui/parts.tsx'
import { useProposals, useProposalWrites } from './proposals.ts'

/** How everybody whose time is known stands at a proposed time: who cannot come first, and who has to stretch. */
const Everybody = ({ meeting, proposal }: { meeting: Meeting; proposal: Proposal }) => {
  // Whoever proposes it has said that they can come then.
  const people = meeting.participants.filter(
    (one) => one.personId !== null && one.id !== proposal.participantId,
  )
  const time = { start: Date.parse(proposal.start), end: Date.parse(proposal.end) }
  const standing = useStanding(
    people.flatMap((one) => one.personId ?? []),
    time,
    { entryId: meeting.entryId, recurrence: meeting.recurrence },
  )
  const told = people.map((one) => ({ one, how: standing(one.personId ?? '') }))
  if (told.some(({ how }) => how === undefined))
    return <p className="text-soft text-sm">Looking who can come…</p>
  const blocked = told.filter(({ how }) => how && !['free', 'stretch', 'unknown'].includes(how.state))
  const stretched = told.filter(({ how }) => how?.state === 'stretch')
  const unknown = [
    ...told.flatMap(({ one, how }) => (how?.state === 'unknown' ? one.name : [])),
    ...meeting.participants.flatMap((one) =>
      one.personId === null && one.id !== proposal.participantId ? one.name : [],
    ),
  ]
  const name = (one: (typeof people)[number]) => (one.organizer && meeting.iOrganize ? 'You' : one.name)
  return (
    <ul className="text-sm">
      {blocked.map(({ one, how }) => (
        <li key={one.id} className="text-coral">
          ⚠ {name(one)}: {standingWords(how)}
          {one.required ? '' : ', optional'}
        </li>
      ))}
      {stretched.map(({ one, how }) => (
        <li key={one.id}>
          {name(one)}: {standingWords(how)}
        </li>
      ))}
      {meeting.participants.length > 1 && (
        <li className="text-soft">
          {blocked.length === 0
            ? 'Everybody whose time is known can come then.'
            : 'All others can come then.'}
          {unknown.length > 0 && ` Unknown: ${unknown.join(', ')}.`}
        </li>
      )}
    </ul>
  )
}

/** Another time that somebody proposes, with everybody’s state then: it is taken with one press, or declined. */
export const ProposalCard = ({
  meeting,
  proposal,
  named = false,
}: {
  meeting: Meeting
  proposal: Proposal
  /** Whether the card says which meeting it is for. */
  named?: boolean
}) => {
  const { zone } = useMe()
  const now = useNow()
  const writes = useProposalWrites()
  const key = useRef(crypto.randomUUID())
  const [busy, setBusy] = useState(false)
  const [declining, setDeclining] = useState<string | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [start, end] = [Date.parse(proposal.start), Date.parse(proposal.end)]
  const minutes = minutesBetween(start, end)
  // A reservation of mine, in which nobody else takes part.
  const alone = meeting.participants.every((one) => one.organizer)
  const was = { start: Date.parse(meeting.start), end: Date.parse(meeting.end) }
  const attempt = async (work: () => Promise<void>) => {
    setBusy(true)
    setTrouble(null)
    try {
      await work()
    } catch (error) {
      setTrouble(problemWords(error))
      // What was refused may be taken once more, as another request.
      key.current = crypto.randomUUID()
    }
    setBusy(false)
  }
  return (
    <li className="flex flex-col gap-2 rounded-lg border-gentian border-l-4 bg-paper px-4 py-2.5">
      <div>
        <p>
          <b className="font-semibold">{proposal.name}</b>
          {proposal.place && `, who looks after ${proposal.place.name},`} proposes another time
          {named && (
            <>
              {' '}
              for <b className="font-semibold">{meeting.title}</b>
            </>
          )}
        </p>
        <p className="font-semibold">{spanInWords(start, end, zone, now)}</p>
        <p className="text-soft text-sm">
          Now it is {spanInWords(was.start, was.end, zone, now)}
          {minutes !== minutesBetween(was.start, was.end) && `; it would last ${lengthInWords(minutes)}`}
        </p>
        {proposal.place && (
          <p className="text-soft text-sm">
            {proposal.place.name} is yours then, with nothing more to be granted. Until you answer, it stays
            held as you asked.
          </p>
        )}
        {proposal.message && <p className="mt-1 border-line border-l-2 pl-2">“{proposal.message}”</p>}
      </div>
      <Everybody meeting={meeting} proposal={proposal} />
      {trouble && <Trouble>{trouble}</Trouble>}
      {declining === null ? (
        <div className="flex flex-wrap gap-2">
          <Button
            tone="primary"
            disabled={busy}
            onClick={() =>
              attempt(() =>
                writes.take(
                  proposal,
                  meeting.version,
                  key.current,
                  `Moved ${meeting.title} to ${shortTime(start, zone)}`,
                ),
              )
            }
          >
            {busy ? 'Moving…' : alone ? 'Take that time' : 'Move it there and tell everybody'}
          </Button>
          <Button disabled={busy} onClick={() => setDeclining('')}>
            {alone ? 'Keep asking for mine…' : 'Keep the time…'}
          </Button>
        </div>
      ) : (
        <div className="flex flex-col gap-2">
          <Field label={`Words to ${proposal.name} (optional)`}>
            {(props) => (
              <textarea
                {...props}
                rows={2}
                maxLength={2000}
                value={declining}
                onChange={(event) => setDeclining(event.target.value)}
              />
            )}
          </Field>
          <div className="flex flex-wrap gap-2">
            <Button
              tone="primary"
              disabled={busy}
              onClick={() =>
                attempt(async () => {
                  await writes.refuse(proposal, declining)
                  toast(`The time stays. ${proposal.name} is told.`)
                })
              }
            >
              {busy ? 'Telling…' : `Keep the time and tell ${proposal.name}`}
            </Button>
            <Button disabled={busy} onClick={() => setDeclining(null)}>
              Back
            </Button>
          </div>
        </div>
      )}
    </li>
  )
}

/** The open proposals for a meeting, on its own sheet: to be taken by whoever may change it, else mine. */
export const Proposals = ({ meeting }: { meeting: Meeting }) => {
  const { zone } = useMe()
  const now = useNow()
  const proposals = useProposals(meeting.entryId)
  const writes = useProposalWrites()
  const [busy, setBusy] = useState(false)
  const own = (proposals.data?.proposals ?? []).filter((one) => one.recurrence === meeting.recurrence)
  if (own.length === 0) return null
  if (meeting.mayChange)
    return (
      <ul aria-label="Other times that were proposed" className="-mx-2 flex flex-col gap-2 bg-shade p-2">
        {own.map((one) => (
          <ProposalCard key={one.id} meeting={meeting} proposal={one} />
        ))}
      </ul>
    )
  const withdraw = async (one: Proposal) => {
    setBusy(true)
    try {
      await writes.withdraw(one)
      toast('Your proposal is withdrawn.')
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  return (
    <ul>
      {own.map((one) => (
        <li
          key={one.id}
          className="flex flex-wrap items-center gap-x-3 border-gentian border-l-4 bg-shade px-3 py-1.5"
        >
          <span className="flex-1">
            You proposed {spanInWords(Date.parse(one.start), Date.parse(one.end), zone, now)}.
          </span>
          <Button disabled={busy} onClick={() => withdraw(one)}>
            Withdraw it
          </Button>
        </li>
      ))}
    </ul>
  )
}
