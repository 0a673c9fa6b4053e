import type { Meeting } from '@marmot/contract/meetings'
import { textOfNote } from '@marmot/core/entries'
import { lengthInWords, minutesBetween, spanInWords } from '@marmot/core/time'
import { CalendarSearch } from 'lucide-react'
import { type FormEvent, Suspense } from 'react'
import { z } from 'zod'
import { dateChoice } from '../answers/answer-form.tsx'
import { part } from '../platform/part.tsx'
import { problemMore, problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Choice, counted, Field, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet, SheetFoot } from '../ui/sheet.tsx'
import { OutdoorsField } from '../weather/outdoors-field.tsx'
import { ChangePeople } from './change-people.tsx'
import { ChangePlaces } from './change-places.tsx'
import { useMeeting } from './meeting.ts'
import { ScopeChoice } from './scope-choice.tsx'
import { type ChangeInHand, useChange, type Wanted } from './use-change.ts'
import { headCountIn } from './wanted.ts'

const NoteField = part(() => import('../entries/note-field.tsx').then((m) => m.NoteField))

const TextField = ({
  change,
  name,
  label,
  first = false,
}: {
  change: ChangeInHand
  name: 'title' | 'day' | 'from' | 'until'
  label: string
  first?: boolean
}) => {
  const { fields, errors, set, setFrom } = change
  const missing = name === 'title' && fields.title.trim() === '' ? 'is missing' : undefined
  return (
    <Field label={label} error={name === 'title' ? missing : errors[name]}>
      {(props) => (
        <input
          {...props}
          {...(first ? { 'data-first': true } : {})}
          value={fields[name]}
          maxLength={200}
          onChange={(event) =>
            name === 'from' ? setFrom(event.target.value) : set({ [name]: event.target.value })
          }
        />
      )}
    </Field>
  )
}

/** What was there before, where it is to be something else. */
const Before = ({ is, was }: { is: string; was: string }) =>
  is === was ? null : (
    <p className="-mt-2 text-sm">
      <span className="text-soft">Before:</span> {was || 'nothing'}
    </p>
  )

const When = ({
  change,
  first,
  onFind,
}: {
  change: ChangeInHand
  first: boolean
  onFind: (() => void) | undefined
}) => {
  const { zone } = useMe()
  const now = useNow()
  const { base, time, errors } = change
  const [wasStart, wasEnd] = [Date.parse(base.start), Date.parse(base.end)]
  const moved = time.start !== wasStart || time.end !== wasEnd
  const wrong = Object.keys(errors).length > 0
  return (
    <div className="flex flex-col gap-2">
      <div className="grid grid-cols-3 gap-2">
        <TextField change={change} name="day" label="Day" first={first} />
        <TextField change={change} name="from" label="From" />
        <TextField change={change} name="until" label="Until, or length" />
      </div>
      {!wrong && (
        <p role="status">
          <b className="font-semibold">{spanInWords(time.start, time.end, zone, now)}</b>
          {`, ${lengthInWords(minutesBetween(time.start, time.end))}`}
          {moved && (
            <>
              <br />
              <span className="text-soft">Before: </span>
              <s>{spanInWords(wasStart, wasEnd, zone, now)}</s>
            </>
          )}
        </p>
      )}
      {onFind && (
        <Button className="self-start" onClick={onFind}>
          <CalendarSearch size={16} aria-hidden /> Find another time
        </Button>
      )}
    </div>
  )
}

const refusal = z.object({
  placeId: z.string(),
  free: z.array(z.object({ id: z.string(), name: z.string(), seats: z.number() })),
})

/** What stands in the way of the change, with what else is free where that is a place. */
const InTheWay = ({ change }: { change: ChangeInHand }) => {
  const { trouble, fields, set } = change
  if (!trouble) return null
  const read = refusal.safeParse(problemMore(trouble))
  return (
    <Trouble
      action={
        read.success
          ? read.data.free.slice(0, 4).map((place) => (
              <Button
                key={place.id}
                onClick={() =>
                  set({ places: fields.places.map((id) => (id === read.data.placeId ? place.id : id)) })
                }
              >
                Take {place.name} instead ({place.seats} seats)
              </Button>
            ))
          : null
      }
    >
      {problemWords(trouble)}
    </Trouble>
  )
}

/** What somebody else has made of the meeting while it was open here. */
const Meanwhile = ({ change, newest }: { change: ChangeInHand; newest: Meeting }) => {
  const { zone } = useMe()
  const now = useNow()
  const { base, rebase } = change
  const when = (one: Meeting) => spanInWords(Date.parse(one.start), Date.parse(one.end), zone, now)
  const who = (one: Meeting) => one.participants.map((each) => each.name).join(', ')
  const rows = [
    ['Title', base.title, newest.title],
    ['Time', when(base), when(newest)],
    ['Where', base.place, newest.place],
    ['Who', who(base), who(newest)],
    ['Words', textOfNote(base.note), textOfNote(newest.note)],
  ].filter(([, was, is]) => was !== is)
  return (
    <Trouble action={<Button onClick={rebase}>Go on with my change</Button>}>
      <p>
        {newest.cancelled
          ? 'It was cancelled meanwhile.'
          : 'Somebody changed it meanwhile. What you have changed here is kept.'}
      </p>
      <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3 text-sm">
        {rows.map(([name, was, is]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd>
              <s className="text-soft">{was || 'nothing'}</s> {is || 'nothing'}
            </dd>
          </div>
        ))}
      </dl>
    </Trouble>
  )
}

