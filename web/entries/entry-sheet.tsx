import type { EntryOnWire } from '@marmot/contract/entries'
import { answerMeeting } from '@marmot/contract/meetings'
import { clockText, minuteOf, toWall, wallFromText, zoneTable } from '@marmot/core/time'
import { lazy, Suspense, useEffect, useRef, useState } from 'react'
import { AnswerForm } from '../answers/answer-form.tsx'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { Button, Field, flower, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { useCategories, useEntry } from './entries.ts'
import { Files } from './files.tsx'
import { Merge } from './merge.tsx'
import { RemindersField } from './reminders-field.tsx'
import { RepeatField } from './repeat-field.tsx'
import { ScopeField } from './scope-field.tsx'
import type { Typed } from './typed.ts'
import { type Editing, type EntryForm, useEntryForm } from './use-entry-form.ts'
import { ZoneField } from './zone-field.tsx'

const NoteField = lazy(() => import('./note-field.tsx').then((m) => ({ default: m.NoteField })))

const SHOWS: readonly { value: Typed['shows']; words: string }[] = [
  { value: 'busy', words: 'Busy' },
  { value: 'tentative', words: 'Tentative' },
  { value: 'held', words: 'Held' },
  { value: 'away', words: 'Away' },
  { value: 'listed', words: 'Listed, does not block' },
]

const TextField = ({
  form,
  name,
  label,
  first = false,
}: {
  form: EntryForm
  name: 'title' | 'place' | 'day' | 'from' | 'until'
  label: string
  first?: boolean
}) => (
  <Field label={label} error={name in form.read.errors ? form.read.errors[name as 'day'] : undefined}>
    {(props) => (
      <input
        {...props}
        {...(first ? { 'data-first': true } : {})}
        value={form.typed[name]}
        maxLength={200}
        disabled={form.locked}
        onChange={(event) => form.set({ [name]: event.target.value })}
      />
    )}
  </Field>
)

/** Whose entry it is, where it is not mine; and the answer, where I give it for another. */
const Whose = ({ form, onClose }: { form: EntryForm; onClose: () => void }) => {
  const { person } = useMe()
  const { entry, of, locked } = form
  if (entry?.meeting && of && !entry.own)
    return (
      <div className="rounded-md bg-shade p-2.5">
        <p className="mb-2">
          {entry.owner} invites. You answer in the name of the person whom you stand in for.
        </p>
        <AnswerForm
          current={entry.answer}
          organizer={entry.owner}
          give={async (answer, message) => {
            await call(answerMeeting, { params: { entryId: entry.entryId }, body: { answer, message, of } })
            await form.refresh()
            onClose()
          }}
        />
      </div>
    )
  if (!entry || entry.ownerId === person.id || entry.meeting) return null
  return (
    <p className="rounded-md bg-shade px-2.5 py-1.5 text-sm">
      {locked ? `${entry.owner} lets you see this.` : `You act for ${entry.owner}, who is told of it.`}
    </p>
  )
}

/** When it is: day, from, until, whole days, in which zone; and what was understood. */
const WhenFields = ({ form }: { form: EntryForm }) => {
  const { typed, set, fine, status, locked } = form
  return (
    <>
      <div className={`grid gap-2 ${typed.allDay ? 'grid-cols-2' : 'grid-cols-3'}`}>
        <TextField form={form} name="day" label="Day" />
        {!typed.allDay && <TextField form={form} name="from" label="From" />}
        <TextField
          form={form}
          name="until"
          label={typed.allDay ? 'How many days, or the last' : 'Until, or length'}
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={typed.allDay}
            disabled={locked || (form.series && form.scope === 'this')}
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
      <p role="status" className={`min-h-5 text-sm ${status.wrong ? 'text-coral' : 'font-semibold'}`}>
        {status.words}
      </p>
      {fine?.fit === 'gap' && (
        <p className="text-sm">
          ⚠ The clocks skip {typed.from} that day, so it starts at{' '}
          {clockText(minuteOf(toWall(zoneTable(typed.zone), fine.start)))}.
        </p>
      )}
    </>
  )
}

const ShowsField = ({ form }: { form: EntryForm }) => (
  <Field label="Shows as">
    {(props) => (
      <select
        {...props}
        value={form.typed.shows}
        disabled={form.locked}
        onChange={(event) => {
          const chosen = SHOWS.find((each) => each.value === event.target.value)
          if (chosen) form.set({ shows: chosen.value })
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
)

const CategoryField = ({ form }: { form: EntryForm }) => {
  const categories = useCategories().data?.categories
  const tone = flower(categories?.find((each) => each.id === form.typed.categoryId)?.tone)
  return (
    <Field label="Category">
      {(props) => (
        <select
          {...props}
          value={form.typed.categoryId ?? ''}
          disabled={form.of !== undefined}
          style={tone ? { borderInlineStart: `5px solid ${tone}` } : undefined}
          onChange={(event) => form.set({ categoryId: event.target.value || null })}
        >
          <option value="">None</option>
          {categories?.map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
        </select>
      )}
    </Field>
  )
}

const Actions = ({ form, onClose }: { form: EntryForm; onClose: () => void }) => {
  const { entry, locked, busy } = form
  return (
    <div className="sticky -bottom-4 -mx-5 -mb-4 flex gap-2 border-line border-t bg-paper px-5 py-3">
      {entry && !locked && (
        <Button tone="trouble" disabled={busy} onClick={form.remove}>
          {form.series
            ? { this: 'Delete this date', following: 'Delete from here on', all: 'Delete all' }[form.scope]
            : 'Delete'}
        </Button>
      )}
      <span className="flex-1" />
      <Button onClick={onClose}>Close</Button>
      {(!locked || form.mine) && (
        <Button type="submit" tone="primary" disabled={busy || !form.fine || form.newest !== null}>
          {busy ? 'Keeping…' : entry ? 'Keep the change' : 'Make the entry'}
        </Button>
      )}
    </div>
  )
}

/** The form of an entry, once all of it is here. */
const EntryFields = ({
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
  const form = useEntryForm(editing, entry, of, onClose)
  const { typed, set, read, fine, locked, newest } = form
  const element = useRef<HTMLFormElement>(null)
  // An entry that had to be fetched comes after the sheet has opened.
  useEffect(() => element.current?.querySelector<HTMLElement>('[data-first]')?.focus(), [])
  const dated = Object.keys(read.errors).length === 0
  return (
    <form ref={element} className="flex flex-col gap-3" onSubmit={form.submit}>
      <Whose form={form} onClose={onClose} />
      <TextField form={form} name="title" label="Title" first />
      <WhenFields form={form} />
      {form.series && !locked && (
        <ScopeField value={form.scope} impact={form.impact} onChange={form.setScope} />
      )}
      {!(entry?.meeting ?? false) && (
        <RepeatField
          starts={wallFromText(dated ? read.starts : '2026-01-01T09:00') ?? 0}
          table={zoneTable(typed.zone)}
          value={form.repetition}
          locked={locked}
          onChange={form.setRepetition}
        />
      )}
      <TextField form={form} name="place" label="Where" />
      <div className="grid grid-cols-2 gap-2">
        <ShowsField form={form} />
        <CategoryField form={form} />
      </div>
      <RemindersField value={typed.reminders} usual onChange={(reminders) => set({ reminders })} />
      <Suspense fallback={<Loading what="the description" />}>
        <NoteField
          value={typed.note}
          locked={locked}
          pictures={form.pictures}
          onChange={(note) => set({ note })}
        />
      </Suspense>
      <Files
        entryId={entry?.entryId ?? null}
        attached={entry?.attachments ?? []}
        waiting={form.files}
        locked={locked}
        onWaiting={form.setFiles}
        onChanged={form.refresh}
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
      {form.trouble && <Trouble>{form.trouble}</Trouble>}
      {newest && fine && entry && (
        <Merge
          mine={{ ...typed, start: fine.start, end: fine.end }}
          newest={newest}
          busy={form.busy}
          onMine={() => form.keepOver(newest)}
          onTheirs={() => {
            form.refresh()
            onClose()
          }}
          onBoth={form.keepBoth}
        />
      )}
      <Actions form={form} onClose={onClose} />
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
        <EntryFields editing={editing} entry={shown} of={of} onClose={onClose} />
      )}
    </Sheet>
  )
}
