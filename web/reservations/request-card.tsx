import type { Request } from '@marmot/contract/asked'
import { decideRequest } from '@marmot/contract/requests'
import {
  dayOf,
  HOUR,
  instantOf,
  minuteOf,
  shortDay,
  shortTime,
  spanInWords,
  toWall,
  wallOf,
  zoneTable,
} from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useMemo, useRef, useState } from 'react'
import { toast } from 'sonner'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { call, problemWords } from '../platform/api.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { usePlaces } from '../resources/resources.ts'
import { Button, counted, Field, Loading, Trouble } from '../ui/parts.tsx'

const NONE: readonly string[] = []

/** The place's own day around what is asked for, by its own clock, with the time that is asked for in a frame. */
const PlaceDay = ({ request }: { request: Request }) => {
  const now = useNow()
  const zone = zoneTable(request.zone)
  const [first] = request.dates
  const [start, end] = [Date.parse(first?.start ?? ''), Date.parse(first?.end ?? '')]
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
  const time = { ...place.time, spans: place.time.spans.filter((span) => span.start !== start) }
  return (
    <div
      className="overflow-hidden rounded-md bg-ground pb-2 [--label:124px] max-md:[--label:0px]"
      style={{ '--lane': '36px' }}
    >
      <Board
        still
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
        minutes={60}
        across="all"
        chosen={{ start, end, rowId: null }}
        days={false}
        onChoose={() => undefined}
      />
    </div>
  )
}

/** What is asked for of a place that I look after: who, what for, when, with its day around it; granted or refused in one press. */
export const RequestCard = ({ request }: { request: Request }) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const [refusing, setRefusing] = useState(false)
  const [words, setWords] = useState('')
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<unknown>(null)
  const key = useRef({ of: '', key: '' })
  const { entryId, resourceId, dates, contact, purpose, headCount } = request
  const [first] = dates
  const decide = async (grant: boolean) => {
    const body = { grant, words }
    const of = JSON.stringify(body)
    if (key.current.of !== of) key.current = { of, key: crypto.randomUUID() }
    setBusy(true)
    try {
      await call(decideRequest, { params: { entryId, resourceId }, body, key: key.current.key })
      toast(`${grant ? 'Granted' : 'Refused'}: ${request.place} for ${request.by}, who is told.`)
    } catch (error) {
      setTrouble(error)
    }
    setBusy(false)
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
      <PlaceDay request={request} />
      {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
      {refusing && (
        <Field label="Why not, or when instead (they read it)">
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
      <div className="flex flex-wrap justify-end gap-2">
        {refusing ? (
          <>
            <Button disabled={busy} onClick={() => setRefusing(false)}>
              Not yet
            </Button>
            <Button tone="trouble" disabled={busy} onClick={() => decide(false)}>
              {busy ? 'Refusing…' : 'Refuse it'}
            </Button>
          </>
        ) : (
          <>
            <Button tone="trouble" disabled={busy} onClick={() => setRefusing(true)}>
              Refuse…
            </Button>
            <Button tone="primary" disabled={busy} onClick={() => decide(true)}>
              {busy ? 'Granting…' : dates.length > 1 ? `Grant all ${dates.length} dates` : 'Grant it'}
            </Button>
          </>
        )}
      </div>
    </li>
  )
}
