import { type EntryOnWire, entry as entrySchema, keepMine, type Repetition } from '@marmot/contract/entries'
import { answerMeeting } from '@marmot/contract/meetings'
import { checkTime, isTimeProblem, type Scope } from '@marmot/core/entries'
import {
  clockText,
  dayOf,
  type Instant,
  lengthInWords,
  minuteOf,
  minutesBetween,
  spanInWords,
  toWall,
  wallFromText,
  zoneTable,
} from '@marmot/core/time'
import { type FormEvent, lazy, Suspense, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { AnswerForm } from '../answers/answer-form.tsx'
import { call, problemCode, problemMore, problemWords } from '../platform/api.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Field, flower, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { useCategories, useEntry } from './entries.ts'
import { attachFiles, Files } from './files.tsx'
import { Merge } from './merge.tsx'
import { RepeatField } from './repeat-field.tsx'
import { impactOf, ScopeField } from './scope-field.tsx'
import { readTyped, type Typed, typedTime } from './typed.ts'
import { useEntryWrites } from './writes.ts'
import { ZoneField } from './zone-field.tsx'

const NoteField = lazy(() => import('./note-field.tsx').then((m) => ({ default: m.NoteField })))

/** What the sheet is opened on: a new span, or a date of an entry. */
export type Editing = { readonly start: Instant; readonly end: Instant } & (
  | { readonly date: { readonly entryId: string; readonly recurrence: string } }
  | {
      readonly date: null
      /** What a line of text said already. */
      readonly said?: Partial<Pick<Typed, 'title' | 'place' | 'allDay'>> & { rule?: string | null }
    }
)

const SHOWS: readonly { value: Typed['shows']; words: string }[] = [
  { value: 'busy', words: 'Busy' },
  { value: 'tentative', words: 'Tentative' },
  { value: 'held', words: 'Held' },
  { value: 'away', words: 'Away' },
  { value: 'listed', words: 'Listed, does not block' },
]

const REMINDERS: readonly { value: number; words: string }[] = [
  { value: 0, words: 'when it begins' },
  { value: 5, words: '5 minutes before' },
  { value: 10, words: '10 minutes before' },
  { value: 30, words: 'half an hour before' },
  { value: 60, words: 'an hour before' },
  { value: 1440, words: 'a day before' },
  { value: 10_080, words: 'a week before' },
]

/** Several reminders, none, or as usual. */
export const RemindersField = ({
  value,
  usual,
  onChange,
}: {
  value: readonly number[] | null
  usual: boolean
  onChange: (value: number[] | null) => void
}) => (
  <div className="flex flex-col gap-1">
    <span className="text-soft text-sm">Reminders</span>
    <div className="flex flex-wrap gap-x-3 text-sm [&>label]:min-h-[26px]">
      {usual && (
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={value === null}
            onChange={(event) => onChange(event.target.checked ? null : [])}
          />
          as usual
        </label>
      )}
      {value !== null &&
        REMINDERS.map((each) => (
          <label key={each.value} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={value.includes(each.value)}
              onChange={(event) =>
                onChange(
                  event.target.checked
                    ? [...value, each.value].sort((a, b) => a - b).slice(0, 5)
                    : value.filter((minutes) => minutes !== each.value),
                )
              }
            />
            {each.words}
          </label>
        ))}
      {value?.length === 0 && <span className="text-soft">none</span>}
    </div>
  </div>
)

const startTyped = (editing: Editing, entry: EntryOnWire | null, zone: string): Typed => {
  const said = editing.date === null ? editing.said : undefined
  const allDay = entry?.allDay ?? said?.allDay ?? false
  const own = entry?.zone ?? zone
  return {
    ...typedTime(editing.start, editing.end, own, allDay),
    title: entry?.title ?? said?.title ?? '',
    place: entry?.placeText ?? said?.place ?? '',
    note: entry?.note ?? '',
    allDay,
    zone: own,
    shows: entry?.shows ?? 'busy',
    private: entry?.private ?? false,
    categoryId: entry?.categoryId ?? null,
    reminders: entry?.reminders ?? null,
  }
}

const sameRepetition = (one: Repetition | null, other: Repetition): boolean =>
  JSON.stringify(one ?? { rule: null, added: [], excepted: [] }) === JSON.stringify(other)

/** The form of an entry, once all of it is here. */
const EntryForm = ({
  editing,
  entry,
  of,
  onClose,
}: {
  editing: Editing
  entry: EntryOnWire | null
  of: string | undefined
  onClose: () => void
}) => {
  const { person, zone } = useMe()
  const now = useNow()
  const writes = useEntryWrites()
  const categories = useCategories()
  const [typed, setTyped] = useState(() => startTyped(editing, entry, person.zone))
  const said = editing.date === null ? editing.said : undefined
  const before: Repetition = entry?.repetition ?? { rule: null, added: [], excepted: [] }
  const [repetition, setRepetition] = useState<Repetition | null>(() =>
    entry?.repeats ? entry.repetition : said?.rule ? { rule: said.rule, added: [], excepted: [] } : null,
  )
  const [scope, setScope] = useState<Scope>('this')
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [newest, setNewest] = useState<EntryOnWire | null>(null)
  const [files, setFiles] = useState<readonly File[]>([])
  const [key] = useState(() => crypto.randomUUID())
  const form = useRef<HTMLFormElement>(null)
  // An entry that had to be fetched comes after the sheet has opened.
  useEffect(() => form.current?.querySelector<HTMLElement>('[data-first]')?.focus(), [])
  const series = entry?.repeats ?? false
  const rules = !sameRepetition(repetition, before)
  // How it repeats is a matter of more than one date.
  const effective: Scope = series && rules && scope === 'this' ? 'following' : scope
  // A date without a year is the one nearest to the day that was opened.
  const read = readTyped(typed, dayOf(toWall(zone, editing.start)))
  const wrong = Object.keys(read.errors).length > 0
  const checked = wrong ? null : checkTime(read.starts, read.minutes, typed.zone, typed.allDay)
  const fine = checked && !isTimeProblem(checked) ? checked : null
  const set = (part: Partial<Typed>) => setTyped((now) => ({ ...now, ...part }))
  const locked = entry !== null && !entry.mayChange
  const mine = entry?.meeting && (entry.own || entry.ownerId !== person.id)
  const impact =
    entry && series
      ? impactOf(entry, {
          scope: effective,
          starts: read.starts,
          minutes: read.minutes,
          allDay: typed.allDay,
          ...(rules ? { repetition } : {}),
        })
      : ''

  const attempt = async (work: () => Promise<unknown>) => {
    setBusy(true)
    setTrouble(null)
    try {
      await work()
      onClose()
    } catch (error) {
      const there = entrySchema.safeParse(problemMore(error).newest)
      if (problemCode(error) === 'stale' && there.success) setNewest(there.data)
      else setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  const words = {
    title: typed.title,
    place: typed.place,
    note: typed.note,
    shows: typed.shows,
    private: typed.private,
    categoryId: typed.categoryId,
    reminders: typed.reminders,
    starts: read.starts,
    minutes: read.minutes,
    allDay: typed.allDay,
    zone: typed.zone,
  }
  const make = async () => {
    const made = await writes.make({ ...words, repetition, ...(of ? { of } : {}) }, key)
    if (files.length === 0) return
    // The entry stands; what could not be attached is said, so that it can be tried again from there.
    const troubles = await attachFiles(made.entryId, files)
    if (troubles.length) toast.error(`The entry is made. ${troubles.join(' ')}`, { duration: 12_000 })
    await writes.refresh()
  }
  const keep = (version: number) =>
    entry
      ? writes.change(
          entry.entryId,
          {
            ...words,
            recurrence: entry.recurrence,
            scope: effective,
            version,
            ...(rules ? { repetition } : {}),
          },
          `Changed: ${typed.title || 'an entry'}`,
        )
      : make()
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (!fine) return
    if (locked && entry)
      attempt(async () => {
        await call(keepMine, {
          params: { entryId: entry.entryId },
          body: { categoryId: typed.categoryId, reminders: typed.reminders },
        })
        await writes.refresh()
      })
    else attempt(() => keep(entry?.version ?? 0))
  }
  const statusWords = checked
    ? isTimeProblem(checked)
      ? `⚠ ${checked.message}`
      : `${spanInWords(checked.start, checked.end, zone, now)} · ${lengthInWords(typed.allDay ? read.minutes : minutesBetween(checked.start, checked.end))}`
    : ''
  const text = (name: 'title' | 'place' | 'day' | 'from' | 'until', label: string, first = false) => (
    <Field label={label} error={name in read.errors ? read.errors[name as 'day'] : undefined}>
      {(props) => (
        <input
          {...props}
          {...(first ? { 'data-first': true } : {})}
          value={typed[name]}
          maxLength={200}
          disabled={locked}
          onChange={(event) => set({ [name]: event.target.value })}
        />
      )}
    </Field>
  )
  return (
    <form ref={form} className="flex flex-col gap-3" onSubmit={submit}>
      {entry && entry.ownerId !== person.id && !entry.meeting && (
        <p className="rounded-md bg-shade px-2.5 py-1.5 text-sm">
          {locked ? `${entry.owner} lets you see this.` : `You act for ${entry.owner}, who is told of it.`}
        </p>
      )}
      {entry?.meeting && of && !entry.own && (
        <div className="rounded-md bg-shade p-2.5">
          <p className="mb-2">
            {entry.owner} invites. You answer in the name of the person whom you stand in for.
          </p>
          <AnswerForm
            current={entry.answer}
            organizer={entry.owner}
            give={async (answer, message) => {
              await call(answerMeeting, {
                params: { entryId: entry.entryId },
                body: { answer, message, of },
              })
              await writes.refresh()
              onClose()
            }}
          />
        </div>
      )}
      {text('title', 'Title', true)}
      <div className={`grid gap-2 ${typed.allDay ? 'grid-cols-2' : 'grid-cols-3'}`}>
        {text('day', 'Day')}
        {!typed.allDay && text('from', 'From')}
        {text('until', typed.allDay ? 'How many days, or the last' : 'Until, or length')}
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={typed.allDay}
            disabled={locked || (series && effective === 'this')}
            onChange={(event) =>
              set(
                event.target.checked
                  ? { allDay: true, until: '1 day' }
                  : { allDay: false, from: typed.from || '9:00', until: '1h' },
              )
            }
          />
          All day
        </label>
        <ZoneField
          label="Zone"
          compact
          value={typed.zone}
          disabled={locked}
          onChange={(next) => set({ zone: next })}
        />
      </div>
      <p
        role="status"
        className={`min-h-5 text-sm ${checked && isTimeProblem(checked) ? 'text-coral' : 'font-semibold'}`}
      >
        {statusWords}
      </p>
      {fine?.fit === 'gap' && (
        <p className="text-sm">
          ⚠ The clocks skip {typed.from} that day, so it starts at{' '}
          {clockText(minuteOf(toWall(zoneTable(typed.zone), fine.start)))}.
        </p>
      )}
      {series && !locked && <ScopeField value={effective} impact={impact} onChange={setScope} />}
      {!(entry?.meeting ?? false) && (
        <RepeatField
          starts={wallFromText(wrong ? '2026-01-01T09:00' : read.starts) ?? 0}
          table={zoneTable(typed.zone)}
          value={repetition}
          locked={locked}
          onChange={setRepetition}
        />
      )}
      {text('place', 'Where')}
      <div className="grid grid-cols-2 gap-2">
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
        <Field label="Category">
          {(props) => (
            <select
              {...props}
              value={typed.categoryId ?? ''}
              disabled={of !== undefined}
              style={{
                borderInlineStart: `5px solid ${flower(categories.data?.categories.find((each) => each.id === typed.categoryId)?.tone) ?? 'transparent'}`,
              }}
              onChange={(event) => set({ categoryId: event.target.value || null })}
            >
              <option value="">None</option>
              {categories.data?.categories.map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          )}
        </Field>
      </div>
      <RemindersField value={typed.reminders} usual onChange={(reminders) => set({ reminders })} />
      <Suspense fallback={<Loading what="the description" />}>
        <NoteField value={typed.note} locked={locked} onChange={(note) => set({ note })} />
      </Suspense>
      <Files
        entryId={entry?.entryId ?? null}
        attached={entry?.attachments ?? []}
        waiting={files}
        locked={locked}
        onWaiting={setFiles}
        onChanged={() => writes.refresh()}
      />
      {entry && entry.contacts.length > 0 && (
        <p className="text-sm">
          <span className="text-soft">Named where it was imported from: </span>
          {entry.contacts.map((one) => one.name || one.address).join(', ')}
        </p>
      )}
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
      {newest && fine && entry && (
        <Merge
          mine={{ ...typed, start: fine.start, end: fine.end }}
          newest={newest}
          busy={busy}
          onMine={() => attempt(() => keep(newest.version))}
          onTheirs={() => {
            writes.refresh()
            onClose()
          }}
          onBoth={() => attempt(make)}
        />
      )}
      <div className="sticky -bottom-4 -mx-5 -mb-4 flex gap-2 border-line border-t bg-paper px-5 py-3">
        {entry && !locked && (
          <Button
            tone="trouble"
            disabled={busy}
            onClick={() => attempt(() => writes.remove(entry, series ? effective : 'all'))}
          >
            {series
              ? { this: 'Delete this date', following: 'Delete from here on', all: 'Delete all' }[effective]
              : 'Delete'}
          </Button>
        )}
        <span className="flex-1" />
        <Button onClick={onClose}>Close</Button>
        {(!locked || mine) && (
          <Button type="submit" tone="primary" disabled={busy || !fine || newest !== null}>
            {busy ? 'Keeping…' : entry ? 'Keep the change' : 'Make the entry'}
          </Button>
        )}
      </div>
    </form>
  )
}

/** The sheet of an entry: exact times by typing, how it repeats, and everything else about it. */
export const EntrySheet = ({
  editing,
  of,
  onClose,
}: {
  editing: Editing
  of: string | undefined
  onClose: () => void
}) => {
  const { date } = editing
  const entry = useEntry(date?.entryId ?? null, date?.recurrence ?? '', of)
  // The form keeps what is typed; what arrives meanwhile is compared when it is kept.
  const [shown, setShown] = useState<EntryOnWire | null>(null)
  const fetched = entry.isFetchedAfterMount ? entry.data : undefined
  useEffect(() => {
    if (fetched) setShown((before) => before && { ...before, attachments: fetched.attachments })
    if (fetched && !shown) setShown(fetched)
  }, [fetched, shown])
  const title = date ? (shown ? shown.title || 'An entry' : 'An entry') : 'A new entry'
  return (
    <Sheet open onClose={onClose} title={title}>
      {date && entry.isError ? (
        <Trouble action={<Button onClick={() => entry.refetch()}>Try again</Button>}>
          {problemWords(entry.error)}
        </Trouble>
      ) : date && !shown ? (
        <Loading what="the entry" />
      ) : (
        <EntryForm editing={editing} entry={shown} of={of} onClose={onClose} />
      )}
    </Sheet>
  )
}
