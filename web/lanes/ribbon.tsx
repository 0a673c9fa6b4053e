import {
  civilOf,
  dayInWords,
  MONTHS,
  parseDay,
  shortDay,
  WEEKDAYS,
  weekdayOf,
  weekStart,
} from '@marmot/core/time'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react'
import { useNarrow } from '../ui/use-narrow.ts'
import './ribbon.css'
import { type Lens, MONTHS_LENS, RIBBON_DAYS } from './lens.ts'
import type { View } from './use-lens.ts'

const lensWords = (lens: Lens): string => {
  const last = lens.first + lens.days - 1
  if (lens.days === 1) return shortDay(lens.first)
  if (lens.days > MONTHS_LENS) {
    const month = (day: number) =>
      `${(MONTHS[civilOf(day).month - 1] ?? '').slice(0, 3)} ${civilOf(day).year}`
    return `${month(lens.first)} to ${month(last)}`
  }
  return `${shortDay(lens.first)} to ${shortDay(last)}`
}

/** The days of a lens with their year, for paper, which is read later. */
export const daysInWords = (lens: Lens): string =>
  lens.days > MONTHS_LENS ? lensWords(lens) : `${lensWords(lens)} ${civilOf(lens.first + lens.days - 1).year}`

/** One typed date, to go to. */
const GoTo = ({ view }: { view: View }) => {
  const { today, lens, look } = view
  const [typed, setTyped] = useState('')
  const [unclear, setUnclear] = useState(false)
  const jump = () => {
    const day = parseDay(typed, today)
    setUnclear(day === null)
    if (day === null) return
    look({ ...lens, first: day })
    setTyped('')
  }
  return (
    <form
      className="flex gap-1"
      onSubmit={(event) => {
        event.preventDefault()
        jump()
      }}
    >
      <input
        aria-label="Go to a date"
        aria-invalid={unclear || undefined}
        placeholder={unclear ? 'Not a date: try 3 dec' : 'Go to: 3 dec, next tue'}
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value)
          setUnclear(false)
        }}
        className={`w-full min-w-0 rounded border bg-paper px-1.5 text-[13px] max-md:min-h-thumb ${unclear ? 'border-coral text-coral' : 'border-line'}`}
      />
    </form>
  )
}

/** On a narrow screen: the seven days of a week, each as large as a thumb; the arrows go by week. */
const WeekStrip = ({
  view,
  fill,
  meaning,
}: {
  view: View
  fill: Float32Array
  meaning: 'open' | 'taken'
}) => {
  const { ribbonFirst, today, lens, firstWeekday, look } = view
  const week = weekStart(lens.first, firstWeekday)
  const step = 'grid h-11 w-9 shrink-0 place-items-center rounded'
  return (
    <div className="ribbon-week">
      <button
        type="button"
        className={step}
        aria-label="The week before"
        onClick={() => look({ ...lens, first: lens.first - 7 })}
      >
        <ChevronLeft size={18} aria-hidden />
      </button>
      {Array.from({ length: 7 }, (_, i) => {
        const day = week + i
        const share = fill[day - ribbonFirst] ?? 0
        const shown = day >= lens.first && day < lens.first + lens.days
        return (
          <button
            key={day}
            type="button"
            aria-label={`${dayInWords(day, today)}, ${Math.round(share * 100)}% ${meaning}`}
            aria-current={shown ? 'date' : undefined}
            data-today={day === today || undefined}
            data-weekend={weekdayOf(day) > 5 || undefined}
            className="ribbon-thumb"
            onClick={() => look({ first: day, days: lens.days > 2 ? 1 : lens.days })}
          >
            <small>{WEEKDAYS[weekdayOf(day) - 1]?.slice(0, 2)}</small>
            <b>{civilOf(day).date}</b>
            <i data-meaning={meaning} style={{ height: `${Math.round(share * 100)}%` }} />
          </button>
        )
      })}
      <button
        type="button"
        className={step}
        aria-label="The week after"
        onClick={() => look({ ...lens, first: lens.first + 7 })}
      >
        <ChevronRight size={18} aria-hidden />
      </button>
    </div>
  )
}

