import {
  changeEntry,
  createEntry,
  deleteEntry,
  type OccurrenceOnWire,
  restoreEntry,
} from '@marmot/contract/entries'
import { checkTime, isTimeProblem } from '@marmot/core/entries'
import {
  clockText,
  dayOf,
  type Instant,
  lengthInWords,
  minuteOf,
  minutesBetween,
  parseClock,
  parseDay,
  parseLength,
  shortDay,
  spanInWords,
  toWall,
  wallOf,
  wallText,
  zoneTable,
} from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { toast } from 'sonner'
import { call, problemCode, problemWords } from '../app/api.ts'
import { useMe, useNow } from '../app/session.tsx'
import { useUndo } from '../app/undo.tsx'
import { Button, Field, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'

type Shows = OccurrenceOnWire['shows']

/** What the sheet is opened on: a new span, or a date of mine. */
export type Editing = { readonly start: Instant; readonly end: Instant } & (
  | { readonly occurrence: OccurrenceOnWire }
  | { readonly occurrence: null }
)

const SHOWS: readonly { value: Shows; words: string }[] = [
  { value: 'busy', words: 'Busy' },
  { value: 'tentative', words: 'Tentative' },
  { value: 'held', words: 'Held' },
  { value: 'away', words: 'Away' },
  { value: 'listed', words: 'Listed, does not block' },
]

const bodyOf = (occurrence: OccurrenceOnWire, start: Instant, end: Instant, zone: string) => ({
  title: occurrence.title,
  place: occurrence.place,
  note: occurrence.note,
  shows: occurrence.shows,
  private: occurrence.private,
  recurrence: occurrence.recurrence,
  starts: wallText(toWall(zoneTable(zone), start)),
  minutes: minutesBetween(start, end),
  zone,
})

/** Makes, changes and deletes entries of mine, each with a way back. */
export const useEntryWrites = () => {
  const { person, zone, clock } = useMe()
  const queries = useQueryClient()
  const say = useUndo()
  const refresh = () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: ['entries'] }),
      queries.invalidateQueries({ queryKey: ['time'] }),
      queries.invalidateQueries({ queryKey: ['now'] }),
    ])
  const warn = (moved: boolean, start: string) => {
    if (moved)
      toast(
        `The clocks skip that time, so it starts at ${clockText(minuteOf(toWall(zone, Date.parse(start))))}.`,
        { duration: 9000 },
      )
  }

  const put = async (occurrence: OccurrenceOnWire, body: ReturnType<typeof bodyOf>, words: string) => {
    const params = { entryId: occurrence.entryId }
    const written = await call(changeEntry, { params, body: { ...body, version: occurrence.version } })
    warn(written.moved, written.start)
    say({
      words,
      undo: async () => {
        const before = bodyOf(
          occurrence,
          Date.parse(occurrence.start),
          Date.parse(occurrence.end),
          person.zone,
        )
        await call(changeEntry, { params, body: { ...before, version: written.version } })
        await refresh()
      },
    })
    await refresh()
  }

  const remove = async (occurrence: OccurrenceOnWire) => {
    const params = { entryId: occurrence.entryId }
    const { recurrence } = occurrence
    const { version } = await call(deleteEntry, {
      params,
      query: { recurrence, version: occurrence.version },
    })
    say({
      words: `Deleted: ${occurrence.title || 'an entry'}`,
      undo: async () => {
        await call(restoreEntry, { params, body: { recurrence, version } })
        await refresh()
      },
    })
    await refresh()
  }

  const make = async (body: Omit<ReturnType<typeof bodyOf>, 'recurrence'>, key: string) => {
    const written = await call(createEntry, { body, key })
    warn(written.moved, written.start)
    const made = { entryId: written.entryId }
    say({
      words: `Made: ${body.title || 'an entry'}`,
      undo: async () => {
        await call(deleteEntry, {
          params: made,
          query: { recurrence: body.starts, version: written.version },
        })
        await refresh()
      },
    })
    await refresh()
  }

  const move = (occurrence: OccurrenceOnWire, start: Instant, end: Instant) =>
    put(
      occurrence,
      bodyOf(occurrence, start, end, person.zone),
      `Moved ${occurrence.title} to ${spanInWords(start, end, zone, clock())}`,
    )

  return { put, remove, make, move, refresh }
}

interface Typed {
  title: string
  day: string
  from: string
  until: string
  place: string
  note: string
  shows: Shows
  private: boolean
}

/** Reads the typed day, start and end or length. The end may be a clock ("10:45") or a length ("45m"). */
const readTyped = (
  typed: Typed,
  today: number,
): { starts: string; minutes: number; errors: Partial<Record<'day' | 'from' | 'until', string>> } => {
  const day = parseDay(typed.day, today)
  const from = parseClock(typed.from)
  const clock = parseClock(typed.until)
  const length = /[hmd]/i.test(typed.until) ? parseLength(typed.until) : null
  const minutes =
    length ?? (clock === null || from === null ? null : clock > from ? clock - from : clock + 1440 - from)
  return {
    starts: wallText(wallOf(day ?? today, from ?? 0)),
    minutes: minutes ?? 0,
    errors: {
      ...(day === null ? { day: 'not a date: try 3 dec or next tue' } : {}),
      ...(from === null ? { from: 'not a time: try 10:45' } : {}),
      ...(minutes === null ? { until: 'not a time or length: try 11:30 or 45m' } : {}),
    },
  }
}

