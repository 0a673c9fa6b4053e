import { callIn, type Record } from '@marmot/contract/conferences'
import { secondsInWords } from '@marmot/core/conferences'
import { clockText, minuteOf, toWall, type ZoneTable } from '@marmot/core/time'
import { PhoneOutgoing } from 'lucide-react'
import { type FormEvent, useRef, useState } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { Button, flowerOf } from '../ui/parts.tsx'

const timeIn = (zone: ZoneTable, instant: string): string =>
  clockText(minuteOf(toWall(zone, Date.parse(instant))))

type To = { person: string } | { address: string; name: string } | { number: string }

/** Calls somebody else in: a colleague by name, anybody by address, a telephone by its number. */
const CallIn = ({ entryId, recurrence }: { entryId: string; recurrence: string | null }) => {
  const field = useRef<HTMLInputElement>(null)
  const [number, setNumber] = useState('')
  const [busy, setBusy] = useState(false)
  const ring = async (to: To, words: string) => {
    setBusy(true)
    try {
      await call(callIn, {
        params: { entryId },
        body: { to, ...(recurrence ? { recurrence } : {}) },
        key: crypto.randomUUID(),
      })
      toast(words)
      // What was typed meanwhile stays.
      if ('number' in to) setNumber((typed) => (typed.trim() === to.number ? '' : typed))
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  const dial = (event: FormEvent) => {
    event.preventDefault()
    if (number.trim()) ring({ number: number.trim() }, `Ringing ${number.trim()}`)
  }
  return (
    <div className="flex flex-col gap-1.5">
      <PeopleSearch
        inputRef={field}
        taken={new Set()}
        words="Call a person or an address"
        onPeople={(people) => {
          for (const one of people.slice(0, 10)) ring({ person: one.id }, `Calling ${one.name}`)
        }}
        onGuest={(guest) => ring(guest, `A letter with the link is on its way to ${guest.address}`)}
      />
      <form className="flex gap-2" onSubmit={dial}>
        <input
          aria-label="Telephone number to call"
          type="tel"
          value={number}
          placeholder="or a telephone number"
          onChange={(event) => setNumber(event.target.value)}
          className="min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2 py-1 text-sm max-md:min-h-thumb"
        />
        <Button type="submit" disabled={busy || !number.trim()} className="max-md:min-h-thumb">
          <PhoneOutgoing size={14} aria-hidden /> Call
        </Button>
      </form>
    </div>
  )
}

/** Who is in a meeting just now, and who is being called; with a way to call others in. */
export const WhoIsHere = ({
  record,
  entryId,
  recurrence,
  zone,
}: {
  record: Record
  entryId: string
  recurrence: string | null
  zone: ZoneTable
}) => {
  const here = record.attended.filter((one) => one.until === null)
  const gone = record.attended.filter((one) => one.until !== null)
  return (
    <section aria-label="Who is here" className="flex flex-col gap-1.5">
      <h3 className="font-semibold">Here now</h3>
      <ul aria-live="polite" className="flex flex-col">
        {here.map((one) => (
          <li key={`${one.name}${one.from}`} className="flex items-center gap-2">
            <span className="size-2.5 rounded-full" style={{ background: flowerOf(one.name) }} aria-hidden />
            {one.name} <span className="text-soft text-sm">since {timeIn(zone, one.from)}</span>
          </li>
        ))}
        {record.called.map((name) => (
          <li key={name} className="text-soft">
            {name}, being called…
          </li>
        ))}
        {gone.map((one) => (
          <li key={`${one.name}${one.from}`} className="text-soft">
            {one.name}, left {one.until && timeIn(zone, one.until)}
          </li>
        ))}
        {here.length === 0 && record.called.length === 0 && <li className="text-soft">Nobody yet.</li>}
      </ul>
      <CallIn entryId={entryId} recurrence={recurrence} />
    </section>
  )
}

/** Who was in a meeting, since when, and how long. */
export const Attendance = ({ record, zone }: { record: Record; zone: ZoneTable }) => (
  <table className="w-full text-left">
    <thead className="text-soft text-sm">
      <tr>
        <th className="font-normal">Who was there</th>
        <th className="font-normal">From</th>
        <th className="font-normal">To</th>
        <th className="text-right font-normal">How long</th>
      </tr>
    </thead>
    <tbody className="tabular-nums">
      {record.attended.map((one) => (
        <tr key={`${one.name}${one.from}`} className="border-line border-t">
          <td className="py-0.5 pr-3">{one.name}</td>
          <td className="pr-3">{timeIn(zone, one.from)}</td>
          <td className="pr-3">{one.until ? timeIn(zone, one.until) : 'still there'}</td>
          <td className="whitespace-nowrap text-right">{secondsInWords(one.seconds)}</td>
        </tr>
      ))}
    </tbody>
  </table>
)