/** Seven weeks, a column a day; the fill is how much of the day is open (or full), the lens what the lanes show. */
export const Ribbon = ({
  view,
  fill,
  meaning,
}: {
  view: View
  fill: Float32Array
  /** What the fill means, for the label: "open" for everyone, or "taken". */
  meaning: 'open' | 'taken'
}) => {
  const { ribbonFirst: start, today, lens, longest, firstWeekday, look: onLens } = view
  const strip = useRef<HTMLDivElement>(null)
  const drag = useRef<{ part: string; grip: number; lens: Lens } | null>(null)
  const narrow = useNarrow()
  const days = fill.length
  const dense = days > RIBBON_DAYS
  const dayAt = (x: number): number => {
    const box = strip.current?.getBoundingClientRect()
    return box ? Math.floor(((x - box.left) / box.width) * days) : 0
  }
  const press = (event: PointerEvent) => {
    if (!(event.target instanceof HTMLElement)) return
    const at = dayAt(event.clientX)
    const part = event.target.closest<HTMLElement>('[data-lens]')?.dataset.lens ?? 'jump'
    if (part === 'jump') {
      const first = start + Math.max(0, Math.min(days - lens.days, at))
      onLens({ ...lens, first })
      drag.current = { part: 'move', grip: 0, lens: { ...lens, first } }
    } else drag.current = { part, grip: start + at - lens.first, lens }
    strip.current?.setPointerCapture(event.pointerId)
  }
  const follow = (event: PointerEvent) => {
    const held = drag.current
    if (!held) return
    const at = start + Math.max(0, Math.min(days - 1, dayAt(event.clientX)))
    const last = held.lens.first + held.lens.days - 1
    if (held.part === 'move') {
      const first = Math.max(start, Math.min(start + days - held.lens.days, at - held.grip))
      if (first !== lens.first) onLens({ ...held.lens, first })
    } else if (held.part === 'end') {
      onLens({ first: held.lens.first, days: Math.max(1, Math.min(longest, at - held.lens.first + 1)) })
    } else {
      const first = Math.min(last, Math.max(at, last - longest + 1))
      onLens({ first, days: last - first + 1 })
    }
  }
  const keys = (event: KeyboardEvent) => {
    const by =
      event.key === 'ArrowLeft'
        ? -1
        : event.key === 'ArrowRight'
          ? 1
          : event.key === 'PageUp'
            ? -7
            : event.key === 'PageDown'
              ? 7
              : 0
    if (!by) return
    event.preventDefault()
    event.stopPropagation()
    onLens(
      event.shiftKey
        ? { ...lens, days: Math.max(1, Math.min(longest, lens.days + by)) }
        : { ...lens, first: lens.first + by },
    )
  }
  const left = Math.max(0, lens.first - start)
  const right = Math.min(days, lens.first + lens.days - start)
  return (
    <div className="ribbon">
      <div className="ribbon-label">
        <div className="flex items-center gap-1">
          <button
            type="button"
            className="grid size-6 place-items-center rounded hover:bg-paper max-md:hidden"
            aria-label="Earlier"
            onClick={() => onLens({ ...lens, first: lens.first - lens.days })}
          >
            <ChevronLeft size={16} aria-hidden />
          </button>
          <b className="whitespace-nowrap text-sm" title={dayInWords(lens.first, today)}>
            {lensWords(lens)}
          </b>
          <button
            type="button"
            className="grid size-6 place-items-center rounded hover:bg-paper max-md:hidden"
            aria-label="Later"
            onClick={() => onLens({ ...lens, first: lens.first + lens.days })}
          >
            <ChevronRight size={16} aria-hidden />
          </button>
        </div>
        <GoTo view={view} />
      </div>
      {narrow && !dense ? (
        <WeekStrip view={view} fill={fill} meaning={meaning} />
      ) : (
        <div
          ref={strip}
          className="ribbon-strip"
          data-dense={dense || undefined}
          onPointerDown={press}
          onPointerMove={follow}
          onPointerUp={() => (drag.current = null)}
          onPointerCancel={() => (drag.current = null)}
        >
          {Array.from(fill, (share, i) => {
            const day = start + i
            const { date, month } = civilOf(day)
            // On the ribbon of a year only the months are named.
            const named = dense ? date === 1 : weekdayOf(day) === firstWeekday || i === 0
            return (
              <div
                key={day}
                className="ribbon-day"
                data-weekend={weekdayOf(day) > 5 || undefined}
                data-today={day === today || undefined}
                data-past={day < today || undefined}
              >
                <div
                  className="ribbon-cell"
                  title={`${WEEKDAYS[weekdayOf(day) - 1]} ${date} ${MONTHS[month - 1]}: ${Math.round(share * 100)}% ${meaning}`}
                >
                  <i data-meaning={meaning} style={{ height: `${Math.round(share * 100)}%` }} />
                </div>
                <span data-named={named || undefined}>{dense ? '\u00a0' : date}</span>
                {named && <em>{MONTHS[month - 1]?.slice(0, 3)}</em>}
              </div>
            )
          })}
          {right > left && (
            <div
              role="slider"
              tabIndex={0}
              aria-label="Days shown"
              aria-valuemin={0}
              aria-valuemax={days - 1}
              aria-valuenow={Math.max(0, Math.min(days - 1, lens.first - start))}
              aria-valuetext={
                lens.days === 1
                  ? dayInWords(lens.first, today)
                  : `${dayInWords(lens.first, today)} to ${dayInWords(lens.first + lens.days - 1, today)}`
              }
              className="lens"
              data-lens="move"
              onKeyDown={keys}
              style={{ left: `${(left / days) * 100}%`, width: `${((right - left) / days) * 100}%` }}
            >
              <i data-lens="start" className="lens-edge" style={{ left: -4 }} />
              <i data-lens="end" className="lens-edge" style={{ right: -4 }} />
            </div>
          )}
        </div>
      )}
    </div>
  )
}
