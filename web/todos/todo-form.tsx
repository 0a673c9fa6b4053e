import { type Todo, todo as todoSchema } from '@marmot/contract/todo'
import { noteOfText, textOfNote } from '@marmot/core/entries'
import {
  clockText,
  dayOf,
  lengthInWords,
  minuteOf,
  parseClock,
  parseDay,
  parseLength,
  shortDay,
  toWall,
  wallFromText,
  wallOf,
  wallText,
  zoneTable,
} from '@marmot/core/time'
import { type Due, dueInWords, PRIORITIES, type Priority, priorityOf } from '@marmot/core/todos'
import { X } from 'lucide-react'
import { type FormEvent, useRef, useState } from 'react'
import { useCategories } from '../entries/entries.ts'
import { PeopleSearch } from '../people/people-search.tsx'
import { problemCode, problemMore, problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Field, Trouble } from '../ui/parts.tsx'
import { SheetFoot } from '../ui/sheet.tsx'
import { type TodoBody, useTodoWrites } from './todos.ts'

const PRIORITY_WORDS: Record<Priority, string> = {
  high: 'Urgent',
  usual: 'As usual',
  low: 'When there is time',
}
const PRIORITY_NUMBERS: Record<Priority, number> = { high: 1, usual: 0, low: 9 }

/** What stands in the fields, as typed. */
interface Typed {
  readonly title: string
  readonly day: string
  readonly clock: string
  readonly length: string
  readonly priority: Priority
  readonly categoryId: string | null
  readonly percent: number
  readonly note: string
  readonly given: { readonly id: string; readonly name: string } | null
}

const typedOf = (todo: Todo | null): Typed => {
  const wall = todo?.due ? wallFromText(todo.due) : null
  return {
    title: todo?.title ?? '',
    day: wall === null ? '' : shortDay(dayOf(wall)).replace(/^\S+ /, ''),
    clock: wall === null || todo?.dueAllDay ? '' : clockText(minuteOf(wall)),
    length: todo?.minutes ? lengthInWords(todo.minutes) : '',
    priority: priorityOf(todo?.priority ?? 0),
    categoryId: todo?.categoryId ?? null,
    percent: todo?.percent ?? 0,
    note: textOfNote(todo?.note ?? ''),
    given: todo?.givenTo ? { id: todo.givenTo, name: todo.given ?? '' } : null,
  }
}

/** Reads the day, the clock and the length: what is wrong with each, or what they say. */
const readTyped = (typed: Typed, today: number, near: number | null, zone: string) => {
  const day = typed.day.trim() ? parseDay(typed.day, today, near) : null
  const clock = typed.clock.trim() ? parseClock(typed.clock) : null
  const minutes = typed.length.trim() ? parseLength(typed.length) : null
  const errors = {
    title: typed.title.trim() ? undefined : 'is missing',
    day:
      typed.day.trim() && day === null
        ? 'not a date: try 3 dec or next tue'
        : typed.clock.trim() && !typed.day.trim()
          ? 'which day?'
          : undefined,
    clock: typed.clock.trim() && clock === null ? 'not a time: try 15:00' : undefined,
    length: typed.length.trim() && minutes === null ? 'not a length: try 45m' : undefined,
  }
  const due: Due | null =
    day === null ? null : clock === null ? { day } : { wall: wallOf(day, clock), zone: zoneTable(zone) }
  return {
    errors,
    fine: !Object.values(errors).some(Boolean),
    due,
    body: {
      due: day === null ? null : wallText(wallOf(day, clock ?? 0)),
      dueAllDay: clock === null,
      minutes,
    },
  }
}

/** Who is to do it: oneself, or a colleague. */
const ForWhom = ({
  value,
  me,
  onChange,
}: {
  value: Typed['given']
  me: string
  onChange: (next: Typed['given']) => void
}) => {
  const field = useRef<HTMLInputElement>(null)
  return (
    <fieldset className="flex flex-col gap-1">
      <legend className="mb-0.5 text-soft text-sm">Who is to do it</legend>
      {value ? (
        <p className="flex items-center gap-1 self-start rounded-full bg-shade pl-2.5">
          {value.name}
          <button
            type="button"
            aria-label={`Not ${value.name}: I do it`}
            className="grid size-7 place-items-center rounded-full hover:bg-line max-md:size-thumb"
            onClick={() => onChange(null)}
          >
            <X size={13} aria-hidden />
          </button>
        </p>
      ) : (
        <PeopleSearch
          inputRef={field}
          taken={new Set([me])}
          words="I do it. Or give it to…"
          onPeople={([first]) => first && onChange({ id: first.id, name: first.name })}
        />
      )}
    </fieldset>
  )
}

const STEP_PERCENT = 10

/** How far it is, in steps of ten percent. */
export const HowFar = ({ value, onChange }: { value: number; onChange: (percent: number) => void }) => (
  <Field label={`How far it is: ${value} %`}>
    {(props) => (
      <input
        {...props}
        type="range"
        min={0}
        max={100}
        step={STEP_PERCENT}
        value={value}
        className="h-8 w-full accent-gentian max-md:h-thumb"
        onChange={(event) => onChange(Number(event.target.value))}
      />
    )}
  </Field>
)

