import { type Arranged, type Contact, contact as contactSchema } from '@marmot/contract/contacts'
import { clockText, minuteOf, offsetAt, offsetInWords, shortTime, toWall, zoneTable } from '@marmot/core/time'
import { CalendarPlus, Plus, X } from 'lucide-react'
import { type FormEvent, useState } from 'react'
import { useNavigate } from 'react-router'
import { useFeeds } from '../feeds/feeds.ts'
import { useBrief } from '../openings/brief.tsx'
import { withGuest } from '../openings/changed-brief.ts'
import { problemCode, problemFields, problemMore, problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { dayAddress } from '../search/day-address.ts'
import { Button, Empty, Field, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet, SheetFoot, useLateFirst } from '../ui/sheet.tsx'
import { type ContactBody, useContact, useContactInAddress, useContactWrites } from './contacts.ts'

const ZONES = Intl.supportedValuesOf('timeZone')

const EMPTY: ContactBody = {
  name: '',
  organisation: '',
  addresses: [],
  telephone: '',
  zone: null,
  note: '',
  freeBusy: null,
}

/** A contact is written: a new one, or one that is there. */
const ContactForm = ({
  contact,
  onDone,
  onClose,
}: {
  contact: Contact | null
  onDone: (contact: Contact) => void
  onClose: () => void
}) => {
  const writes = useContactWrites()
  const [typed, setTyped] = useState(() => ({
    ...EMPTY,
    ...contact,
    addresses: contact?.addresses.length ? contact.addresses : [''],
    freeBusy: contact?.freeBusy ?? '',
  }))
  const [key] = useState(() => crypto.randomUUID())
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<{ words: string; fields: Readonly<Record<string, string>> } | null>(
    null,
  )
  const [newest, setNewest] = useState<Contact | null>(null)
  const set = (part: Partial<typeof typed>) => setTyped((before) => ({ ...before, ...part }))
  const body: ContactBody = {
    name: typed.name,
    organisation: typed.organisation,
    addresses: typed.addresses.map((one) => one.trim()).filter(Boolean),
    telephone: typed.telephone,
    zone: typed.zone,
    note: typed.note,
    freeBusy: typed.freeBusy.trim() || null,
  }
  const keep = async (over: Contact | null) => {
    setBusy(true)
    setTrouble(null)
    try {
      onDone(over ? await writes.change(over, body) : await writes.make(body, key))
    } catch (error) {
      const there = contactSchema.safeParse(problemMore(error).newest)
      if (problemCode(error) === 'stale' && there.success) setNewest(there.data)
      else setTrouble({ words: problemWords(error), fields: problemFields(error) })
      setBusy(false)
    }
  }
  const wrong = (name: string) =>
    Object.entries(trouble?.fields ?? {}).find(([path]) => path.split('.')[0] === name)?.[1]
  const field = (name: 'name' | 'organisation' | 'telephone' | 'freeBusy', label: string, hint?: string) => (
    <Field label={label} error={wrong(name)} hint={hint}>
      {(props) => (
        <input
          {...props}
          {...(name === 'name' ? { 'data-first': true } : {})}
          value={typed[name]}
          maxLength={name === 'freeBusy' ? 2000 : 200}
          onChange={(event) => set({ [name]: event.target.value })}
        />
      )}
    </Field>
  )
  return (
    <form
      className="flex min-h-full flex-col gap-3"
      onSubmit={(event: FormEvent) => {
        event.preventDefault()
        if (body.name.trim() && !busy) void keep(contact)
      }}
    >
      {field('name', 'Name')}
      {field('organisation', 'Organisation')}
      <fieldset className="flex flex-col gap-1">
        <legend className="mb-0.5 text-soft text-sm">Addresses</legend>
        {typed.addresses.map((address, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: they are a list that is typed, and have no names.
          <div key={i} className="flex gap-1">
            <input
              type="email"
              aria-label={i === 0 ? 'Address' : `Address ${i + 1}`}
              value={address}
              maxLength={200}
              onChange={(event) =>
                set({ addresses: typed.addresses.map((one, j) => (j === i ? event.target.value : one)) })
              }
              className="min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2.5 py-1.5"
            />
            {typed.addresses.length > 1 && (
              <button
                type="button"
                aria-label={`Without address ${i + 1}`}
                className="grid size-8 place-items-center self-center rounded hover:bg-shade max-md:size-thumb"
                onClick={() => set({ addresses: typed.addresses.filter((_, j) => j !== i) })}
              >
                <X size={14} aria-hidden />
              </button>
            )}
          </div>
        ))}
        {wrong('addresses') && <p className="text-coral text-sm">⚠ {wrong('addresses')}</p>}
        {typed.addresses.length < 10 && (
          <Button
            tone="quiet"
            className="self-start"
            onClick={() => set({ addresses: [...typed.addresses, ''] })}
          >
            <Plus size={15} aria-hidden /> Another address
          </Button>
        )}
      </fieldset>
      {field('telephone', 'Telephone')}
      <Field label="Time zone" error={wrong('zone')}>
        {(props) => (
          <select
            {...props}
            value={typed.zone ?? ''}
            onChange={(event) => set({ zone: event.target.value || null })}
          >
            <option value="">not known</option>
            {ZONES.map((zone) => (
              <option key={zone} value={zone}>
                {zone.replace(/_/g, ' ')}
              </option>
            ))}
          </select>
        )}
      </Field>
      {field(
        'freeBusy',
        'Where their free times can be read',
        'A web address that their calendar gives, if any.',
      )}
      <Field label="Notes">
        {(props) => (
          <textarea
            {...props}
            rows={4}
            value={typed.note}
            maxLength={5000}
            onChange={(event) => set({ note: event.target.value })}
          />
        )}
      </Field>
      {trouble && <Trouble>{trouble.words}</Trouble>}
      {newest && contact && (
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
          {newest.name} was changed meanwhile. Nothing of yours is lost.
        </Trouble>
      )}
      <SheetFoot>
        <Button onClick={onClose}>Leave it</Button>
        <Button type="submit" tone="primary" disabled={busy || !body.name.trim() || newest !== null}>
          {busy ? 'Saving…' : contact ? 'Save' : 'Add it'}
        </Button>
      </SheetFoot>
    </form>
  )
}

/** Everything that was arranged with somebody, the newest first; each opens what it is. */
const ArrangedList = ({ arranged, more }: { arranged: readonly Arranged[]; more: boolean }) => {
  const { zone } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  if (arranged.length === 0) return <Empty>Nothing was arranged with them yet.</Empty>
  const open = ({ kind, id, recurrence, start, end }: Arranged) => {
    if (kind === 'todo') navigate(`/time?todo=${id}`)
    else if (start && end && recurrence) {
      const day = dayAddress(Math.floor(toWall(zone, Date.parse(start)) / 86_400_000))
      navigate(
        kind === 'meeting'
          ? `/time?${new URLSearchParams({ day, meeting: id, date: recurrence })}`
          : `/time?${new URLSearchParams({ day, entry: id, date: recurrence, from: start, until: end })}`,
      )
    }
  }
  return (
    <ul className="-mx-2">
      {arranged.map((one) => (
        <li key={`${one.kind} ${one.id}`}>
          <button
            type="button"
            onClick={() => open(one)}
            className="flex w-full items-baseline gap-2 rounded px-2 py-1 text-left hover:bg-shade/60 max-md:min-h-thumb"
          >
            <span
              className={`min-w-0 flex-1 truncate ${one.end && Date.parse(one.end) < now ? 'text-soft' : 'font-semibold'}`}
            >
              {one.title || '(no title)'}
            </span>
            <span className="whitespace-nowrap text-soft text-sm">
              {one.kind === 'todo' ? (one.done ? 'done' : 'to do') : ''}
              {one.kind === 'todo' && one.start ? ', ' : ''}
              {one.start && shortTime(Date.parse(one.start), zone)}
            </span>
          </button>
        </li>
      ))}
      {more && <li className="px-2 text-soft text-sm">There is more that is longer ago.</li>}
    </ul>
  )
}

/** Whether somebody's free/busy times are read, so that they count; those of a file are not before that is asked for. */
const TheirTime = ({ contact }: { contact: Contact }) => {
  const feeds = useFeeds()
  const writes = useContactWrites()
  const { zone } = useMe()
  const [busy, setBusy] = useState(false)
  if (!feeds.data) return null
  const feed = feeds.data.read.find((one) => one.id === contact.id)
  if (feed)
    return (
      <p className="text-sm">
        {feed.trouble
          ? `⚠ Their free times cannot be read: ${feed.trouble}`
          : `Their free times count when you arrange something with them${feed.readAt ? `, as read ${shortTime(Date.parse(feed.readAt), zone)}` : ''}.`}
      </p>
    )
  return (
    <Button
      className="self-start"
      disabled={busy}
      onClick={async () => {
        setBusy(true)
        await writes.readTime(contact)
        setBusy(false)
      }}
    >
      Count their free times
    </Button>
  )
}

/** A contact is read, and met. */
const ContactRead = ({
  contact,
  arranged,
  more,
  onChange,
  onGone,
}: {
  contact: Contact
  arranged: readonly Arranged[]
  more: boolean
  onChange: () => void
  onGone: () => void
}) => {
  const navigate = useNavigate()
  const now = useNow()
  const writes = useContactWrites()
  const { brief, change } = useBrief()
  const [address] = contact.addresses
  const first = useLateFirst<HTMLButtonElement>()
  const zone = contact.zone ? zoneTable(contact.zone) : null
  const remove = async () => {
    try {
      await writes.remove(contact)
      onGone()
    } catch (error) {
      toast.error(problemWords(error))
    }
  }
  return (
    <div className="flex min-h-full flex-col gap-3">
      {contact.organisation && <p>{contact.organisation}</p>}
      <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-1">
        {contact.addresses.map((one) => (
          <div key={one} className="contents">
            <dt className="text-soft">Address</dt>
            <dd className="min-w-0 break-words">
              <a className="text-gentian underline underline-offset-2" href={`mailto:${one}`}>
                {one}
              </a>
            </dd>
          </div>
        ))}
        {contact.telephone && (
          <>
            <dt className="text-soft">Telephone</dt>
            <dd>{contact.telephone}</dd>
          </>
        )}
        {zone && (
          <>
            <dt className="text-soft">Clock there</dt>
            <dd>
              {clockText(minuteOf(toWall(zone, now)))} ({zone.zone.split('/').at(-1)?.replace(/_/g, ' ')},{' '}
              {offsetInWords(offsetAt(zone, now))})
            </dd>
          </>
        )}
      </dl>
      {contact.freeBusy && address && <TheirTime contact={contact} />}
      {contact.note && <p className="whitespace-pre-wrap">{contact.note}</p>}
      <section aria-label="Arranged with them">
        <h3 className="text-soft text-sm">Arranged with them, or about them</h3>
        <ArrangedList arranged={arranged} more={more} />
      </section>
      <SheetFoot>
        <Button tone="quiet" className="mr-auto text-coral" onClick={remove}>
          Delete
        </Button>
        <Button onClick={onChange}>Change…</Button>
        {address && (
          <Button
            tone="primary"
            ref={first}
            data-first
            onClick={() => {
              change(withGuest(brief, { name: contact.name, address }))
              navigate('/arrange')
            }}
          >
            <CalendarPlus size={16} aria-hidden /> Arrange…
          </Button>
        )}
      </SheetFoot>
    </div>
  )
}

/** Somebody outside, beside whichever screen one is on. */
export const ContactSheet = () => {
  const { open, show } = useContactInAddress()
  const one = useContact(open && open !== 'new' ? open : null)
  const [changing, setChanging] = useState<string | null>(null)
  if (!open) return null
  const title = open === 'new' ? 'New contact' : (one.data?.contact.name ?? 'Contact')
  return (
    <Sheet key={open} open onClose={() => show(null)} title={title}>
      {open === 'new' ? (
        <ContactForm contact={null} onDone={(made) => show(made.id)} onClose={() => show(null)} />
      ) : one.isPending ? (
        <Loading what="the contact" />
      ) : one.isError && problemCode(one.error) === 'not-found' ? (
        <Empty>They are not among your contacts any more.</Empty>
      ) : !one.data ? (
        <Trouble action={<Button onClick={() => one.refetch()}>Try again</Button>}>
          {problemWords(one.error)}
        </Trouble>
      ) : changing === open ? (
        <ContactForm
          contact={one.data.contact}
          onDone={() => setChanging(null)}
          onClose={() => setChanging(null)}
        />
      ) : (
        <ContactRead {...one.data} onChange={() => setChanging(open)} onGone={() => show(null)} />
      )}
    </Sheet>
  )
}
