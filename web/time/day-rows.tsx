import type { DueTodo } from '@marmot/contract/todo'
import type { BusySpan, LaneTime } from '@marmot/core/availability'
import { clashesIn } from '@marmot/core/lanes'
import {
  civilOf,
  type Day,
  dayInWords,
  dayOf,
  HOUR,
  MONTHS,
  minuteOf,
  shortDay,
  toWall,
  weekdayOf,
  type ZoneTable,
} from '@marmot/core/time'
import { LayerLabel } from '../availability/beside-mine.tsx'
import type { KnownLayer } from '../availability/layers.ts'
import { daysAxis, wallAxis } from '../lanes/axis.ts'
import type { Lens } from '../lanes/lens.ts'
import type { BoardRow } from '../lanes/types.ts'
import { DueLabel } from '../todos/due-label.tsx'
import { isWeekend } from './view.ts'

/** The hours worth showing: those that were chosen, and whatever stands outside them that is no whole day. */
export const hoursShown = (
  spans: readonly BusySpan[],
  chosen: { shownFrom: number; shownTo: number },
  zone: ZoneTable,
) => {
  const minute = (at: number) => minuteOf(toWall(zone, at))
  const short = spans.filter((span) => span.end - span.start < 16 * HOUR && span.state !== 'listed')
  const starts = [chosen.shownFrom, ...short.map((span) => minute(span.start))]
  const ends = [chosen.shownTo, ...short.map((span) => minute(span.start) + (span.end - span.start) / 60_000)]
  return {
    from: Math.floor(Math.min(...starts) / 60) * 60,
    to: Math.min(1440 + 480, Math.ceil(Math.max(...ends) / 60) * 60),
  }
}

/** Spans by the day on which they can be seen, so that a lane of a day does not go through those of a year. */
const byDay = (spans: readonly BusySpan[], zone: ZoneTable): ((day: Day) => readonly BusySpan[]) => {
  const days = new Map<Day, BusySpan[]>()
  for (const span of spans) {
    const last = dayOf(toWall(zone, span.end - 1))
    // An hour past midnight may still be shown on the day before.
    for (let day = dayOf(toWall(zone, span.start)) - 1; day <= last; day++) {
      const list = days.get(day)
      if (list) list.push(span)
      else days.set(day, [span])
    }
  }
  return (day) => days.get(day) ?? []
}

interface Given {
  readonly lens: Lens
  readonly zone: ZoneTable
  readonly today: Day
  readonly lane: LaneTime
  readonly shown: { readonly from: number; readonly to: number }
  readonly layers: readonly KnownLayer[]
  readonly over: boolean
  /** What is due on a day. */
  readonly dueOn?: (day: Day) => readonly DueTodo[]
}

/** A lane for each day, with the others' lanes under it or laid over it. */
export const dayRows = ({ lens, zone, today, lane, shown, layers, over, dueOn }: Given): BoardRow[] => {
  const spansOn = byDay(lane.spans, zone)
  const dense = lens.days > 14
  return Array.from({ length: lens.days }, (_, i) => {
    const day = lens.first + i
    const axis = wallAxis(zone, day, shown.from, shown.to)
    const spans = spansOn(day).filter((span) => span.end > axis.from && span.start < axis.to)
    const clashes = clashesIn(spans).length > 0
    const due = dense ? [] : (dueOn?.(day) ?? [])
    const mine: BoardRow = {
      id: String(day),
      short: lens.days === 1 ? 'Me' : shortDay(day),
      name: dayInWords(day, today),
      time: { ...lane, spans },
      axis,
      today: day === today,
      low:
        !dense &&
        isWeekend(day) &&
        spans.length === 0 &&
        due.length === 0 &&
        !lane.hours.some((part) => part.weekday === weekdayOf(day)),
      ...(over ? { over: layers } : {}),
      label: (
        <>
          <div
            className={`flex items-baseline gap-2 md:justify-end ${dense ? 'leading-none' : 'leading-tight max-md:py-0.5'}`}
          >
            {clashes && (
              <span className="whitespace-nowrap font-semibold text-[13px] text-coral">⚠ clash</span>
            )}
            <span
              className={`whitespace-nowrap ${dense ? 'text-[13px]' : 'text-[15px]'} ${day === today ? 'font-bold' : day < today || isWeekend(day) ? 'text-soft' : 'font-semibold'}`}
            >
              {day === today ? `Today, ${shortDay(day)}` : shortDay(day)}
            </span>
          </div>
          {due.length > 0 && <DueLabel todos={due} />}
        </>
      ),
    }
    const theirs = over
      ? []
      : layers.map(
          (layer): BoardRow => ({
            id: `${day} ${layer.id}`,
            name: `${layer.name}, ${shortDay(day)}`,
            time: layer.time,
            axis,
            still: true,
            label: <LayerLabel layer={layer} />,
          }),
        )
    return [mine, ...theirs]
  }).flat()
}

/** A lane for each week, its seven days beside one another: how a year is drawn. */
export const weekRows = ({ lens, zone, today, lane, shown }: Given): BoardRow[] => {
  const spansOn = byDay(lane.spans, zone)
  return Array.from({ length: Math.ceil(lens.days / 7) }, (_, i) => {
    const first = lens.first + i * 7
    const days = Array.from({ length: 7 }, (_, j) => first + j)
    const month = days.find((day) => civilOf(day).date === 1)
    const named = i === 0 ? first : month
    return {
      id: `week ${first}`,
      name: `The week from ${dayInWords(first, today)}`,
      time: { ...lane, spans: [...new Set(days.flatMap((day) => spansOn(day)))] },
      axis: daysAxis(zone, first, 7, shown.from, shown.to),
      today: today >= first && today < first + 7,
      marks: days.map((day, j) => ({
        at: j / 7,
        width: 1 / 7,
        words: day === today ? `${civilOf(day).date} today` : String(civilOf(day).date),
        today: day === today,
        weekend: isWeekend(day),
      })),
      label: (
        <div className={`leading-tight ${named === undefined ? 'max-md:invisible max-md:h-0' : ''}`}>
          <span className={named === undefined ? 'text-[13px] text-soft' : 'font-semibold'}>
            {named === undefined
              ? shortDay(first)
              : `${MONTHS[civilOf(named).month - 1]} ${civilOf(named).year}`}
          </span>
        </div>
      ),
    }
  })
}
