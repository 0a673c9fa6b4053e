import { type EntryOnWire, entry as entrySchema, keepMine, type Repetition } from '@marmot/contract/entries'
import { type CheckedTime, checkTime, isTimeProblem, type Scope } from '@marmot/core/entries'
import {
  clockText,
  dayOf,
  type Instant,
  lengthInWords,
  minutesBetween,
  parseClock,
  spanInWords,
  toWall,
} from '@marmot/core/time'
import { type FormEvent, useRef, useState } from 'react'
import { call } from '../platform/api.ts'
import { problemCode, problemMore, problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import type { Pictures } from '../ui/pictures.ts'
import { type Draft, useKeptDraft } from './drafts.ts'
import { attachFiles } from './files.tsx'
import { useNotePictures } from './note-pictures.ts'
import { impactOf } from './scope-field.tsx'
import { readTyped, type Typed, typedTime } from './typed.ts'
import type { Invited } from './with-people.tsx'
import { useEntryWrites } from './writes.ts'

/** What the sheet is opened on: a new span, or a date of an entry. */
export type Editing = { readonly start: Instant; readonly end: Instant } & (
  | {
      readonly date: { readonly entryId: string; readonly recurrence: string }
      /** Whether it is opened to be deleted. */
      readonly deleting?: boolean
    }
  | {
      readonly date: null
      /** What a line of text said already. */
      readonly said?: Partial<Pick<Typed, 'title' | 'place' | 'allDay'>> & { rule?: string | null }
      /** The to-do for which the time is set aside. */
      readonly todoId?: string
    }
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
    outdoors: entry?.outdoorsSaid ?? null,
    categoryId: entry?.categoryId ?? null,
    reminders: entry?.reminders ?? null,
  }
}

const NOT_REPEATED: Repetition = { rule: null, added: [], excepted: [] }
const sameRepetition = (one: Repetition | null, other: Repetition): boolean =>
  JSON.stringify(one ?? NOT_REPEATED) === JSON.stringify(other)

/** What is typed beside the time, as it is sent. */
const wordsOf = ({ title, place, note, shows, outdoors, categoryId, reminders, zone, ...typed }: Typed) => ({
  title,
  place,
  note,
  shows,
  private: typed.private,
  outdoors,
  categoryId,
  reminders,
  zone,
})

/** Under what the half typed of an entry, or of a new one, is kept. */
export const draftKey = (personId: string, editing: Editing): string =>
  `${personId} ${editing.date ? `${editing.date.entryId} ${editing.date.recurrence}` : 'new'}`

/** A length from which on one is asked whether it is meant: "until 10:15" after 10:45 is nearly a day. */
const LONG = 12 * 60

/** Whether something was typed that is worth keeping: of a new entry its time alone is none, since that was only pressed. */
const isTouched = (typed: Typed, start: Typed, existing: boolean): boolean => {
  const timeless = (one: Typed) => (existing ? one : { ...one, day: '', from: '', until: '' })
  return JSON.stringify(timeless(typed)) !== JSON.stringify(timeless(start))
}

/** The end that keeps the length when the beginning becomes another; as it is typed where it is a length, or not a clock. */
const endKept = ({ from, until }: Typed, next: string): string => {
  const [was, end, begins] = [parseClock(from), parseClock(until), parseClock(next)]
  if (was === null || end === null || begins === null) return until
  return clockText((begins + (end - was) + 2880) % 1440)
}

