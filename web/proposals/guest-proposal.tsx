import { proposeByLink } from '@marmot/contract/proposals'
import { type Instant, spanInWords, type ZoneTable } from '@marmot/core/time'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { Button, Trouble } from '../ui/parts.tsx'
import { ProposedTime, ProposedWords, proposeWords, useProposed } from './proposed.tsx'

interface Asked {
  readonly token: string
  readonly zone: ZoneTable
  readonly now: Instant
  readonly organizer: string
  readonly start: Instant
  readonly end: Instant
  readonly recurrence: string | null
}

const Form = ({ asked, onSent, onClose }: { asked: Asked; onSent: () => void; onClose: () => void }) => {
  const { token, zone, now, organizer } = asked
  const proposed = useProposed(asked, zone, now, async (body, key) => {
    await call(proposeByLink, { params: { token }, body, key })
    onSent()
  })
  return (
    <form className="flex flex-col gap-3 rounded-lg bg-paper px-4 py-3" onSubmit={proposed.submit}>
      <p className="font-semibold">Another time, in your own time zone</p>
      <ProposedTime proposed={proposed} />
      {proposed.readable && (
        <p role="status">{spanInWords(proposed.time.start, proposed.time.end, zone, now)}</p>
      )}
      <ProposedWords proposed={proposed} organizer={organizer} />
      {proposed.trouble && <Trouble>{proposed.trouble}</Trouble>}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" tone="primary" disabled={!proposed.ready}>
          {proposeWords(proposed, organizer)}
        </Button>
        <Button onClick={onClose}>Back</Button>
      </div>
    </form>
  )
}

/** Another time, proposed by a guest from their page, in their own zone. */
export const GuestProposal = (asked: Asked) => {
  const [state, setState] = useState<'closed' | 'open' | 'sent'>('closed')
  if (state === 'sent')
    return (
      <p role="status">
        {asked.organizer} is told of the time that you propose. Until they answer, the meeting stays where it
        is.
      </p>
    )
  if (state === 'open')
    return <Form asked={asked} onSent={() => setState('sent')} onClose={() => setState('closed')} />
  return (
    <Button className="self-start" onClick={() => setState('open')}>
      Propose another time
    </Button>
  )
}