/** The sheet of an entry of mine: exact times by typing, and everything else about it. */
export const EntrySheet = ({ editing, onClose }: { editing: Editing; onClose: () => void }) => {
  const { person, zone } = useMe()
  const now = useNow()
  const writes = useEntryWrites()
  const { occurrence } = editing
  const wall = toWall(zone, editing.start)
  const length = minutesBetween(editing.start, editing.end)
  const longer = length >= 1440
  const [typed, setTyped] = useState<Typed>({
    title: occurrence?.title ?? '',
    day: shortDay(dayOf(wall)).slice(4),
    from: clockText(minuteOf(wall)),
    until: longer ? lengthInWords(length).replace(/ /g, '') : clockText(minuteOf(toWall(zone, editing.end))),
    place: occurrence?.place ?? '',
    note: occurrence?.note ?? '',
    shows: occurrence?.shows ?? 'busy',
    private: occurrence?.private ?? false,
  })
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [key] = useState(() => crypto.randomUUID())
  // A date without a year is the one nearest to the day that was opened.
  const read = readTyped(typed, dayOf(wall))
  const wrong = Object.keys(read.errors).length > 0
  const checked = wrong ? null : checkTime(read.starts, read.minutes, person.zone)
  const set = (part: Partial<Typed>) => setTyped((before) => ({ ...before, ...part }))
  const meeting = occurrence?.meeting ?? false
  const locked = occurrence !== null && (meeting || !occurrence.mine)

  const attempt = async (work: () => Promise<unknown>) => {
    setBusy(true)
    setTrouble(null)
    try {
      await work()
      onClose()
    } catch (error) {
      setTrouble(problemWords(error))
      if (problemCode(error) === 'stale') await writes.refresh()
      setBusy(false)
    }
  }
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (!checked || isTimeProblem(checked)) return
    const { title, place, note, shows } = typed
    const body = {
      title,
      place,
      note,
      shows,
      private: typed.private,
      starts: read.starts,
      minutes: read.minutes,
      zone: person.zone,
    }
    attempt(() =>
      occurrence
        ? writes.put(
            occurrence,
            { ...body, recurrence: occurrence.recurrence },
            `Changed: ${title || 'an entry'}`,
          )
        : writes.make(body, key),
    )
  }
  const words = checked
    ? isTimeProblem(checked)
      ? `⚠ ${checked.message}`
      : `${spanInWords(checked.start, checked.end, zone, now)} · ${lengthInWords(minutesBetween(checked.start, checked.end))}`
    : ''
  return (
    <Sheet open onClose={onClose} title={occurrence ? occurrence.title || 'An entry' : 'A new entry'}>
      <form className="flex flex-col gap-3" onSubmit={submit}>
        <Field label="Title">
          {(props) => (
            <input
              {...props}
              data-first
              value={typed.title}
              maxLength={200}
              disabled={locked}
              onChange={(event) => set({ title: event.target.value })}
            />
          )}
        </Field>
        <div className="grid grid-cols-3 gap-2">
          <Field label="Day" error={read.errors.day}>
            {(props) => (
              <input
                {...props}
                value={typed.day}
                disabled={locked}
                onChange={(event) => set({ day: event.target.value })}
              />
            )}
          </Field>
          <Field label="From" error={read.errors.from}>
            {(props) => (
              <input
                {...props}
                value={typed.from}
                disabled={locked}
                onChange={(event) => set({ from: event.target.value })}
              />
            )}
          </Field>
          <Field label="Until, or length" error={read.errors.until}>
            {(props) => (
              <input
                {...props}
                value={typed.until}
                disabled={locked}
                onChange={(event) => set({ until: event.target.value })}
              />
            )}
          </Field>
        </div>
        <p
          role="status"
          className={`min-h-5 text-sm ${checked && isTimeProblem(checked) ? 'text-coral' : 'font-semibold'}`}
        >
          {words}
        </p>
        {checked && !isTimeProblem(checked) && checked.fit === 'gap' && (
          <p className="text-sm">
            ⚠ The clocks skip {typed.from} that day, so it starts at{' '}
            {clockText(minuteOf(toWall(zone, checked.start)))}.
          </p>
        )}
        {occurrence?.repeats && (
          <p className="text-soft text-sm">This repeats. What you change here is this date only.</p>
        )}
        <Field label="Where">
          {(props) => (
            <input
              {...props}
              value={typed.place}
              maxLength={200}
              disabled={locked}
              onChange={(event) => set({ place: event.target.value })}
            />
          )}
        </Field>
        <Field label="Shows as">
          {(props) => (
            <select
              {...props}
              value={typed.shows}
              disabled={locked}
              onChange={(event) => {
                const chosen = SHOWS.find((each) => each.value === event.target.value)
                if (chosen) set({ shows: chosen.value })
              }}
            >
              {SHOWS.map((each) => (
                <option key={each.value} value={each.value}>
                  {each.words}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Notes">
          {(props) => (
            <textarea
              {...props}
              rows={3}
              value={typed.note}
              maxLength={10_000}
              disabled={locked}
              onChange={(event) => set({ note: event.target.value })}
            />
          )}
        </Field>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={typed.private}
            disabled={locked}
            onChange={(event) => set({ private: event.target.checked })}
          />
          Private: others see only a busy time
        </label>
        {trouble && <Trouble>{trouble}</Trouble>}
        <div className="flex gap-2">
          {occurrence && !locked && (
            <Button tone="trouble" disabled={busy} onClick={() => attempt(() => writes.remove(occurrence))}>
              Delete
            </Button>
          )}
          <span className="flex-1" />
          <Button onClick={onClose}>Close</Button>
          {!locked && (
            <Button type="submit" tone="primary" disabled={busy || !checked || isTimeProblem(checked)}>
              {busy ? 'Keeping…' : occurrence ? 'Keep the change' : 'Make the entry'}
            </Button>
          )}
        </div>
      </form>
    </Sheet>
  )
}
