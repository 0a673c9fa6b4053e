import {
  type Day,
  dayInWords,
  dayOf,
  type Instant,
  minuteOf,
  toWall,
  type ZoneTable,
} from '@marmot/core/time'
import type { ReactNode } from 'react'
import { counted } from '../ui/parts.tsx'
import './visits.css'

/** A day with the times that are offered on it. */
export interface OfferedDay {
  readonly day: Day
  readonly starts: readonly Instant[]
}

/** Times by their day, in a zone. */
export const daysOf = (starts: readonly Instant[], zone: ZoneTable): OfferedDay[] => {
  const days = new Map<Day, Instant[]>()
  for (const start of starts) {
    const day = dayOf(toWall(zone, start))
    const list = days.get(day)
    if (list) list.push(start)
    else days.set(day, [start])
  }
  return [...days].map(([day, list]) => ({ day, starts: list }))
}

interface Part {
  readonly from: number
  readonly to: number
}

/** What is open of a day, as parts of it from 0 to 1: times that follow one another are one. */
const openParts = (starts: readonly Instant[], lengthMs: number, zone: ZoneTable, hours: Part): Part[] => {
  const at = (instant: Instant, after: boolean) => {
    const minute = minuteOf(toWall(zone, instant))
    const wide = (after && minute === 0 ? 1440 : minute) - hours.from
    return Math.max(0, Math.min(1, wide / (hours.to - hours.from)))
  }
  const parts: { start: Instant; end: Instant }[] = []
  for (const start of starts) {
    const last = parts.at(-1)
    if (last && start <= last.end) last.end = Math.max(last.end, start + lengthMs)
    else parts.push({ start, end: start + lengthMs })
  }
  return parts.map(({ start, end }) => ({ from: at(start, false), to: at(end, true) }))
}

/** The hours that all of the times lie in, in minutes since midnight. */
const hoursAround = (days: readonly OfferedDay[], lengthMs: number, zone: ZoneTable): Part => {
  const minutes = days.flatMap(({ starts }) => {
    const [first, last] = [starts[0], starts.at(-1)]
    return first === undefined || last === undefined
      ? []
      : [minuteOf(toWall(zone, first)), minuteOf(toWall(zone, last)) + lengthMs / 60_000]
  })
  return { from: Math.max(0, Math.min(...minutes) - 30), to: Math.min(1440, Math.max(...minutes) + 30) }
}

/** The days with free times, each with a line that shows where in it they lie; one is open. */
export const DayList = ({
  days,
  length,
  zone,
  today,
  open,
  onOpen,
  below,
}: {
  days: readonly OfferedDay[]
  /** In minutes. */
  length: number
  zone: ZoneTable
  today: Day
  open: Day | null
  onOpen: (day: Day) => void
  /** What unfolds below the open day, on a narrow screen. */
  below?: ReactNode
}) => {
  const hours = hoursAround(days, length * 60_000, zone)
  return (
    <ul aria-label="Days with free times" className="flex flex-col gap-1">
      {days.map(({ day, starts }) => (
        <li key={day}>
          <button
            type="button"
            aria-expanded={day === open}
            onClick={() => onOpen(day)}
            className={`grid min-h-thumb w-full grid-cols-[minmax(0,1fr)_minmax(90px,38%)] items-center gap-3 rounded-lg border-2 bg-paper px-3 py-1.5 text-left hover:bg-shade ${day === open ? 'border-gentian' : 'border-transparent'}`}
          >
            <span className="min-w-0">
              <span className={`block truncate ${day === open ? 'font-semibold' : ''}`}>
                {dayInWords(day, today)}
              </span>
              <span className="text-soft text-sm">{counted(starts.length, 'time', 'times')}</span>
            </span>
            <span className="day-line" aria-hidden>
              {openParts(starts, length * 60_000, zone, hours).map((part) => (
                <i
                  key={part.from}
                  style={{
                    left: `${part.from * 100}%`,
                    width: `${Math.max(1.5, (part.to - part.from) * 100)}%`,
                  }}
                />
              ))}
            </span>
          </button>
          {day === open && below && <div className="px-1 pt-2 pb-3">{below}</div>}
        </li>
      ))}
    </ul>
  )
}
