import {
  dayOf,
  instantOf,
  parseClock,
  parseDay,
  shortDay,
  spanInWords,
  toWall,
  wallOf,
  type ZoneTable,
} from '@marmot/core/time'
import { useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Field, Trouble } from '../ui/parts.tsx'

/** A time that is typed, of a length that is given: its start in milliseconds, or what cannot be read. */
const readStart = (day: string, clock: string, zone: ZoneTable, now: number) => {
  const today = dayOf(toWall(zone, now))
  const [on, at] = [parseDay(day, today), parseClock(clock)]
  return {
    start: on === null || at === null ? null : instantOf(zone, wallOf(on, at)),
    errors: {
      day: day.trim() && on === null ? 'is no day: try “thu” or “3 dec”' : undefined,
      clock: clock.trim() && at === null ? 'is no time: try “14:00”' : undefined,
    },
  }
}

/** A time of one's own, typed in one's own zone. `add` sends it. */
export const OwnTime = ({
  length,
  zone,
  now,
  words,
  hint,
  add,
}: {
  /** In milliseconds. */
  length: number
  zone: ZoneTable
  now: number
  /** What the button that opens it says. */
  words: string
  hint: string
  add: (start: number) => Promise<unknown>
}) => {
  const [open, setOpen] = useState(false)
  const [day, setDay] = useState('')
  const [clock, setClock] = useState('')
  const { busy, trouble, attempt } = useAttempt()
  const { start, errors } = readStart(day, clock, zone, now)
  if (!open)
    return (
      <Button className="self-start max-md:min-h-thumb" onClick={() => setOpen(true)}>
        {words}…
      </Button>
    )
  const send = async () => {
    if (start === null || !(await attempt(() => add(start)))) return
    setOpen(false)
    setDay('')
    setClock('')
  }
  return (
    <section aria-label={words} className="flex flex-col gap-2 rounded-lg bg-paper px-3 py-2.5">
      <p className="text-soft text-sm">{hint}</p>
      <div className="grid grid-cols-2 gap-2 md:max-w-sm">
        <Field label="Day" error={errors.day}>
          {(props) => (
            <input
              {...props}
              // biome-ignore lint/a11y/noAutofocus: it was opened by the press before
              autoFocus
              value={day}
              placeholder={shortDay(dayOf(toWall(zone, now)) + 7).toLowerCase()}
              onChange={(event) => setDay(event.target.value)}
            />
          )}
        </Field>
        <Field label="From" error={errors.clock}>
          {(props) => (
            <input
              {...props}
              value={clock}
              placeholder="14:00"
              onChange={(event) => setClock(event.target.value)}
              onKeyDown={(event) => {
                if (event.key !== 'Enter') return
                event.preventDefault()
                void send()
              }}
            />
          )}
        </Field>
      </div>
      {start !== null && (
        <p role="status">
          <b className="font-semibold">{spanInWords(start, start + length, zone, now)}</b>
        </p>
      )}
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      <div className="flex gap-2">
        <Button
          tone="primary"
          disabled={busy || start === null}
          onClick={send}
          className="max-md:min-h-thumb"
        >
          {busy ? 'Adding…' : 'Ask about this time, too'}
        </Button>
        <Button onClick={() => setOpen(false)} className="max-md:min-h-thumb">
          Back
        </Button>
      </div>
    </section>
  )
}
