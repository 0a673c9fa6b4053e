import { clockText, minuteOf, toWall, wallFromText, zoneTable } from '@marmot/core/time'
import { Suspense, useEffect, useRef } from 'react'
import { part } from '../platform/part.tsx'
import { Button, Field, flower, Loading, Trouble } from '../ui/parts.tsx'
import { SheetFoot } from '../ui/sheet.tsx'
import { OutdoorsField } from '../weather/outdoors-field.tsx'
import { useCategories } from './entries.ts'
import { Files } from './files.tsx'
import { Merge } from './merge.tsx'
import { RemindersField } from './reminders-field.tsx'
import { RepeatField } from './repeat-field.tsx'
import { ScopeField } from './scope-field.tsx'
import { TakesTime, WhoReads } from './takes-time.tsx'
import type { EntryForm } from './use-entry-form.ts'
import { type Near, WithPeople } from './with-people.tsx'
import { ZoneField } from './zone-field.tsx'

const NoteField = part(() => import('./note-field.tsx').then((m) => m.NoteField))

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
        onChange={(event) =>
          name === 'from' ? form.setFrom(event.target.value) : form.set({ [name]: event.target.value })
        }
      />
    )}
  </Field>
)

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
      {form.long && (
        <div className="flex flex-wrap items-center gap-2 rounded-md bg-shade px-2.5 py-1.5">
          <span className="flex-1">That is {form.long} long. Is it meant to be?</span>
          <Button onClick={form.meantLong}>Yes, {form.long}</Button>
        </div>
      )}
      {fine?.fit === 'gap' && (
        <p className="text-sm">
          ⚠ The clocks skip {typed.from} that day, so it starts at{' '}
          {clockText(minuteOf(toWall(zoneTable(typed.zone), fine.start)))}.
        </p>
      )}
    </>
  )
}

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
  const { entry, locked, busy, people } = form
  const words = people.length > 0 ? 'Save, and look over the invitation…' : entry ? 'Save' : 'Add it'
  return (
    <SheetFoot>
      <Button onClick={onClose}>{locked && !form.mine ? 'Close' : 'Leave it'}</Button>
      {(!locked || form.mine) && (
        <Button
          type="submit"
          tone="primary"
          disabled={busy || !form.fine || form.long !== null || form.newest !== null}
        >
          {busy ? 'Saving…' : words}
        </Button>
      )}
    </SheetFoot>
  )
}

/** What is seldom needed: folded away, unless something of it is said already. */
const More = ({ form }: { form: EntryForm }) => {
  const { entry, typed, set, locked } = form
  const said =
    typed.note !== '' ||
    typed.private ||
    typed.reminders !== null ||
    typed.categoryId !== null ||
    (entry?.attachments.length ?? 0) > 0
  return (
    <details open={said || undefined} className="group">
      <summary className="min-h-8 cursor-pointer py-1 text-gentian underline underline-offset-2 max-md:min-h-thumb">
        Description, category, reminders, files, who may read it
      </summary>
      <div className="flex flex-col gap-3 pt-2">
        <Suspense fallback={<Loading what="the description" />}>
          <NoteField
            value={typed.note}
            locked={locked}
            pictures={form.pictures}
            onChange={(note) => set({ note })}
          />
        </Suspense>
        <CategoryField form={form} />
        <RemindersField value={typed.reminders} usual onChange={(reminders) => set({ reminders })} />
        <Files
          entryId={entry?.entryId ?? null}
          attached={entry?.attachments ?? []}
          waiting={form.files}
          locked={locked}
          onWaiting={form.setFiles}
          onChanged={form.refresh}
        />
        <WhoReads value={typed.private} disabled={locked} onChange={(next) => set({ private: next })} />
        {entry && entry.contacts.length > 0 && (
          <p className="text-sm">
            <span className="text-soft">Named where it was imported from: </span>
            {entry.contacts.map((one) => one.name || one.address).join(', ')}
          </p>
        )}
      </div>
    </details>
  )
}

/** The form of an entry: what is asked of every one first, the rest folded. */
export const EntryFields = ({
  form,
  beside,
  onClose,
}: {
  form: EntryForm
  /** Those whose time lies beside the days, who can be invited with one press. */
  beside: readonly Near[]
  onClose: () => void
}) => {
  const { entry, typed, read, fine, locked, newest, of } = form
  const element = useRef<HTMLFormElement>(null)
  // An entry that had to be fetched comes after the sheet has opened.
  useEffect(() => element.current?.querySelector<HTMLElement>('[data-first]')?.focus(), [])
  const dated = Object.keys(read.errors).length === 0
  return (
    <form ref={element} className="flex flex-col gap-3" onSubmit={form.submit}>
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
      <OutdoorsField
        value={form.typed.outdoors}
        disabled={form.locked || (form.series && form.scope === 'this')}
        onChange={(outdoors) => form.set({ outdoors })}
      />
      {!entry && !of && <WithPeople value={form.people} beside={beside} onChange={form.setPeople} />}
      <TakesTime
        value={typed.shows}
        disabled={locked}
        whose={of ? 'their' : 'your'}
        onChange={(shows) => form.set({ shows })}
      />
      <More form={form} />
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