/** A to-do of one's own is written: a new one, or one that is there. */
export const TodoForm = ({
  todo,
  onDone,
  onClose,
}: {
  todo: Todo | null
  onDone: (todo: Todo) => void
  onClose: () => void
}) => {
  const { person, zone } = useMe()
  const now = useNow()
  const writes = useTodoWrites()
  const categories = useCategories().data?.categories ?? []
  const [typed, setTyped] = useState(() => typedOf(todo))
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [newest, setNewest] = useState<Todo | null>(null)
  const [key] = useState(() => crypto.randomUUID())
  const set = (part: Partial<Typed>) => setTyped((before) => ({ ...before, ...part }))
  const today = dayOf(toWall(zone, now))
  const was = todo?.due ? wallFromText(todo.due) : null
  const zoneOfDue = todo?.due && !todo.dueAllDay ? todo.zone : person.zone
  const read = readTyped(typed, today, was === null ? null : dayOf(was), zoneOfDue)
  const body: TodoBody = {
    title: typed.title.trim(),
    // What was not touched keeps its form.
    note: todo && typed.note === textOfNote(todo.note) ? todo.note : noteOfText(typed.note),
    ...read.body,
    zone: zoneOfDue,
    categoryId: typed.categoryId,
    priority:
      todo && priorityOf(todo.priority) === typed.priority ? todo.priority : PRIORITY_NUMBERS[typed.priority],
    percent: typed.percent,
    done: typed.percent === 100,
    givenTo: typed.given?.id ?? null,
  }
  const keep = async (over: Todo | null) => {
    setBusy(true)
    setTrouble(null)
    try {
      onDone(
        over ? await writes.change(over, body, `${body.title} is changed`) : await writes.make(body, key),
      )
    } catch (error) {
      const there = todoSchema.safeParse(problemMore(error).newest)
      if (problemCode(error) === 'stale' && there.success) setNewest(there.data)
      else setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (read.fine && !busy) void keep(todo)
  }
  const field = (name: 'title' | 'day' | 'clock' | 'length', label: string, hint?: string) => (
    <Field label={label} error={name === 'title' && !todo && !typed.title ? undefined : read.errors[name]}>
      {(props) => (
        <input
          {...props}
          {...(name === 'title' ? { 'data-first': true } : {})}
          value={typed[name]}
          placeholder={hint}
          maxLength={200}
          onChange={(event) => set({ [name]: event.target.value })}
        />
      )}
    </Field>
  )
  return (
    <form onSubmit={submit} className="flex min-h-full flex-col gap-3">
      {field('title', 'What is to be done')}
      <div className="grid grid-cols-3 gap-2">
        {field('day', 'Due', 'fri, 3 dec')}
        {field('clock', 'At', 'any time')}
        {field('length', 'Takes', '45m')}
      </div>
      {read.due && (
        <p role="status" className="-mt-1 font-semibold text-sm">
          Due {dueInWords(read.due, now, zone)}
        </p>
      )}
      <ForWhom value={typed.given} me={person.id} onChange={(given) => set({ given })} />
      <fieldset className="flex flex-wrap gap-x-4 gap-y-1">
        <legend className="mb-0.5 text-soft text-sm">How urgent</legend>
        {PRIORITIES.map((each) => (
          <label key={each} className="flex min-h-8 items-center gap-1.5 max-md:min-h-thumb">
            <input
              type="radio"
              name="priority"
              className="accent-gentian"
              checked={typed.priority === each}
              onChange={() => set({ priority: each })}
            />
            {PRIORITY_WORDS[each]}
          </label>
        ))}
      </fieldset>
      {todo && <HowFar value={typed.percent} onChange={(percent) => set({ percent })} />}
      {categories.length > 0 && (
        <Field label="Category">
          {(props) => (
            <select
              {...props}
              value={typed.categoryId ?? ''}
              onChange={(event) => set({ categoryId: event.target.value || null })}
            >
              <option value="">None</option>
              {categories.map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      <Field label="Description">
        {(props) => (
          <textarea
            {...props}
            rows={3}
            value={typed.note}
            maxLength={5000}
            onChange={(event) => set({ note: event.target.value })}
          />
        )}
      </Field>
      {trouble && <Trouble>{trouble}</Trouble>}
      {newest && todo && (
        <Trouble
          action={
            <>
              <Button tone="primary" disabled={busy} onClick={() => keep(newest)}>
                Keep mine
              </Button>
              <Button onClick={() => onDone(newest)}>Keep what is there</Button>
            </>
          }
        >
          It was changed meanwhile: “{newest.title}”, {newest.done ? 'done' : `${newest.percent} % done`}
          {newest.given ? `, given to ${newest.given}` : ''}. Nothing of yours is lost.
        </Trouble>
      )}
      <SheetFoot>
        <Button onClick={onClose}>Leave it</Button>
        <Button type="submit" tone="primary" disabled={busy || !read.fine || newest !== null}>
          {busy ? 'Saving…' : todo ? 'Save' : typed.given ? `Add it, and tell ${typed.given.name}` : 'Add it'}
        </Button>
      </SheetFoot>
    </form>
  )
}
