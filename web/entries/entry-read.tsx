import type { EntryOnWire } from '@marmot/contract/entries'
import { answerMeeting } from '@marmot/contract/meetings'
import { type Scope, sixDates, textOfNote } from '@marmot/core/entries'
import { readRule, readWalls, ruleInWords } from '@marmot/core/recurrence'
import {
  dayOf,
  lengthInWords,
  minutesBetween,
  shortDay,
  spanInWords,
  wallFromText,
  zoneTable,
} from '@marmot/core/time'
import { Pencil, UserPlus } from 'lucide-react'
import { type ReactNode, Suspense, useEffect, useRef, useState } from 'react'
import { AnswerForm } from '../answers/answer-form.tsx'
import { call } from '../platform/api.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, flower, Trouble } from '../ui/parts.tsx'
import { SheetFoot } from '../ui/sheet.tsx'
import { WeatherLine } from '../weather/weather-line.tsx'
import { useCategories } from './entries.ts'
import { Files } from './files.tsx'
import { remindersInWords } from './reminders-field.tsx'
import { ScopeField } from './scope-field.tsx'
import { useEntryWrites } from './writes.ts'

const NoteView = part(() => import('./note-view.tsx').then((m) => m.NoteView))

/** Whose entry it is, where it is not mine; and the answer, where I give it for another. */
const Whose = ({
  entry,
  of,
  onClose,
}: {
  entry: EntryOnWire
  of: string | undefined
  onClose: () => void
}) => {
  const { person } = useMe()
  const writes = useEntryWrites()
  if (entry.meeting && of && !entry.own)
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
            await writes.refresh()
            onClose()
          }}
        />
      </div>
    )
  if (entry.ownerId === person.id || entry.meeting) return null
  return (
    <p className="rounded-md bg-shade px-2.5 py-1.5 text-sm">
      {entry.mayChange
        ? `You act for ${entry.owner}, who is told of it.`
        : `${entry.owner} lets you see this.`}
    </p>
  )
}

/** How it repeats, and when next, in words. */
const Repeats = ({ entry }: { entry: EntryOnWire }) => {
  const { rule, added = [], excepted = [] } = entry.repetition
  const starts = wallFromText(entry.seriesStarts) ?? 0
  if (!entry.repeats) return null
  const words = () => {
    try {
      return rule === null ? 'On some dates' : ruleInWords(readRule(rule), starts)
    } catch {
      return 'Repeats by a rule of its own'
    }
  }
  const from = wallFromText(entry.recurrence) ?? starts
  const next = sixDates(
    { starts, minutes: entry.seriesMinutes, rule, added: readWalls(added), excepted: readWalls(excepted) },
    zoneTable(entry.zone),
    from,
  )
  return (
    <p>
      {words()}.
      <span className="block text-soft text-sm">
        From this date on: {next.map((day) => shortDay(day)).join(' · ')}
      </span>
      {excepted.length > 0 && (
        <span className="block text-soft text-sm">
          Left out:{' '}
          {readWalls(excepted)
            .map((wall) => shortDay(dayOf(wall)))
            .join(', ')}
        </span>
      )}
    </p>
  )
}

const TAKEN: Record<EntryOnWire['shows'], string> = {
  busy: '',
  tentative: 'It perhaps takes your time.',
  held: 'The time is kept free for it for now.',
  away: 'You are away then.',
  listed: 'It takes none of your time.',
}

const Deleting = ({
  entry,
  onClose,
  onKeep,
}: {
  entry: EntryOnWire
  onClose: () => void
  onKeep: () => void
}) => {
  const writes = useEntryWrites()
  const [scope, setScope] = useState<Scope>('this')
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const remove = async () => {
    setBusy(true)
    try {
      await writes.remove(entry, entry.repeats ? scope : 'all')
      onClose()
    } catch (error) {
      setTrouble(problemWords(error))
      setBusy(false)
    }
  }
  return (
    <div className="flex flex-col gap-2">
      {entry.repeats && <ScopeField value={scope} impact="" onChange={setScope} />}
      {trouble && <Trouble>{trouble}</Trouble>}
      <div className="flex gap-2">
        <Button tone="trouble" data-first disabled={busy} onClick={remove}>
          {entry.repeats
            ? { this: 'Delete this date', following: 'Delete from here on', all: 'Delete all dates' }[scope]
            : 'Delete it'}
        </Button>
        <Button disabled={busy} onClick={onKeep}>
          Leave it
        </Button>
      </div>
    </div>
  )
}