/** What of an entry is typed, read and checked, and what can be done with it. */
export interface EntryForm {
  readonly entry: EntryOnWire | null
  /** The person whom I stand in for, if I do. */
  readonly of: string | undefined
  readonly typed: Typed
  readonly set: (part: Partial<Typed>) => void
  /** Begins at another clock; once that can be read, the end moves along. */
  readonly setFrom: (from: string) => void
  /** Who is to be invited once it is saved and looked over. */
  readonly people: readonly Invited[]
  readonly setPeople: (people: readonly Invited[]) => void
  /** A length so long that it may be a slip, in words, until one has said that it is meant. */
  readonly long: string | null
  readonly meantLong: () => void
  readonly read: ReturnType<typeof readTyped>
  /** The time that was typed, once it can be meant. */
  readonly fine: CheckedTime | null
  /** The time in words, or what is wrong with it. */
  readonly status: { readonly words: string; readonly wrong: boolean }
  readonly repetition: Repetition | null
  readonly setRepetition: (repetition: Repetition | null) => void
  /** True where an entry that is there repeats. */
  readonly series: boolean
  readonly scope: Scope
  readonly setScope: (scope: Scope) => void
  /** What a change of a series touches, in words. */
  readonly impact: string
  /** True where I may look and not change. */
  readonly locked: boolean
  /** True where my own marks, category and reminders, can be kept though the entry is another's. */
  readonly mine: boolean
  readonly files: readonly File[]
  /** The pictures of its description. */
  readonly pictures: Pictures
  readonly setFiles: (files: readonly File[]) => void
  readonly busy: boolean
  readonly trouble: string | null
  /** What is there by now, where somebody else was quicker. */
  readonly newest: EntryOnWire | null
  readonly submit: (event: FormEvent) => void
  readonly keepOver: (newest: EntryOnWire) => void
  readonly keepBoth: () => void
  readonly refresh: () => Promise<unknown>
}

/**
 * The form of one entry, begun with what was half typed before, if anything. `onClose` is called once what was asked is done;
 * `onInvite` instead, where people are to be invited to it.
 */
