import type { Request } from '@marmot/contract/asked'
import { proposeForPlace } from '@marmot/contract/proposals'
import { decideRequest } from '@marmot/contract/requests'
import {
  clocksThere,
  dayOf,
  HOUR,
  instantOf,
  minuteOf,
  minutesBetween,
  shortDay,
  shortTime,
  spanInWords,
  toWall,
  wallOf,
  zoneTable,
} from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { useProposalWrites } from '../proposals/proposals.ts'
import { ProposedTime, ProposedWords, proposeWords, useProposed } from '../proposals/proposed.tsx'
import { usePlaces } from '../resources/resources.ts'
import { Button, counted, Field, Loading, Trouble } from '../ui/parts.tsx'

const NONE: readonly string[] = []

type RequestedDate = Request['dates'][number]

/**
 * The place's own day around a time, by its own clock, with the time in a frame: what is asked for, or another that is chosen
 * there.
 */
const PlaceDay = ({
  request,
  date,
  chosen,
  onChoose,
}: {
  request: Request
  date: RequestedDate
  chosen?: { start: number; end: number }
  onChoose?: (start: number, end: number) => void
}) => {
  const now = useNow()
  const zone = zoneTable(request.zone)
  const asked = { start: Date.parse(date.start), end: Date.parse(date.end) }
  const { start, end } = chosen ?? asked
  const day = dayOf(toWall(zone, start))
  const from = instantOf(zone, wallOf(day))
  const of = useMemo(() => ({ sites: NONE, kinds: NONE, places: [request.resourceId] }), [request.resourceId])
  const { places, pending, error } = usePlaces(from, from + 36 * HOUR, { of })
  const axis = useMemo(() => {
    const minute = minuteOf(toWall(zone, start))
    return wallAxis(
      zone,
      day,
      Math.max(0, Math.min(7 * 60, minute - 60)),
      Math.min(1440, Math.max(19 * 60, minute + 240)),
    )
  }, [zone, day, start])
  const [place] = places
  if (error) return <p className="text-coral text-sm">⚠ The day of the place could not be fetched.</p>
  if (pending || !place) return <Loading what="the day of the place" />
  // What is asked for itself is in the frame, and in nobody's way.
  const time = { ...place.time, spans: place.time.spans.filter((span) => span.start !== asked.start) }
  return (
    <div
      className="overflow-hidden rounded-md bg-ground pb-2 [--label:124px] max-md:[--label:0px]"
      style={{ '--lane': '36px' }}
    >
      <Board
        still={!onChoose}
        label={`${request.place}, ${shortDay(day)}`}
        groups={[
          {
            id: request.resourceId,
            zone,
            axis,
            title: <span className="text-soft text-xs">{shortDay(day)}</span>,
            rows: [
              {
                id: `${request.resourceId}-day`,
                name: request.place,
                label: <span className="truncate font-semibold text-[13px]">{request.place}</span>,
                time,
                axis,
              },
            ],
          },
        ]}
        home={zone}
        now={now}
        step={15}
        minutes={minutesBetween(start, end)}
        across="all"
        chosen={{ start, end, rowId: null }}
        {...(chosen ? { present: asked } : {})}
        days={false}
        onChoose={(time) => time && onChoose?.(time.start, time.end)}
      />
    </div>
  )
}

