import type { EntryOnWire } from '@marmot/contract/entries'
import { type ReactNode, useEffect, useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { useAlive } from '../platform/use-alive.ts'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { type Draft, draftOf, dropDraft } from './drafts.ts'
import { useEntry } from './entries.ts'
import { EntryFields } from './entry-fields.tsx'
import { EntryRead } from './entry-read.tsx'
import { draftKey, type Editing, useEntryForm } from './use-entry-form.ts'
import type { Invited, Near } from './with-people.tsx'

/** What the sheet asks of the screen around it. */
interface Around {
  readonly of: string | undefined
  /** Those whose time lies beside the days. */
  readonly beside: readonly Near[]
  readonly onClose: () => void
  /** People are to be invited to an entry that stands: they are looked over before anybody is told. */
  readonly onInvite: (
    entryId: string,
    recurrence: string,
    series: boolean,
    people: readonly Invited[],
  ) => void
  /** Whom an entry is about, as it is shown with it; left out where that is not mine to say. */
  readonly about?: ((entryId: string) => ReactNode) | undefined
}

const Form = ({
  editing,
  entry,
  draft,
  around,
}: {
  editing: Editing
  entry: EntryOnWire | null
  draft: Draft | null
  around: Around
}) => {
  const form = useEntryForm(editing, entry, around.of, draft, around.onClose, around.onInvite)
  return <EntryFields form={form} beside={around.beside} onClose={around.onClose} />
}

/** What was half typed when the sheet was closed is offered again. */
const HalfTyped = ({
  draft,
  onGoOn,
  onForget,
}: {
  draft: Draft
  onGoOn: () => void
  onForget: () => void
}) => (
  <div className="mb-3 flex flex-wrap items-center gap-2 rounded-md bg-shade px-2.5 py-1.5">
    <span className="flex-1">
      You were writing {draft.typed.title ? `“${draft.typed.title}”` : 'here'}, {draft.typed.day}, and did not
      save it.
    </span>
    <Button onClick={onGoOn}>Go on with it</Button>
    <Button tone="quiet" onClick={onForget}>
      Forget it
    </Button>
  </div>
)

/** The sheet of an entry: one that is there is read first and changed by choice; a new one is written. */
export const EntrySheet = ({ editing, ...given }: { editing: Editing } & Around) => {
  const { person } = useMe()
  // A part of it may be gone by the time that its work is done, as when the entry is deleted; what counts is whether the sheet is.
  const alive = useAlive()
  const around: Around = {
    ...given,
    onClose: () => {
      if (alive.current) given.onClose()
    },
    onInvite: (...invited) => {
      if (alive.current) given.onInvite(...invited)
    },
  }
  const { date } = editing
  const entry = useEntry(date?.entryId ?? null, date?.recurrence ?? '', around.of)
  // The form keeps what is typed; what arrives meanwhile is compared when it is kept.
  const [shown, setShown] = useState<EntryOnWire | null>(null)
  const [changing, setChanging] = useState(date === null)
  const [key] = useState(() => draftKey(person.id, editing))
  const [half, setHalf] = useState(() => draftOf(key))
  const [draft, setDraft] = useState<Draft | null>(null)
  const fetched = entry.isFetchedAfterMount ? entry.data : undefined
  useEffect(() => {
    if (fetched && changing) setShown((before) => before && { ...before, attachments: fetched.attachments })
    if (fetched && (!shown || !changing)) setShown(fetched)
  }, [fetched, shown, changing])
  const title = date ? (shown ? shown.title || '(no title)' : 'One moment') : 'New entry'
  const offered = half && (shown?.mayChange ?? date === null)
  return (
    <Sheet open onClose={around.onClose} title={title}>
      {offered && (
        <HalfTyped
          draft={half}
          onGoOn={() => {
            setDraft(half)
            setHalf(null)
            setChanging(true)
          }}
          onForget={() => {
            dropDraft(key)
            setHalf(null)
          }}
        />
      )}
      {date && entry.isError ? (
        <Trouble action={<Button onClick={() => entry.refetch()}>Try again</Button>}>
          {problemWords(entry.error)}
        </Trouble>
      ) : date && !shown ? (
        <Loading what="the entry" />
      ) : changing ? (
        <Form
          key={draft ? 'half typed' : 'anew'}
          editing={editing}
          entry={shown}
          draft={draft}
          around={around}
        />
      ) : (
        shown && (
          <EntryRead
            entry={shown}
            of={around.of}
            deletes={editing.date !== null && editing.deleting === true}
            onChange={() => setChanging(true)}
            onInvite={() => around.onInvite(shown.entryId, shown.recurrence, shown.repeats, [])}
            onClose={around.onClose}
            about={around.about}
          />
        )
      )}
    </Sheet>
  )
}