export const useEntryForm = (
  editing: Editing,
  entry: EntryOnWire | null,
  of: string | undefined,
  draft: Draft | null,
  onClose: () => void,
  onInvite: (entryId: string, recurrence: string, series: boolean, people: readonly Invited[]) => void,
): EntryForm => {
  const { person, zone } = useMe()
  const now = useNow()
  const writes = useEntryWrites()
  const [typed, setTyped] = useState(() => draft?.typed ?? startTyped(editing, entry, person.zone))
  const said = editing.date === null ? editing.said : undefined
  const todoId = (editing.date === null && editing.todoId) || null
  const before: Repetition = entry?.repetition ?? NOT_REPEATED
  const [repetition, setRepetition] = useState<Repetition | null>(() =>
    draft
      ? draft.repetition
      : entry?.repeats
        ? entry.repetition
        : said?.rule
          ? { ...NOT_REPEATED, rule: said.rule }
          : null,
  )
  const [people, setPeople] = useState<readonly Invited[]>(draft?.people ?? [])
  const [longMeant, setLongMeant] = useState(0)
  /** The last beginning that could be read: while another is typed the end stands still. */
  const begun = useRef(typed.from)
  const [scope, setScope] = useState<Scope>('this')
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [newest, setNewest] = useState<EntryOnWire | null>(null)
  const [files, setFiles] = useState<readonly File[]>([])
  const [requestKey] = useState(() => crypto.randomUUID())
  const { pictures, attachTo } = useNotePictures()
  const series = entry?.repeats ?? false
  const rules = !sameRepetition(repetition, before)
  // How it repeats is a matter of more than one date.
  const effective: Scope = series && rules && scope === 'this' ? 'following' : scope
  const read = readTyped(typed, draft?.near ?? dayOf(toWall(zone, editing.start)), dayOf(toWall(zone, now)))
  const wrong = Object.keys(read.errors).length > 0
  const checked = wrong ? null : checkTime(read.starts, read.minutes, typed.zone, typed.allDay)
  const fine = checked && !isTimeProblem(checked) ? checked : null
  const locked = entry !== null && !entry.mayChange
  const time = { starts: read.starts, minutes: read.minutes, allDay: typed.allDay }

  const long =
    fine &&
    !typed.allDay &&
    read.minutes > LONG &&
    read.minutes !== longMeant &&
    read.minutes !== minutesBetween(editing.start, editing.end)
      ? lengthInWords(read.minutes)
      : null

  // What was typed and not saved is kept when the sheet closes, whichever way it does.
  const key = draftKey(person.id, editing)
  const touched =
    people.length > 0 || isTouched(typed, startTyped(editing, entry, person.zone), entry !== null)
  const near = draft?.near ?? dayOf(toWall(zone, editing.start))
  const saved = useKeptDraft(
    key,
    touched && !locked ? { typed, repetition, people: [...people], near } : null,
  )

  const attempt = async (work: () => Promise<unknown>) => {
    setBusy(true)
    setTrouble(null)
    try {
      await work()
      saved()
      onClose()
    } catch (error) {
      const there = entrySchema.safeParse(problemMore(error).newest)
      if (problemCode(error) === 'stale' && there.success) setNewest(there.data)
      else setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  const { title, note, categoryId, reminders } = typed
  const words = wordsOf(typed)
  const make = async () => {
    const made = await writes.make(
      { ...words, ...time, repetition, todoId, ...(of ? { of } : {}) },
      requestKey,
    )
    // The entry stands; what could not be attached is said, so that it can be tried again from there.
    const troubles = [...(await attachFiles(made.entryId, files)), ...(await attachTo(made.entryId, note))]
    if (troubles.length) toast.error(`The entry is made. ${troubles.join(' ')}`, { duration: 12_000 })
    // A picture in the description is attached, too.
    if (files.length || note.includes('data-file')) await writes.refresh()
    return made
  }
  const keep = async (version: number) => {
    if (!entry) return make()
    const body = {
      ...words,
      ...time,
      recurrence: entry.recurrence,
      scope: effective,
      version,
      ...(rules ? { repetition } : {}),
    }
    const kept = await writes.change(entry.entryId, body, `${title || 'It'} is changed`)
    const troubles = await attachTo(kept.entryId, note)
    if (troubles.length) toast.error(`The entry is changed. ${troubles.join(' ')}`, { duration: 12_000 })
    return kept
  }
  /** Saves it, and then looks over whom to invite to it. */
  const save = async (version: number) => {
    const kept = await keep(version)
    if (people.length > 0) onInvite(kept.entryId, kept.recurrence, series || repetition !== null, people)
  }
  const keepMarks = async (entryId: string) => {
    await call(keepMine, { params: { entryId }, body: { categoryId, reminders } })
    await writes.refresh()
  }
  return {
    entry,
    of,
    typed,
    set: (part) => setTyped((now) => ({ ...now, ...part })),
    setFrom: (from) =>
      setTyped((now) => {
        const until = endKept({ ...now, from: begun.current }, from)
        if (parseClock(from) !== null) begun.current = from
        return { ...now, from, until }
      }),
    people,
    setPeople,
    long,
    meantLong: () => setLongMeant(read.minutes),
    read,
    fine,
    status: {
      wrong: checked !== null && isTimeProblem(checked),
      words: !checked
        ? ''
        : isTimeProblem(checked)
          ? `⚠ ${checked.message}`
          : `${spanInWords(checked.start, checked.end, zone, now)} · ${lengthInWords(typed.allDay ? read.minutes : minutesBetween(checked.start, checked.end))}`,
    },
    repetition,
    setRepetition,
    series,
    scope: effective,
    setScope,
    impact:
      entry && series ? impactOf(entry, { scope: effective, ...time, ...(rules ? { repetition } : {}) }) : '',
    locked,
    mine: Boolean(entry?.meeting && (entry.own || entry.ownerId !== person.id)),
    files,
    setFiles,
    pictures,
    busy,
    trouble,
    newest,
    submit: (event) => {
      event.preventDefault()
      if (!fine || long) return
      if (locked && entry) attempt(() => keepMarks(entry.entryId))
      else attempt(() => save(entry?.version ?? 0))
    },
    keepOver: (there) => attempt(() => save(there.version)),
    keepBoth: () => attempt(make),
    refresh: writes.refresh,
  }
}