/** Another time for one of the dates: typed, or chosen on the place's day. */
const Instead = ({ request, onBack }: { request: Request; onBack: () => void }) => {
  const zone = zoneTable(request.zone)
  const now = useNow()
  const { dates } = request
  const [nth, setNth] = useState(0)
  return (
    <>
      {dates.length > 1 && (
        <Field label="Which date">
          {(props) => (
            <select {...props} value={nth} onChange={(event) => setNth(Number(event.target.value))}>
              {dates.map((date, i) => (
                <option key={date.start} value={i}>
                  {spanInWords(Date.parse(date.start), Date.parse(date.end), zone, now)}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      {dates.slice(nth, nth + 1).map((date) => (
        <InsteadOf key={date.start} request={request} date={date} onBack={onBack} />
      ))}
    </>
  )
}

const InsteadOf = ({
  request,
  date,
  onBack,
}: {
  request: Request
  date: RequestedDate
  onBack: () => void
}) => {
  const { zone: home } = useMe()
  // The day that is shown is the place's, and so are the clocks that are typed.
  const zone = zoneTable(request.zone)
  const now = useNow()
  const queries = useQueryClient()
  const { entryId, resourceId, by } = request
  const was = { start: Date.parse(date.start), end: Date.parse(date.end), recurrence: date.recurrence }
  const proposed = useProposed(was, zone, now, async (body, key) => {
    await call(proposeForPlace, { params: { entryId, resourceId }, body, key })
    toast(`${by} is told. Until they answer, ${request.place} stays held as they asked.`)
    onBack()
    void queries.invalidateQueries()
  })
  const { time } = proposed
  return (
    <form className="flex flex-col gap-2" onSubmit={proposed.submit}>
      <PlaceDay request={request} date={date} chosen={time} onChoose={proposed.choose} />
      <ProposedTime proposed={proposed} />
      {proposed.readable && (
        <p role="status">
          <b className="font-semibold">{spanInWords(time.start, time.end, zone, now)}</b>
          {zone.zone !== home.zone && (
            <span className="text-soft">
              {' '}
              by the clock there; {clocksThere(time.start, time.end, home, zone)} by yours
            </span>
          )}
        </p>
      )}
      <ProposedWords proposed={proposed} organizer={by} />
      {proposed.trouble && <Trouble>{proposed.trouble}</Trouble>}
      <div className="flex flex-wrap justify-end gap-2">
        <Button disabled={proposed.busy} onClick={onBack}>
          Not yet
        </Button>
        <Button type="submit" tone="primary" disabled={!proposed.ready}>
          {proposeWords(proposed, by)}
        </Button>
      </div>
    </form>
  )
}

/** What I proposed for it, that nobody has answered. */
const Proposed = ({ request }: { request: Request }) => {
  const { zone } = useMe()
  const now = useNow()
  const writes = useProposalWrites()
  const { busy, trouble, attempt } = useAttempt()
  const withdraw = (id: string) =>
    attempt(async () => {
      await writes.withdraw({ id })
      toast('Your proposal is withdrawn.')
    })
  if (trouble) return <Trouble>{problemWords(trouble)}</Trouble>
  return request.proposed.map((one) => (
    <p
      key={one.proposalId}
      className="flex flex-wrap items-center gap-x-3 border-gentian border-l-4 bg-shade px-3 py-1.5"
    >
      <span className="flex-1">
        You proposed {spanInWords(Date.parse(one.start), Date.parse(one.end), zone, now)}; {request.by} has
        not answered.
      </span>
      <Button disabled={busy} onClick={() => withdraw(one.proposalId)}>
        Withdraw it
      </Button>
    </p>
  ))
}

/**
 * What is asked for of a place that I look after: who, what for, when, with its day around it; granted or refused in one press,
 * or another time is proposed.
 */
export const RequestCard = ({ request }: { request: Request }) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const [doing, setDoing] = useState<'refusing' | 'proposing' | null>(null)
  const [words, setWords] = useState('')
  const { busy, trouble, attempt } = useAttempt()
  const keyOf = useKeyOf()
  const { entryId, resourceId, dates, contact, purpose, headCount } = request
  const [first] = dates
  const decide = async (grant: boolean) => {
    const body = { grant, words }
    await attempt(async () => {
      await call(decideRequest, { params: { entryId, resourceId }, body, key: keyOf(body) })
      toast(`${grant ? 'Granted' : 'Refused'}: ${request.place} for ${request.by}, who is told.`)
    })
    void queries.invalidateQueries()
  }
  const asks = contact ? [contact.name, contact.telephone, contact.address].filter(Boolean).join(', ') : ''
  return (
    <li
      className="flex flex-col gap-2 rounded-lg bg-paper p-4"
      aria-label={`${request.place} for ${request.by}`}
    >
      <p>
        <b className="font-semibold">{request.by}</b> asks for{' '}
        <b className="font-semibold">{request.place}</b>
        {first && `, ${spanInWords(Date.parse(first.start), Date.parse(first.end), zone, now)}`}
        {dates.length > 1 && `, and ${counted(dates.length - 1, 'more date', 'more dates')}`}
      </p>
      <p className="text-soft text-sm">
        {[
          purpose ? `For ${purpose}` : 'What for is not said',
          headCount ? counted(headCount, 'person', 'people') : '',
          asks ? `ask ${asks}` : '',
          `lapses ${shortTime(Date.parse(request.lapses), zone)}`,
        ]
          .filter(Boolean)
          .join(', ')}
        .
      </p>
      <Proposed request={request} />
      {first && doing !== 'proposing' && <PlaceDay request={request} date={first} />}
      {doing === 'proposing' && <Instead request={request} onBack={() => setDoing(null)} />}
      {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
      {doing === 'refusing' && (
        <Field label="Why not (they read it)">
          {(props) => (
            <textarea
              {...props}
              rows={2}
              maxLength={1000}
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
          )}
        </Field>
      )}
      {doing !== 'proposing' && (
        <div className="flex flex-wrap justify-end gap-2">
          {doing === 'refusing' ? (
            <>
              <Button disabled={busy} onClick={() => setDoing(null)}>
                Not yet
              </Button>
              <Button tone="trouble" disabled={busy} onClick={() => decide(false)}>
                {busy ? 'Refusing…' : 'Refuse it'}
              </Button>
            </>
          ) : (
            <>
              <Button tone="trouble" disabled={busy} onClick={() => setDoing('refusing')}>
                Refuse…
              </Button>
              <Button disabled={busy} onClick={() => setDoing('proposing')}>
                Another time…
              </Button>
              <Button tone="primary" disabled={busy} onClick={() => decide(true)}>
                {busy ? 'Granting…' : dates.length > 1 ? `Grant all ${dates.length} dates` : 'Grant it'}
              </Button>
            </>
          )}
        </div>
      )}
    </li>
  )
}