/** An entry as it is, to be read, with what can be done with it. It is changed by choice. */
export const EntryRead = ({
  entry,
  of,
  deletes,
  onChange,
  onInvite,
  onClose,
  about,
}: {
  entry: EntryOnWire
  of: string | undefined
  /** Whom it is about, where that is said. */
  about: ((entryId: string) => ReactNode) | undefined
  /** Whether it was opened to be deleted. */
  deletes: boolean
  onChange: () => void
  onInvite: () => void
  onClose: () => void
}) => {
  const { zone, person } = useMe()
  const now = useNow()
  const [deleting, setDeleting] = useState(deletes)
  const { refresh } = useEntryWrites()
  const category = useCategories().data?.categories.find((each) => each.id === entry.categoryId)
  const [start, end] = [Date.parse(entry.start), Date.parse(entry.end)]
  const { mayChange, note, attachments, contacts, reminders } = entry
  /** One's own category and reminders of a meeting of somebody else. */
  const marks = entry.meeting && (entry.own || entry.ownerId !== person.id)
  // It comes after the sheet has opened: the keys are for what is most often done with it.
  const element = useRef<HTMLDivElement>(null)
  useEffect(() => element.current?.querySelector<HTMLElement>('[data-first]')?.focus(), [])
  return (
    <div ref={element} className="flex min-h-full flex-col gap-3">
      <Whose entry={entry} of={of} onClose={onClose} />
      <div>
        <p className="font-semibold">{spanInWords(start, end, zone, now)}</p>
        <p className="text-soft">
          {[
            entry.allDay ? '' : lengthInWords(minutesBetween(start, end)),
            entry.place,
            entry.zone === person.zone ? '' : `kept in the time of ${entry.zone.replace(/_/g, ' ')}`,
          ]
            .filter(Boolean)
            .join(', ')}
        </p>
      </div>
      {entry.outdoors && <WeatherLine siteId={entry.outdoors} span={{ start, end }} />}
      <Repeats entry={entry} />
      {(category || TAKEN[entry.shows] || entry.private) && (
        <p className="flex flex-wrap items-center gap-x-3 text-sm">
          {category && (
            <span className="flex items-center gap-1.5">
              <i
                aria-hidden
                className="size-2.5 rounded-full"
                style={{ background: flower(category.tone) }}
              />
              {category.name}
            </span>
          )}
          {TAKEN[entry.shows] && <span>{TAKEN[entry.shows]}</span>}
          {entry.private && <span>Others see only whether you are free.</span>}
        </p>
      )}
      {note && (
        <Suspense fallback={<p className="whitespace-pre-wrap">{textOfNote(note)}</p>}>
          <NoteView note={note} />
        </Suspense>
      )}
      {attachments.length > 0 && (
        <Files
          entryId={entry.entryId}
          attached={attachments}
          waiting={[]}
          locked
          onWaiting={() => undefined}
          onChanged={refresh}
        />
      )}
      {!of && <p className="text-soft text-sm">{remindersInWords(reminders)}</p>}
      {contacts.length > 0 && (
        <p className="text-sm">
          <span className="text-soft">Named where it was imported from: </span>
          {contacts.map((one) => one.name || one.address).join(', ')}
        </p>
      )}
      {about?.(entry.entryId)}
      {deleting ? (
        <Deleting entry={entry} onClose={onClose} onKeep={() => setDeleting(false)} />
      ) : (
        <SheetFoot>
          {mayChange && (
            <button
              type="button"
              className="rounded px-1 text-coral underline underline-offset-2 max-md:min-h-thumb"
              onClick={() => setDeleting(true)}
            >
              Delete…
            </button>
          )}
          <span className="flex-1" />
          {mayChange && !of && (
            <Button onClick={onInvite}>
              <UserPlus size={15} aria-hidden /> Invite people…
            </Button>
          )}
          {(mayChange || marks) && (
            <Button tone="primary" data-first onClick={onChange}>
              <Pencil size={15} aria-hidden /> {mayChange ? 'Change…' : 'My category and reminders…'}
            </Button>
          )}
        </SheetFoot>
      )}
    </div>
  )
}
