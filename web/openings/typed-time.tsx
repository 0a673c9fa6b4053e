import { checkTime, isTimeProblem } from '@marmot/core/entries'
import { dayOf, minutesBetween, spanInWords, toWall } from '@marmot/core/time'
import { type ReactNode, useState } from 'react'
import { readTyped, typedTime } from '../entries/typed.ts'
import { useMe } from '../platform/session.tsx'
import { Button, Field } from '../ui/parts.tsx'
import { Popping } from '../ui/popping.tsx'
import { useBrief } from './brief.tsx'
import type { Arranging } from './use-arranging.ts'

const HOUR_MS = 3_600_000

/** The fields of the time, as it is when they open. */
const Fields = ({ arranging, onDone }: { arranging: Arranging; onDone: () => void }) => {
  const { brief, change } = useBrief()
  const { person } = useMe()
  const { chosen, zone, now, today } = arranging
  const start = chosen?.start ?? Math.ceil(now / HOUR_MS) * HOUR_MS
  const [typed, setTyped] = useState(() =>
    typedTime(start, chosen?.end ?? start + brief.minutes * 60_000, person.zone, false),
  )
  const read = readTyped({ ...typed, allDay: false }, dayOf(toWall(zone, start)), today)
  const wrong = Object.keys(read.errors).length > 0
  const checked = wrong ? null : checkTime(read.starts, read.minutes, person.zone, false)
  const fine = checked && !isTimeProblem(checked) ? checked : null
  const field = (name: 'day' | 'from' | 'until', label: string) => (
    <Field label={label} error={read.errors[name]}>
      {(props) => (
        <input
          {...props}
          value={typed[name]}
          onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
        />
      )}
    </Field>
  )
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (!fine) return
        change({ start: fine.start, minutes: minutesBetween(fine.start, fine.end) })
        onDone()
      }}
    >
      <div className="grid grid-cols-3 gap-2">
        {field('day', 'Day')}
        {field('from', 'From')}
        {field('until', 'Until, or length')}
      </div>
      <p role="status" className="min-h-5 text-sm">
        {fine
          ? spanInWords(fine.start, fine.end, zone, now)
          : checked && isTimeProblem(checked)
            ? `⚠ ${checked.message}`
            : ''}
      </p>
      <Button type="submit" tone="primary" disabled={!fine}>
        Take this time
      </Button>
    </form>
  )
}

/** The chosen time, pressed to type another. */
export const TypedTime = ({ arranging, children }: { arranging: Arranging; children: ReactNode }) => {
  const [open, setOpen] = useState(false)
  return (
    <Popping
      label="Type the time"
      className="w-[400px] p-3"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button
          type="button"
          title="Type another time"
          className="rounded px-1 text-left decoration-soft/60 underline-offset-2 hover:underline max-md:min-h-thumb"
        >
          {children}
        </button>
      }
    >
      <Fields arranging={arranging} onDone={() => setOpen(false)} />
    </Popping>
  )
}
