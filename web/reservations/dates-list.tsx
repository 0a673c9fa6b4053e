import type { SeenDate } from '@marmot/contract/reservations'
import { clockText, type Instant, minuteOf, toWall, type ZoneTable } from '@marmot/core/time'
import { Check, TriangleAlert } from 'lucide-react'
import { Suspense, useState } from 'react'
import { part } from '../platform/part.tsx'
import { Button, counted } from '../ui/parts.tsx'
import { dayOfDate, repairInWords } from './reserving.ts'
import type { InHand } from './use-reserving.ts'

const MakeRoom = part(() => import('../exchanges/make-room.tsx').then((m) => m.MakeRoom))

const FEW = 6

/** What is in the way of one date, and what else there is. */
const Clash = ({
  hand,
  date,
  nameOf,
  clockOf,
  zone,
  onAsked,
}: {
  hand: InHand
  date: SeenDate
  nameOf: (placeId: string) => string
  clockOf: (at: Instant) => string
  zone: ZoneTable
  onAsked: () => void
}) => {
  const day = dayOfDate(date, zone)
  const first = date.clashes.find((one) => one.taken)
  return (
    <li className="flex flex-col gap-1.5 rounded-md border border-coral/60 px-2.5 py-2">
      <p>
        <TriangleAlert size={14} className="mr-1 mb-0.5 inline text-coral" aria-hidden />
        {hand.repetition && <b className="font-semibold">{day}: </b>}
        {date.clashes.map((one) => one.words).join(' ')}
      </p>
      <div className="flex flex-wrap gap-1.5">
        {date.repairs.map((repair) => (
          <Button key={repair.starts + repair.places.join()} onClick={() => hand.repair(date, repair)}>
            {repairInWords(date, repair, nameOf, clockOf)}
          </Button>
        ))}
        {hand.repetition && (
          <Button aria-label={`Leave out ${day}`} onClick={() => hand.leaveOut(date)}>
            Leave it out
          </Button>
        )}
        {!hand.repetition && date.repairs.length === 0 && (
          <span className="text-soft">Nothing like it is free that day.</span>
        )}
      </div>
      {!hand.repetition && hand.body && first && (
        <Suspense>
          <MakeRoom
            key={first.placeId}
            wish={{ ...hand.body, title: hand.words.title.trim() }}
            placeIds={[first.placeId]}
            onAsked={onAsked}
          />
        </Suspense>
      )}
    </li>
  )
}

/** All dates of what is reserved, each as it would be: what is in the way first, then the run as a whole. */
export const DatesList = ({
  hand,
  nameOf,
  zone,
  onAsked,
}: {
  hand: InHand
  nameOf: (placeId: string) => string
  zone: ZoneTable
  /** Once others are asked to make room: there is nothing more to do here. */
  onAsked: () => void
}) => {
  const [all, setAll] = useState(false)
  const { dates, clashing, repairs, repetition } = hand
  const clockOf = (at: Instant) => clockText(minuteOf(toWall(zone, at)))
  const byPlace = clashing.filter((date) => date.repairs.length > 0)
  const shown = all ? dates : dates.slice(0, FEW)
  return (
    <div
      className="flex flex-col gap-2"
      aria-busy={hand.looking}
      data-clashes={clashing.length > 0 || undefined}
    >
      {repetition && dates.length > 0 && (
        <p role="status">
          <b className="font-semibold">{counted(dates.length, 'date', 'dates')}</b>
          {clashing.length > 0 ? (
            <span className="font-semibold text-coral">
              , {clashing.length} {clashing.length === 1 ? 'clashes' : 'clash'}
            </span>
          ) : (
            ', all free'
          )}
        </p>
      )}
      {clashing.length > 0 && (
        <ul className="flex flex-col gap-2">
          {clashing.map((date) => (
            <Clash
              key={date.recurrence}
              hand={hand}
              date={date}
              nameOf={nameOf}
              clockOf={clockOf}
              zone={zone}
              onAsked={onAsked}
            />
          ))}
        </ul>
      )}
      {repetition && byPlace.length > 1 && (
        <Button
          className="self-start"
          onClick={() => {
            for (const date of byPlace) if (date.repairs[0]) hand.repair(date, date.repairs[0])
          }}
        >
          Use the first suggestion for all {byPlace.length}
        </Button>
      )}
      {repetition && (
        <ul className="flex flex-col text-sm">
          {shown.map((date) => {
            const repaired = repairs[date.recurrence]
            const clashes = date.clashes.length > 0
            return (
              <li key={date.recurrence} className="flex items-center gap-2 border-line border-t py-1">
                {clashes ? (
                  <TriangleAlert size={14} className="text-coral" aria-label="clashes" />
                ) : (
                  <Check size={14} aria-label="free" />
                )}
                <span className="flex-1">
                  {dayOfDate(date, zone)}, {clockOf(Date.parse(date.start))} to{' '}
                  {clockOf(Date.parse(date.end))}
                  {repaired && <span className="text-soft"> {date.places.map(nameOf).join(', ')}</span>}
                </span>
                {repaired && (
                  <button
                    type="button"
                    className="underline underline-offset-2 max-md:min-h-thumb"
                    aria-label={`As it was on ${dayOfDate(date, zone)}`}
                    onClick={() => hand.asItWas(date.recurrence)}
                  >
                    as it was
                  </button>
                )}
              </li>
            )
          })}
        </ul>
      )}
      {repetition && dates.length > FEW && (
        <button
          type="button"
          className="self-start underline underline-offset-2"
          onClick={() => setAll(!all)}
        >
          {all ? 'Fewer' : `All ${dates.length} dates`}
        </button>
      )}
    </div>
  )
}
