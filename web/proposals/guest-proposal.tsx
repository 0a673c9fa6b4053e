import { proposeByLink } from '@marmot/contract/proposals'
import { dayOf, type Instant, minutesBetween, spanInWords, toWall, type ZoneTable } from '@marmot/core/time'
import { type FormEvent, useRef, useState } from 'react'
import { endFor, readTime, type TimeFields, timeFields } from '../meetings/wanted.ts'
import { call, problemWords } from '../platform/api.ts'
import { Button, Field, Trouble } from '../ui/parts.tsx'

/** Another time, proposed by a guest from their page, in their own zone. */
export const GuestProposal = ({
  token,
  zone,
  now,
  organizer,
  start,
  end,
  recurrence,
}: {
  token: string
  zone: ZoneTable
  now: Instant
  organizer: string
  start: Instant
  end: Instant
  recurrence: string | null
}) => {
  const [fields, setFields] = useState<TimeFields | null>(null)
  const [message, setMessage] = useState('')
  const [state, setState] = useState<'asked' | 'sending' | 'sent'>('asked')
  const [trouble, setTrouble] = useState<string | null>(null)
  const key = useRef({ of: '', key: '' })
  if (state === 'sent')
    return (
      <p role="status">
        {organizer} is told of the time that you propose. Until they answer, the meeting stays where it is.
      </p>
    )
  if (!fields)
    return (
      <Button className="self-start" onClick={() => setFields(timeFields(start, end, zone))}>
        Propose another time
      </Button>
    )
  const { errors, ...time } = readTime(fields, zone, dayOf(toWall(zone, now)))
  const readable = Object.keys(errors).length === 0
  const same = time.start === start && time.end === end
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (!readable || same || state !== 'asked') return
    const body = {
      start: new Date(time.start).toISOString(),
      minutes: minutesBetween(time.start, time.end),
      message,
      ...(recurrence ? { recurrence } : {}),
    }
    const text = JSON.stringify(body)
    if (key.current.of !== text) key.current = { of: text, key: crypto.randomUUID() }
    setState('sending')
    setTrouble(null)
    try {
      await call(proposeByLink, { params: { token }, body, key: key.current.key })
      setState('sent')
    } catch (error) {
      setTrouble(problemWords(error))
      setState('asked')
    }
  }
  const field = (name: 'day' | 'from' | 'until', label: string) => (
    <Field label={label} error={errors[name]}>
      {(props) => (
        <input
          {...props}
          value={fields[name]}
          onChange={({ target: { value } }) =>
            setFields(
              name === 'from'
                ? { ...fields, from: value, until: endFor(fields, value, minutesBetween(start, end)) }
                : { ...fields, [name]: value },
            )
          }
        />
      )}
    </Field>
  )
  return (
    <form className="flex flex-col gap-3 rounded-lg bg-paper px-4 py-3" onSubmit={submit}>
      <p className="font-semibold">Another time, in your own time zone</p>
      <div className="grid grid-cols-3 gap-2">
        {field('day', 'Day')}
        {field('from', 'From')}
        {field('until', 'Until, or length')}
      </div>
      {readable && <p role="status">{spanInWords(time.start, time.end, zone, now)}</p>}
      <Field label={`Words to ${organizer} (optional)`}>
        {(props) => (
          <textarea
            {...props}
            rows={2}
            maxLength={2000}
            value={message}
            onChange={(event) => setMessage(event.target.value)}
          />
        )}
      </Field>
      {trouble && <Trouble>{trouble}</Trouble>}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" tone="primary" disabled={!readable || same || state !== 'asked'}>
          {state === 'sending' ? 'Telling…' : same ? 'That is the time it has' : `Propose it to ${organizer}`}
        </Button>
        <Button onClick={() => setFields(null)}>Back</Button>
      </div>
    </form>
  )
}
