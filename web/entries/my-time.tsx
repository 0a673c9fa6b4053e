import type { BusySpan } from '@marmot/core/availability'
import {
  dayInWords,
  dayOf,
  HOUR,
  instantOf,
  minuteOf,
  offsetAt,
  offsetInWords,
  shortDay,
  toWall,
  wallOf,
  weekStart,
} from '@marmot/core/time'
import { useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { problemWords } from '../app/api.ts'
import { useKeys } from '../app/keys.tsx'
import { useMe, useNow } from '../app/session.tsx'
import { wallAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { Ribbon } from '../lanes/ribbon.tsx'
import { laneHeight, useRoom } from '../lanes/room.ts'
import type { BoardRow, Chosen } from '../lanes/types.ts'
import { useLens } from '../lanes/use-lens.ts'
import { takenFill } from '../openings/use-arranging.ts'
import { Button, Trouble } from '../ui/parts.tsx'
import { type OwnSpan, ownLane, ownSpan, useEntries } from './entries.ts'
import { type Editing, EntrySheet, useEntryWrites } from './entry-sheet.tsx'

const LONGEST_LENS = 14
const STEP = 15
const NEW_MINUTES = 30
const MOST_LANE = 76

/** The hours worth showing: a working day at least, and whatever stands outside it that is no whole day. */
const hoursShown = (
  spans: readonly BusySpan[],
  hours: readonly { from: number; to: number }[],
  minute: (at: number) => number,
) => {
  const short = spans.filter((span) => span.end - span.start < 16 * HOUR && span.state !== 'listed')
  const starts = [7 * 60, ...hours.map((part) => part.from), ...short.map((span) => minute(span.start))]
  const ends = [
    20 * 60,
    ...hours.map((part) => part.to),
    ...short.map((span) => minute(span.start) + (span.end - span.start) / 60_000),
  ]
  return {
    from: Math.floor(Math.min(...starts) / 60) * 60,
    to: Math.min(1440 + 480, Math.ceil(Math.max(...ends) / 60) * 60),
  }
}

const isOwn = (span: BusySpan): span is OwnSpan => 'occurrence' in span

/** How do my days look? A lane for each day; drag on empty time to make an entry, drag an entry to move it. */
export const MyTime = () => {
  const { zone, person } = useMe()
  const now = useNow()
  const view = useLens(
    (day) => ({ first: weekStart(day), days: 7 }),
    LONGEST_LENS,
    (shownDays, day) => ({ ...shownDays, first: shownDays.days < 7 ? day : weekStart(day) }),
  )
  const { today, lens, look, ribbonFirst, from, to } = view
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [editing, setEditing] = useState<Editing | null>(null)
  const [, setSearch] = useSearchParams()
  const writes = useEntryWrites()
  const { ref, room } = useRoom(64)
  const entries = useEntries(from, to)
  const spans = useMemo(() => (entries.data?.occurrences ?? []).flatMap(ownSpan), [entries.data])
  const hours = entries.data?.hours
  const lane = useMemo(() => ownLane(person.zone, hours, spans), [person.zone, hours, spans])
  const fill = useMemo(() => takenFill(lane, person.zone, ribbonFirst), [lane, person.zone, ribbonFirst])

  const shownSpans = useMemo(() => {
    const start = instantOf(zone, wallOf(lens.first))
    const end = instantOf(zone, wallOf(lens.first + lens.days))
    return spans.filter((span) => span.end > start && span.start < end)
  }, [spans, zone, lens])
  const shown = useMemo(
    () => hoursShown(shownSpans, hours ?? [], (at) => minuteOf(toWall(zone, at))),
    [shownSpans, hours, zone],
  )
  const rows = useMemo(
    () =>
      Array.from({ length: lens.days }, (_, i): BoardRow => {
        const day = lens.first + i
        const axis = wallAxis(zone, day, shown.from, shown.to)
        const inDay = spans.filter((span) => span.end > axis.from && span.start < axis.to)
        const full = inDay.filter((span) => span.state === 'busy' || span.state === 'away')
        const clashes = full.some((one) =>
          full.some((other) => other !== one && other.start < one.end && other.end > one.start),
        )
        return {
          id: String(day),
          name: dayInWords(day, today),
          time: lane,
          axis,
          today: day === today,
          label: (
            <div className="flex items-baseline gap-2 leading-tight max-md:py-0.5">
              <span
                className={`whitespace-nowrap text-[15px] ${day === today ? 'font-bold text-coral' : day < today ? 'text-soft' : 'font-semibold'}`}
              >
                {day === today ? `Today, ${shortDay(day)}` : shortDay(day)}
              </span>
              {clashes && (
                <span className="whitespace-nowrap font-semibold text-[13px] text-coral">⚠ clash</span>
              )}
            </div>
          ),
        }
      }),
    [lens, zone, shown.from, shown.to, spans, lane, today],
  )
  const axis = rows[0]?.axis ?? wallAxis(zone, today, 0, 1440)

  const open = (span: BusySpan) => {
    if (!isOwn(span)) return
    const { occurrence } = span
    setChosen(null)
    if (occurrence.meeting) setSearch({ meeting: occurrence.entryId })
    else setEditing({ start: span.start, end: span.end, occurrence })
  }
  const take = async (next: Chosen, moved: BusySpan | null) => {
    if (!moved || !isOwn(moved)) {
      setEditing({ start: next.start, end: next.end, occurrence: null })
      return
    }
    try {
      if (next.start !== moved.start || next.end !== moved.end)
        await writes.move(moved.occurrence, next.start, next.end)
    } catch (error) {
      toast.error(problemWords(error))
      await writes.refresh()
    }
    setChosen(null)
  }
  const step = (way: 1 | -1) => {
    const at = chosen?.start ?? now
    const ahead = spans
      .filter((span) => span.state !== 'listed' && (way === 1 ? span.start > at : span.start < at))
      .sort((a, b) => (a.start - b.start) * way)[0]
    if (!ahead) return
    const day = dayOf(toWall(zone, ahead.start))
    if (day < lens.first || day >= lens.first + lens.days)
      look({ ...lens, first: way === 1 ? day : day - lens.days + 1 })
    setChosen({ start: ahead.start, end: ahead.end, rowId: String(day) })
    requestAnimationFrame(() =>
      document.querySelector<HTMLElement>(`[data-row="${day}"] [role=gridcell]`)?.focus(),
    )
  }
  useKeys([
    { keys: 'n', does: 'Next entry', on: 'n', run: () => step(1) },
    { keys: 'p', does: 'Previous entry', on: 'p', run: () => step(-1) },
    { keys: 'c', does: 'Make an entry', on: 'c', run: () => setEditing(newHere()) },
    { keys: '← → ↑ ↓', does: 'Move the chosen time (in the lanes)' },
    { keys: 'Shift ← →', does: 'Move its end (in the lanes)' },
    { keys: 'Enter', does: 'Open the entry at the chosen time, or make one' },
  ])
  const newHere = (): Editing => {
    const start = chosen?.start ?? Math.ceil(now / (STEP * 60_000)) * STEP * 60_000
    return { start, end: chosen?.end ?? start + NEW_MINUTES * 60_000, occurrence: null }
  }
  return (
    <>
      <h1 className="sr-only">My time</h1>
      <Ribbon view={view} fill={fill} meaning="taken" />
      <div ref={ref} className="min-h-0 flex-1 overflow-y-auto overflow-x-hidden">
        <div className="flex items-center gap-3 px-4.5 py-2 max-md:px-2.5">
          <p className="min-w-0 flex-1 truncate text-soft text-sm">
            {entries.isPending ? (
              'Fetching your days…'
            ) : (
              <>
                <span className="max-md:hidden">
                  Drag on empty time to make an entry; drag an entry to move it, press it to open it.
                </span>
                <span className="md:hidden">Press a time to make an entry, an entry to open it.</span>
              </>
            )}
          </p>
          <Button onClick={() => setEditing(newHere())}>Make an entry</Button>
        </div>
        {entries.isError ? (
          <div className="px-4">
            <Trouble action={<Button onClick={() => entries.refetch()}>Try again</Button>}>
              {problemWords(entries.error)}
            </Trouble>
          </div>
        ) : (
          <div
            style={{ '--lane': `${laneHeight(room, lens.days, 1, MOST_LANE)}px` }}
            aria-busy={entries.isPending}
          >
            <Board
              label="My days"
              groups={[
                {
                  id: 'mine',
                  zone,
                  axis,
                  title: (
                    <>
                      <b>My days</b>{' '}
                      <span className="text-soft">{offsetInWords(offsetAt(zone, axis.from))}</span>
                    </>
                  ),
                  rows,
                },
              ]}
              home={zone}
              now={now}
              step={STEP}
              minutes={NEW_MINUTES}
              across="row"
              chosen={chosen}
              days={false}
              onChoose={setChosen}
              onTake={take}
              onOpen={open}
              mayMove={(span) => isOwn(span) && span.occurrence.mine && !span.occurrence.meeting}
            />
          </div>
        )}
      </div>
      {editing && (
        <EntrySheet
          editing={editing}
          onClose={() => {
            setEditing(null)
            setChosen(null)
          }}
        />
      )}
    </>
  )
}
