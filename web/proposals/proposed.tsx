import type { proposedTime } from '@marmot/contract/proposals'
import { dayOf, type Instant, minutesBetween, toWall, type ZoneTable } from '@marmot/core/time'
import { type FormEvent, useRef, useState } from 'react'
import type { z } from 'zod'
import { endFor, readTime, type TimeFields, timeFields } from '../meetings/wanted.ts'
import { problemWords } from '../platform/problem.ts'
import { useKeyOf } from '../platform/use-attempt.ts'
import { Field } from '../ui/parts.tsx'

/** The date for which another time is proposed. */
interface Instead {
  readonly start: Instant
  readonly end: Instant
  readonly recurrence: string | null
}

/** Another time while it is made up: what stands in the fields, what that means, and how it is sent. */
export const useProposed = (
  was: Instead,
  zone: ZoneTable,
  now: Instant,
  send: (body: z.input<typeof proposedTime>, key: string) => Promise<void>,
) => {
  const [fields, setFields] = useState<TimeFields>(() => timeFields(was.start, was.end, zone))
  const [message, setMessage] = useState('')
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const keyOf = useKeyOf()
  const { errors, ...time } = readTime(fields, zone, dayOf(toWall(zone, now)))
  const readable = Object.keys(errors).length === 0
  // What is being typed is no time for a moment; it is then as it was before.
  const last = useRef(time)
  if (readable) last.current = time
  const same = time.start === was.start && time.end === was.end
  const ready = readable && !same && !busy
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (!ready) return
    const body = {
      start: new Date(time.start).toISOString(),
      minutes: minutesBetween(time.start, time.end),
      message,
      ...(was.recurrence ? { recurrence: was.recurrence } : {}),
    }
    setBusy(true)
    setTrouble(null)
    try {
      await send(body, keyOf(body))
    } catch (error) {
      setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  return {
    fields,
    errors,
    set: (part: Partial<TimeFields>) => setFields((before) => ({ ...before, ...part })),
    /** Begins at another clock; the length stays. */
    setFrom: (from: string) =>
      setFields((before) => ({
        ...before,
        from,
        until: endFor(before, from, minutesBetween(last.current.start, last.current.end)),
      })),
    choose: (start: Instant, end: Instant) => setFields(timeFields(start, end, zone)),
    message,
    setMessage,
    /** The time that the fields mean, or meant last. */
    time: last.current,
    readable,
    same,
    ready,
    busy,
    trouble,
    submit,
  }
}
type Proposed = ReturnType<typeof useProposed>

/** Day, beginning, and end or length of another time. */
export const ProposedTime = ({ proposed }: { proposed: Proposed }) => {
  const field = (name: 'day' | 'from' | 'until', label: string) => (
    <Field label={label} error={proposed.errors[name]}>
      {(props) => (
        <input
          {...props}
          {...(name === 'day' ? { 'data-first': true } : {})}
          value={proposed.fields[name]}
          onChange={({ target: { value } }) =>
            name === 'from' ? proposed.setFrom(value) : proposed.set({ [name]: value })
          }
        />
      )}
    </Field>
  )
  return (
    <div className="grid grid-cols-3 gap-2">
      {field('day', 'Day')}
      {field('from', 'From')}
      {field('until', 'Until, or length')}
    </div>
  )
}

/** What is said with it. */
export const ProposedWords = ({ proposed, organizer }: { proposed: Proposed; organizer: string }) => (
  <Field label={`Words to ${organizer} (optional)`}>
    {(props) => (
      <textarea
        {...props}
        rows={2}
        maxLength={2000}
        value={proposed.message}
        onChange={(event) => proposed.setMessage(event.target.value)}
      />
    )}
  </Field>
)

/** What the button says that proposes it. */
export const proposeWords = ({ busy, same }: Proposed, organizer: string): string =>
  busy ? 'Telling…' : same ? 'That is the time it has' : `Propose it to ${organizer}`
