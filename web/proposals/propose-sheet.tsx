import type { Meeting } from '@marmot/contract/meetings'
import { laneOf } from '@marmot/contract/openings'
import { during, duringInWords, type LaneTime } from '@marmot/core/availability'
import {
  dayOf,
  HOUR,
  type Instant,
  instantOf,
  lengthInWords,
  minuteOf,
  minutesBetween,
  offsetAt,
  offsetInWords,
  shortDay,
  spanInWords,
  toWall,
  wallOf,
  zoneTable,
} from '@marmot/core/time'
import { type FormEvent, useMemo, useRef, useState } from 'react'
import { toast } from 'sonner'
import { useTime } from '../availability/time.ts'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import type { BoardGroup, Chosen } from '../lanes/types.ts'
import { useMeeting } from '../meetings/meeting.ts'
import { endFor, readTime, type TimeFields, timeFields } from '../meetings/wanted.ts'
import { problemWords } from '../platform/api.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Field, flowerOf, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { useProposalWrites } from './proposals.ts'

/** Hours before and after the proposed time that are shown at the least. */
const HOURS_AROUND = 5

/** The lanes of all who take part, on the day of the proposed time: mine first, the others as far as I may see them. */
const useLanes = (
  meeting: Meeting,
  { start }: { start: Instant },
  chosen: { start: Instant; end: Instant },
) => {
  const { zone, person, session } = useMe()
  const day = dayOf(toWall(zone, start))
  const dayStart = instantOf(zone, wallOf(day))
  const people = meeting.participants.filter((one) => one.personId !== null)
  const known = useTime(
    people.flatMap((one) => one.personId ?? []),
    dayStart - 12 * HOUR,
    dayStart + 48 * HOUR,
  )
  const axis = useMemo(() => {
    const first = minuteOf(toWall(zone, start))
    const from = Math.max(0, Math.min(7 * 60, first - HOURS_AROUND * 60))
    return wallAxis(zone, day, from, Math.min(1440 + 360, Math.max(19 * 60, first + HOURS_AROUND * 60)))
  }, [zone, day, start])
  const lanes = new Map(
    known.data?.people.map((each): [string, LaneTime] => {
      const lane = laneOf(each)
      // What is to be moved stands in nobody's way.
      return [
        each.personId,
        { ...lane, spans: lane.spans.filter((span) => span.entryId !== meeting.entryId) },
      ]
    }),
  )
  const mine = people.filter((one) => one.personId === person.id)
  const others = people.filter((one) => one.personId !== person.id)
  const zones = [...new Set([...mine, ...others].map((one) => one.zone ?? zone.zone))]
  const groups = zones.map((name): BoardGroup => {
    const table = zoneTable(name)
    const site = session.sites.find((one) => one.zone === name)?.name ?? ''
    return {
      id: name,
      zone: table,
      axis,
      title: (
        <>
          <b>{site}</b> <span className="text-soft">{offsetInWords(offsetAt(table, start))}</span>
        </>
      ),
      rows: [...mine, ...others]
        .filter((one) => (one.zone ?? zone.zone) === name)
        .flatMap((one) => {
          const lane = lanes.get(one.personId ?? '')
          if (!lane) return []
          const how = during(lane, zoneTable(lane.zone), chosen)
          const blocked = !['free', 'stretch', 'unknown'].includes(how.state)
          const words = duringInWords(how, zoneTable(lane.zone))
          return [
            {
              id: one.id,
              name: `${one.name}, ${site}`,
              time: lane,
              axis,
              edge: flowerOf(one.personId ?? ''),
              label: (
                <span className="flex min-w-0 flex-col leading-tight">
                  <span className="truncate font-semibold text-[13px]">
                    {one.personId === person.id ? 'You' : one.name}
                  </span>
                  <span className={`truncate text-xs ${blocked ? 'text-coral' : 'text-soft'}`}>
                    {blocked && '⚠ '}
                    {words.replace(': shares nothing', '')}
                  </span>
                </span>
              ),
            },
          ]
        }),
    }
  })
  return { groups, pending: known.isPending, failed: known.isError, day }
}