/** What a reservation says of itself beside its time and places. */
const Said = ({ change: { fields, set } }: { change: ChangeInHand }) => (
  <>
    <div className="grid grid-cols-2 gap-2">
      <Field label="Purpose">
        {(props) => (
          <input
            {...props}
            value={fields.purpose}
            maxLength={200}
            onChange={(event) => set({ purpose: event.target.value })}
          />
        )}
      </Field>
      <Field label="How many will be there">
        {(props) => (
          <input
            {...props}
            inputMode="numeric"
            value={fields.headCount ?? ''}
            onChange={(event) => set({ headCount: headCountIn(event.target.value) })}
          />
        )}
      </Field>
    </div>
    <Choice checked={fields.takesTime} onChoose={(takesTime) => set({ takesTime })}>
      It takes my time: I count as busy then
    </Choice>
  </>
)

const pressWords = (change: ChangeInHand, inviting: boolean): string => {
  const told = change.tellings?.filter((one) => one.gets !== 'nothing').length ?? null
  if (!change.differs) return inviting ? 'Nobody is invited yet' : 'Nothing is changed yet'
  if (told === null) return 'Change it'
  if (change.base.alone && told === 0) return 'Change it'
  if (inviting && told > 0) return `Send ${counted(told, 'invitation', 'invitations')}`
  return told === 0
    ? 'Change it, and write to nobody'
    : `Change it and tell ${counted(told, 'person', 'people')}`
}

const ChangeForm = ({
  meeting,
  wanted,
  inviting,
  onFind,
  onChanged,
  onClose,
  onStale,
}: {
  meeting: Meeting
  wanted: Wanted
  /** Whether people are to be invited: they come first then. */
  inviting: boolean
  onFind: (() => void) | undefined
  onChanged: (entryId: string) => void
  onClose: () => void
  onStale: () => void
}) => {
  const { zone, session } = useMe()
  const change = useChange(meeting, wanted, { onChanged, onStale })
  const { base, fields, newest, busy, differs, looking, trouble } = change
  const date = dateChoice(base, zone)
  const alone = base.alone && fields.members.length === 0
  const ready = differs && !busy && !looking && !trouble && newest === null
  const submit = (event: FormEvent) => {
    event.preventDefault()
    if (ready) change.submit()
  }
  return (
    <form className="flex flex-col gap-4" onSubmit={submit}>
      {newest && <Meanwhile change={change} newest={newest} />}
      {inviting && <ChangePeople change={change} first />}
      {date && <ScopeChoice date={date} chosen={change.scope} onChoose={change.setScope} />}
      <When change={change} first={!inviting} onFind={onFind} />
      <ChangePlaces change={change} />
      <TextField change={change} name="title" label="Title" />
      <Before is={fields.title.trim()} was={base.title} />
      {!inviting && <ChangePeople change={change} />}
      <Suspense fallback={<Loading what="the words" />}>
        <NoteField
          label={alone ? 'Description' : 'Words to everybody'}
          value={fields.note}
          locked={false}
          pictures={change.pictures}
          onChange={(note) => change.set({ note })}
        />
      </Suspense>
      <Before is={textOfNote(fields.note)} was={textOfNote(base.note)} />
      {(change.scope !== 'this' || !base.repeats) && base.alone && <Said change={change} />}
      {(change.scope !== 'this' || !base.repeats) && !alone && (
        <>
          <Choice checked={fields.rsvp} onChoose={(rsvp) => change.set({ rsvp })}>
            Ask everybody whether they come
          </Choice>
          <OutdoorsField
            value={fields.outdoors}
            disabled={base.repeats && change.scope === 'this'}
            onChange={(outdoors) => change.set({ outdoors })}
          />
          {(session.conferences || fields.conference) && (
            <Choice checked={fields.conference} onChoose={(conference) => change.set({ conference })}>
              A link and a number to join by
            </Choice>
          )}
        </>
      )}
      <InTheWay change={change} />
      <SheetFoot>
        <Button onClick={onClose} disabled={busy}>
          Leave it as it is
        </Button>
        <Button type="submit" tone="primary" disabled={!ready}>
          {busy ? 'Changing…' : pressWords(change, inviting)}
        </Button>
      </SheetFoot>
    </form>
  )
}

/**
 * The change of a meeting that was sent: its time by typing, its words, places and people, old beside new; and, before it
 * goes, who is told what. `wanted` is what is to be otherwise already, as after a drag.
 */
export const ChangeSheet = ({
  entryId,
  recurrence,
  wanted = {},
  inviting = false,
  onFind,
  onChanged,
  onClose,
}: {
  entryId: string
  recurrence: string | null
  wanted?: Wanted
  inviting?: boolean
  onFind?: () => void
  /** Gets the id of what was changed: another where the dates that follow became a series of their own. */
  onChanged?: (entryId: string) => void
  onClose: () => void
}) => {
  const meeting = useMeeting(entryId, recurrence)
  // What was here before may be out of date, and somebody's own change would look like another's.
  const fresh = meeting.isFetchedAfterMount ? meeting.data : undefined
  const named = meeting.data?.title || 'this'
  const title = inviting ? `Invite people to ${named}` : `Change ${named}`
  return (
    <Sheet open onClose={onClose} title={title} wide>
      {!fresh && !meeting.isError && <Loading what="the meeting" />}
      {meeting.isError && (
        <Trouble action={<Button onClick={() => meeting.refetch()}>Try again</Button>}>
          {problemWords(meeting.error)}
        </Trouble>
      )}
      {fresh && (
        <ChangeForm
          meeting={fresh}
          wanted={wanted}
          inviting={inviting}
          onFind={onFind}
          onClose={onClose}
          onChanged={onChanged ?? onClose}
          onStale={() => meeting.refetch()}
        />
      )}
    </Sheet>
  )
}
