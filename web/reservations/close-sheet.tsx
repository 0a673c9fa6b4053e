import { closePlace, type Hit, lookAtClosure } from '@marmot/contract/closures'
import type { Repetition } from '@marmot/contract/entries'
import { reservationsEvent } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import { spanInWords, wallFromText, zoneTable } from '@marmot/core/time'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { RepeatField } from '../entries/repeat-field.tsx'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { useRested } from '../platform/rested.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useKeyOf } from '../platform/use-attempt.ts'
import type { PlaceLane } from '../resources/resources.ts'
import { Beside } from '../ui/beside.tsx'
import { namesInWords } from '../ui/names.ts'
import { Button, counted, Field, Loading, Trouble } from '../ui/parts.tsx'
import { runOf } from './reserving.ts'
import { useTypedSpan } from './use-typed-span.ts'
import { WhenFields } from './when-fields.tsx'

/** What a reservation does that the closure hits: goes to another place by its id, or is given up. */
type Decisions = Readonly<Record<string, string | null>>

/** One reservation that is hit: whose, what for, when; moved to its like in one press, or told why not. */
const HitRow = ({
  hit,
  chosen,
  onChoose,
}: {
  hit: Hit
  /** Undefined while nothing is chosen. */
  chosen: string | null | undefined
  onChoose: (to: string | null) => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const [first, ...others] = hit.likes
  const to = hit.likes.find((one) => one.id === chosen)
  return (
    <li className="flex flex-col gap-1.5 rounded-md border border-line px-2.5 py-2" aria-label={hit.by}>
      <p>
        <b className="font-semibold">{hit.by}</b>,{' '}
        {spanInWords(Date.parse(hit.start), Date.parse(hit.end), zone, now)}
        <span className="block text-soft text-sm">
          {[
            hit.meeting ? 'a meeting' : 'a reservation',
            hit.purpose ? `for ${hit.purpose}` : '',
            hit.headCount ? counted(hit.headCount, 'person', 'people') : '',
          ]
            .filter(Boolean)
            .join(', ')}
        </span>
      </p>
      <div className="flex flex-wrap items-center gap-1.5">
        {first && (
          <Button aria-pressed={chosen === first.id} onClick={() => onChoose(first.id)} className={CHOSEN}>
            {first.name} instead{first.lacks.length > 0 && `, without ${namesInWords(first.lacks)}`}
          </Button>
        )}
        {others.length > 0 && (
          <select
            aria-label={`Another place for ${hit.by}`}
            value={to && to !== first ? to.id : ''}
            onChange={(event) => event.target.value && onChoose(event.target.value)}
            className="max-w-32 rounded-md border border-soft/50 bg-paper px-2 py-1"
          >
            <option value="">another…</option>
            {others.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}, {one.seats} seats{one.lacks.length > 0 && `, without ${namesInWords(one.lacks)}`}
              </option>
            ))}
          </select>
        )}
        {!first && <span className="text-soft text-sm">Nothing like it is free then.</span>}
        <Button aria-pressed={chosen === null} onClick={() => onChoose(null)} className={CHOSEN}>
          Give it up
        </Button>
      </div>
    </li>
  )
}
const CHOSEN = 'aria-pressed:border-gentian aria-pressed:bg-gentian/12 aria-pressed:font-semibold'

/** Closes a place for a time: why, and where each reservation goes that it hits. */
export const CloseSheet = ({
  place,
  start,
  onClose,
}: {
  place: PlaceLane
  /** From when, at first. */
  start: Span
  onClose: () => void
}) => {
  const queries = useQueryClient()
  const [span, setSpan] = useState(start)
  const when = useTypedSpan(span, setSpan)
  const [reason, setReason] = useState('')
  const [repetition, setRepetition] = useState<Repetition | null>(null)
  const [decisions, setDecisions] = useState<Decisions>({})
  const [busy, setBusy] = useState(false)
  const [failed, setFailed] = useState<{ readonly of: string; readonly error: unknown } | null>(null)
  const keyOf = useKeyOf()
  const { starts, minutes, zone, allDay, fine, over } = when
  const { places: _, ...time } = runOf({ starts, minutes, zone, allDay }, [], repetition, {})
  const asked = JSON.stringify(fine && !over ? time : null)
  const rested = useRested(asked)
  const params = { resourceId: place.id }
  const look = useQuery({
    queryKey: ['reservations', 'closure', place.id, rested],
    queryFn: () => call(lookAtClosure, { params, body: JSON.parse(rested) }),
    enabled: rested !== 'null',
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
    meta: { heeds: [heed(reservationsEvent)] },
  })
  const hits = look.data?.hits ?? []
  const open = hits.filter((hit) => decisions[hit.reservationId] === undefined)
  const moved = hits.filter((hit) => decisions[hit.reservationId]).length
  const given = hits.length - open.length - moved
  const looking = asked !== rested || look.isPending || look.isPlaceholderData
  const body = {
    ...time,
    reason,
    moves: hits.map(({ reservationId }) => ({ reservationId, to: decisions[reservationId] ?? null })),
  }
  const text = JSON.stringify(body)
  const ready = fine && !over && reason.trim() !== '' && open.length === 0 && !looking && !look.error && !busy
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (!ready) return
    setBusy(true)
    try {
      await call(closePlace, { params, body, key: keyOf(text) })
      const told = hits.length ? ` ${counted(hits.length, 'person is', 'people are')} told.` : ''
      toast(`${place.name} is closed: ${reason.trim()}.${told}`)
      void queries.invalidateQueries()
      onClose()
    } catch (error) {
      setFailed({ of: text, error })
      setBusy(false)
      void look.refetch()
    }
  }
  const trouble = failed?.of === text ? failed.error : look.error
  const words =
    open.length > 0
      ? `Say where ${open.length === 1 ? 'one reservation goes' : `${open.length} reservations go`}`
      : reason.trim() === ''
        ? 'Say why it is closed'
        : `Close ${place.name}${moved ? `, move ${moved}` : ''}${given ? `, give up ${given}` : ''}`
  return (
    <Beside
      title={`Close ${place.name}`}
      onClose={onClose}
      foot={
        <form className="flex flex-col gap-2" onSubmit={submit}>
          {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
          <Button type="submit" tone="primary" className="w-full" disabled={!ready}>
            {busy ? 'Closing…' : words}
          </Button>
        </form>
      }
    >
      <div className="flex flex-col gap-3">
        <WhenFields when={when} />
        <Field label="Why, for everybody to read">
          {(props) => (
            <input
              {...props}
              data-first
              value={reason}
              maxLength={200}
              placeholder="in repair: the ceiling leaks"
              onChange={(event) => setReason(event.target.value)}
            />
          )}
        </Field>
        <RepeatField
          starts={wallFromText(starts) ?? 0}
          table={zoneTable(zone)}
          value={repetition}
          locked={false}
          onChange={setRepetition}
        />
        <section aria-label="What it hits" aria-busy={looking} className="flex flex-col gap-2">
          <h3 className="font-semibold">
            {look.data
              ? hits.length
                ? `It hits ${counted(hits.length, 'reservation', 'reservations')}`
                : 'It hits nothing'
              : ''}
          </h3>
          {look.isPending && rested !== 'null' && <Loading what="what it hits" />}
          <ul className="flex flex-col gap-2">
            {hits.map((hit) => (
              <HitRow
                key={hit.reservationId}
                hit={hit}
                chosen={decisions[hit.reservationId]}
                onChoose={(to) => setDecisions((before) => ({ ...before, [hit.reservationId]: to }))}
              />
            ))}
          </ul>
        </section>
      </div>
    </Beside>
  )
}