const Form = ({ meeting, onClose }: { meeting: Meeting; onClose: () => void }) => {
  const { zone } = useMe()
  const now = useNow()
  const writes = useProposalWrites()
  const was = { start: Date.parse(meeting.start), end: Date.parse(meeting.end) }
  const [fields, setFields] = useState<TimeFields>(() => timeFields(was.start, was.end, zone))
  const [message, setMessage] = useState('')
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const key = useRef({ of: '', key: '' })
  const { errors, ...time } = readTime(fields, zone, dayOf(toWall(zone, now)))
  const readable = Object.keys(errors).length === 0
  // What is typed is no time for a moment; the lanes then stay where they were.
  const last = useRef(time)
  if (readable) last.current = time
  const { groups, pending, failed, day } = useLanes(meeting, last.current, last.current)
  const same = time.start === was.start && time.end === was.end
  const choose = (chosen: Chosen | null) => {
    if (chosen) setFields((before) => ({ ...before, ...timeFields(chosen.start, chosen.end, zone) }))
  }
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (!readable || same || busy) return
    const body = {
      start: new Date(time.start).toISOString(),
      minutes: minutesBetween(time.start, time.end),
      message,
      ...(meeting.recurrence ? { recurrence: meeting.recurrence } : {}),
    }
    const text = JSON.stringify(body)
    if (key.current.of !== text) key.current = { of: text, key: crypto.randomUUID() }
    setBusy(true)
    setTrouble(null)
    try {
      await writes.propose(meeting.entryId, body, key.current.key)
      toast(`${meeting.organizer} is told. Until they answer, ${meeting.title} stays where it is.`)
      onClose()
    } catch (error) {
      setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  const field = (name: 'day' | 'from' | 'until', label: string) => (
    <Field label={label} error={errors[name]}>
      {(props) => (
        <input
          {...props}
          {...(name === 'day' ? { 'data-first': true } : {})}
          value={fields[name]}
          onChange={({ target: { value } }) =>
            setFields((before) =>
              name === 'from'
                ? {
                    ...before,
                    from: value,
                    until: endFor(before, value, minutesBetween(last.current.start, last.current.end)),
                  }
                : { ...before, [name]: value },
            )
          }
        />
      )}
    </Field>
  )
  return (
    <form className="flex flex-col gap-4" onSubmit={submit}>
      <div className="flex flex-col gap-2">
        <div className="grid grid-cols-3 gap-2">
          {field('day', 'Day')}
          {field('from', 'From')}
          {field('until', 'Until, or length')}
        </div>
        {readable && (
          <p role="status">
            <b className="font-semibold">{spanInWords(time.start, time.end, zone, now)}</b>
            {`, ${lengthInWords(minutesBetween(time.start, time.end))}`}
            {!same && (
              <>
                <br />
                <span className="text-soft">Now it is {spanInWords(was.start, was.end, zone, now)}</span>
              </>
            )}
          </p>
        )}
      </div>
      {pending && <Loading what="everybody’s day" />}
      {failed && (
        <p className="text-coral text-sm">⚠ Nobody’s day could be fetched. You can propose all the same.</p>
      )}
      {!pending && !failed && (
        <div
          className="overflow-hidden rounded-md bg-ground pb-2 [--label:172px] max-md:[--label:0px]"
          style={{ '--lane': '36px' }}
        >
          <Board
            label={`Everybody’s day, ${shortDay(day)}`}
            groups={groups}
            home={zone}
            now={now}
            step={15}
            minutes={minutesBetween(last.current.start, last.current.end)}
            across="all"
            chosen={{ ...last.current, rowId: null }}
            present={was}
            days={false}
            onChoose={choose}
          />
        </div>
      )}
      <Field label={`Words to ${meeting.organizer} (optional)`}>
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
      <div className="flex flex-wrap justify-end gap-2">
        <Button onClick={onClose} disabled={busy}>
          Back
        </Button>
        <Button type="submit" tone="primary" disabled={!readable || same || busy}>
          {busy ? 'Telling…' : same ? 'That is the time it has' : `Propose it to ${meeting.organizer}`}
        </Button>
      </div>
    </form>
  )
}

/** Another time for a meeting to which I was invited: typed or drawn on the lanes of everybody, as far as I may see them. */
export const ProposeSheet = ({
  entryId,
  recurrence,
  onClose,
}: {
  entryId: string
  recurrence: string | null
  onClose: () => void
}) => {
  const meeting = useMeeting(entryId, recurrence)
  return (
    <Sheet open onClose={onClose} title={`Another time for ${meeting.data?.title ?? 'a meeting'}`} wide>
      {meeting.isPending && <Loading what="the meeting" />}
      {meeting.isError && (
        <Trouble action={<Button onClick={() => meeting.refetch()}>Try again</Button>}>
          {problemWords(meeting.error)}
        </Trouble>
      )}
      {meeting.data && <Form meeting={meeting.data} onClose={onClose} />}
    </Sheet>
  )
}
