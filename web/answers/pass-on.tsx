import { delegateMeeting, type Meeting } from '@marmot/contract/meetings'
import { useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { Button, Trouble } from '../ui/parts.tsx'
import { type DateChoice, WhichDates } from './answer-form.tsx'

/** To whom an invitation is passed on. */
type To = { readonly name: string } & ({ readonly person: string } | { readonly address: string })

/** Passes an invitation on to a colleague or an address, of a series for one date or for all. */
export const PassOn = ({
  meeting,
  date,
  onClose,
}: {
  meeting: Meeting
  date: DateChoice | null
  onClose: () => void
}) => {
  const queries = useQueryClient()
  const search = useRef<HTMLInputElement>(null)
  const key = useRef(crypto.randomUUID())
  const [to, setTo] = useState<To | null>(null)
  const [message, setMessage] = useState('')
  const [recurrence, setRecurrence] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const taken = [...meeting.participants, ...meeting.elsewhere].flatMap((one) => one.personId ?? [])
  const pass = async (chosen: To) => {
    setBusy(true)
    setTrouble(null)
    try {
      await call(delegateMeeting, {
        params: { entryId: meeting.entryId },
        body: {
          to: 'person' in chosen ? { person: chosen.person } : { address: chosen.address },
          message,
          ...(recurrence ? { recurrence } : {}),
        },
        key: key.current,
      })
      toast(`Passed on to ${chosen.name}. ${meeting.organizer} is told.`)
      onClose()
      await queries.invalidateQueries()
    } catch (error) {
      setTrouble(problemWords(error))
      key.current = crypto.randomUUID()
      setBusy(false)
    }
  }
  return (
    <div className="flex flex-col gap-2 rounded-md border border-line p-3">
      <p>Somebody else goes in your place. {meeting.organizer} sees both of you in the list.</p>
      {date && <WhichDates date={date} chosen={recurrence} onChoose={setRecurrence} />}
      {to ? (
        <p>
          <b className="font-semibold">{to.name}</b>{' '}
          <button type="button" className="underline underline-offset-2" onClick={() => setTo(null)}>
            somebody else
          </button>
        </p>
      ) : (
        <PeopleSearch
          inputRef={search}
          taken={new Set(taken)}
          words="A person, or an address"
          onPeople={([person]) => person && setTo({ name: person.name, person: person.id })}
          onGuest={({ address, name }) => setTo({ name: name || address, address })}
        />
      )}
      <input
        aria-label={`A message to ${meeting.organizer}`}
        placeholder={`A message to ${meeting.organizer.split(' ')[0]}, if you like`}
        value={message}
        maxLength={1500}
        onChange={(event) => setMessage(event.target.value)}
        className="rounded-md border border-soft/50 bg-paper px-2.5 py-1"
      />
      {trouble && <Trouble>{trouble}</Trouble>}
      <div className="flex flex-wrap gap-2">
        <Button tone="primary" disabled={!to || busy} onClick={() => to && pass(to)}>
          {busy ? 'Passing it on…' : `Pass it on${to ? ` to ${to.name}` : ''}`}
        </Button>
        <Button disabled={busy} onClick={onClose}>
          Back
        </Button>
      </div>
    </div>
  )
}
