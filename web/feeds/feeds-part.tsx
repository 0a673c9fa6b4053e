import {
  changePublished,
  deleteFeed,
  type Feed,
  fetchFeed,
  LOOKS,
  MOST_MONTHS,
  type PUBLISHED_KINDS,
  type Published as PublishedFeed,
  publishFeed,
  putFeed,
  revokeFeed,
  WHOSE,
} from '@marmot/contract/feeds'
import { dayOf, lengthInWords, shortDay, shortTime, toWall } from '@marmot/core/time'
import { type FormEvent, useState } from 'react'
import type { z } from 'zod'
import { call } from '../platform/api.ts'
import { useMyTimeChanged } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Choice, counted, Empty, Field, Loading, Trouble } from '../ui/parts.tsx'
import { useFeeds } from './feeds.ts'

type Kind = (typeof PUBLISHED_KINDS)[number]

const KIND_WORDS: Record<Kind, string> = {
  calendar: 'My calendar, as iCalendar',
  freebusy: 'My free/busy times',
  page: 'A small page of this day or the next seven',
  place: 'What is reserved of a place',
}
/** A place is followed from its own page. */
const MINE = ['calendar', 'freebusy', 'page'] as const
const SEES_WORDS: Record<string, string> = {
  busy: 'busy times',
  headlines: 'headlines',
  everything: 'everything but what is private',
}

const useRefresh = () => useMyTimeChanged(useMe().person.id)

type Settings = Omit<z.output<(typeof publishFeed)['body']>, 'kind' | 'place'>

const USUAL: Settings = { sees: 'busy', months: 2, days: 7, look: 'auto', heading: '', withTodos: false }
const LOOK_WORDS = { auto: 'as the reader has it', day: 'light', dusk: 'dark' } as const
const DAYS_WORDS = { 1: 'of this day', 7: 'of the next seven days' } as const

/** What is shown at an address, and how: of each kind what it has. */
const ShownFields = ({
  kind,
  value,
  onChange,
}: {
  kind: Kind
  value: Settings
  onChange: (next: Settings) => void
}) => {
  const set = (part: Partial<Settings>) => onChange({ ...value, ...part })
  return (
    <>
      {kind === 'page' && (
        <Field label="Which days">
          {(props) => (
            <select
              {...props}
              value={value.days}
              onChange={(event) => set({ days: event.target.value === '1' ? 1 : 7 })}
            >
              <option value={1}>this day</option>
              <option value={7}>the next seven days</option>
            </select>
          )}
        </Field>
      )}
      {kind !== 'freebusy' && (
        <Field label="Showing">
          {(props) => (
            <select
              {...props}
              value={value.sees}
              onChange={(event) => set({ sees: event.target.value as 'busy' })}
            >
              {Object.entries(SEES_WORDS).map(([sees, words]) => (
                <option key={sees} value={sees}>
                  {words}
                </option>
              ))}
            </select>
          )}
        </Field>
      )}
      {kind !== 'page' && (
        <Field label="Months ahead">
          {(props) => (
            <input
              {...props}
              type="number"
              min={1}
              max={MOST_MONTHS}
              value={value.months}
              onChange={(event) =>
                set({ months: Math.max(1, Math.min(MOST_MONTHS, Number(event.target.value) || 1)) })
              }
              style={{ width: '5.5em' }}
            />
          )}
        </Field>
      )}
      {kind === 'page' && (
        <>
          <Field label="Light">
            {(props) => (
              <select
                {...props}
                value={value.look}
                onChange={(event) => set({ look: LOOKS.find((one) => one === event.target.value) ?? 'auto' })}
              >
                {LOOKS.map((look) => (
                  <option key={look} value={look}>
                    {LOOK_WORDS[look]}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Heading">
            {(props) => (
              <input
                {...props}
                value={value.heading}
                maxLength={100}
                placeholder="your name"
                onChange={(event) => set({ heading: event.target.value })}
              />
            )}
          </Field>
        </>
      )}
      {kind === 'calendar' && value.sees === 'everything' && (
        <Choice checked={value.withTodos} onChoose={(withTodos) => set({ withTodos })}>
          with my to-dos
        </Choice>
      )}
    </>
  )
}

const Publish = ({ onDone }: { onDone: (address: string, kind: Kind) => void }) => {
  const [kind, setKind] = useState<Kind>('calendar')
  const [settings, setSettings] = useState<Settings>(USUAL)
  const [trouble, setTrouble] = useState('')
  const refresh = useRefresh()
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    try {
      const { address } = await call(publishFeed, { body: { ...settings, kind }, key: crypto.randomUUID() })
      onDone(address, kind)
      await refresh()
    } catch (error) {
      setTrouble(problemWords(error))
    }
  }
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2">
      <Field label="Publish">
        {(props) => (
          <select {...props} value={kind} onChange={(event) => setKind(event.target.value as Kind)}>
            {MINE.map((value) => (
              <option key={value} value={value}>
                {KIND_WORDS[value]}
              </option>
            ))}
          </select>
        )}
      </Field>
      <ShownFields kind={kind} value={settings} onChange={setSettings} />
      <Button type="submit">Make an address</Button>
      {trouble && <Trouble>{trouble}</Trouble>}
    </form>
  )
}

/** What is shown at an address that is there is changed; whoever has it reads that from then on. */
const Reshow = ({ feed, onDone }: { feed: PublishedFeed; onDone: () => void }) => {
  const [settings, setSettings] = useState<Settings>(feed)
  const { busy, trouble, attempt } = useAttempt()
  const refresh = useRefresh()
  const keep = async (event: FormEvent) => {
    event.preventDefault()
    const { sees, months, days, look, heading, withTodos } = settings
    const kept = await attempt(async () => {
      await call(changePublished, {
        params: { feedId: feed.id },
        body: { sees, months, days, look, heading, withTodos },
      })
      await refresh()
    })
    if (kept) onDone()
  }
  return (
    <form onSubmit={keep} className="flex flex-wrap items-end gap-2 pb-2">
      <ShownFields kind={feed.kind} value={settings} onChange={setSettings} />
      <Button onClick={onDone}>Leave it</Button>
      <Button tone="primary" type="submit" disabled={busy}>
        Keep
      </Button>
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
    </form>
  )
}

/** What an address is of, in words. */
const nameOf = (one: PublishedFeed): string => {
  if (one.place) return `What is reserved of ${one.place}`
  return one.kind === 'page' ? `A small page ${DAYS_WORDS[one.days]}` : KIND_WORDS[one.kind]
}

/** What it shows of that. */
const shownWords = (one: PublishedFeed): string =>
  [
    one.place ? 'what I may know' : one.kind === 'freebusy' ? 'busy times' : SEES_WORDS[one.sees],
    one.kind === 'page' ? '' : `${one.months} months ahead`,
    one.kind === 'calendar' && one.sees === 'everything' && one.withTodos ? 'with to-dos' : '',
  ]
    .filter(Boolean)
    .join(', ')

/** Addresses of mine: what each shows, when it was last read, and how to stop it. */
const PublishedPart = () => {
  const feeds = useFeeds()
  const { zone } = useMe()
  const refresh = useRefresh()
  const [fresh, setFresh] = useState<{ address: string; kind: Kind } | null>(null)
  const [copied, setCopied] = useState(false)
  const [changing, setChanging] = useState('')
  const [trouble, setTrouble] = useState('')
  const revoke = async (feedId: string) => {
    try {
      await call(revokeFeed, { params: { feedId } })
      await refresh()
    } catch (error) {
      setTrouble(problemWords(error))
    }
  }
  const shown =
    fresh?.kind === 'page'
      ? `<iframe src="${fresh.address}" width="320" height="420"></iframe>`
      : fresh?.address
  return (
    <div className="flex flex-col gap-2">
      <p className="text-soft text-sm">
        Whoever has such an address can read it, so give it only to whom you mean. It is told once; make
        another when it is lost.
      </p>
      {feeds.data?.published.length === 0 && <Empty>You publish nothing.</Empty>}
      <ul className="flex flex-col">
        {feeds.data?.published.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-3 border-line/60 border-b py-1">
            <span className="min-w-60 flex-1">
              <b className="font-semibold">{nameOf(one)}</b>
              <span className="text-soft">
                , {shownWords(one)}, since {shortDay(dayOf(toWall(zone, Date.parse(one.madeAt))))},{' '}
                {one.readAt ? `last read ${shortTime(Date.parse(one.readAt), zone)}` : 'never read'}
              </span>
            </span>
            {!one.place && changing !== one.id && (
              <Button onClick={() => setChanging(one.id)}>Change…</Button>
            )}
            <Button tone="trouble" onClick={() => revoke(one.id)}>
              Stop it
            </Button>
            {changing === one.id && (
              <div className="w-full">
                <Reshow feed={one} onDone={() => setChanging('')} />
              </div>
            )}
          </li>
        ))}
      </ul>
      {fresh && (
        <div role="status" className="flex flex-wrap items-center gap-2 rounded-md bg-shade p-2.5">
          <code className="min-w-0 flex-1 break-all text-[13px]" data-testid="address">
            {shown}
          </code>
          <Button
            tone="primary"
            onClick={() => navigator.clipboard?.writeText(shown ?? '').then(() => setCopied(true))}
          >
            {copied ? 'Copied' : 'Copy it'}
          </Button>
        </div>
      )}
      <Publish
        onDone={(address, kind) => {
          setFresh({ address, kind })
          setCopied(false)
        }}
      />
      {trouble && <Trouble>{trouble}</Trouble>}
    </div>
  )
}

const EVERY = [5, 15, 60, 240, 720, 1440]

const WHOSE_WORDS: Record<Feed['whose'], string> = {
  nobody: 'nobody’s in particular',
  mine: 'mine: it takes my time, too',
  guest: 'a guest’s, whom I arrange with',
}

const FeedForm = ({ feed, onDone }: { feed: Feed | null; onDone: () => void }) => {
  const [name, setName] = useState(feed?.name ?? '')
  const [address, setAddress] = useState(feed?.address ?? '')
  const [everyMinutes, setEvery] = useState(feed?.everyMinutes ?? 60)
  const [whose, setWhose] = useState<Feed['whose']>(feed?.whose ?? 'nobody')
  const [guest, setGuest] = useState(feed?.guest ?? '')
  const [id] = useState(() => feed?.id ?? crypto.randomUUID())
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState('')
  const refresh = useRefresh()
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    setBusy(true)
    setTrouble('')
    try {
      const read = await call(putFeed, {
        params: { feedId: id },
        body: { name, address, everyMinutes, whose, guest: whose === 'guest' ? guest : null },
      })
      await refresh()
      if (!feed && !read.trouble)
        toast(`${name}: ${counted(read.dates, 'date', 'dates')}, now beside your own time in My time.`)
      onDone()
    } catch (error) {
      setTrouble(problemWords(error))
    }
    setBusy(false)
  }
  return (
    <form onSubmit={submit} className="flex flex-wrap items-end gap-2">
      <Field label="Name">
        {(props) => (
          <input {...props} required value={name} onChange={(event) => setName(event.target.value)} />
        )}
      </Field>
      <div className="min-w-60 flex-1">
        <Field label="Address of a calendar or of free/busy times">
          {(props) => (
            <input
              {...props}
              required
              inputMode="url"
              placeholder="https://…"
              value={address}
              onChange={(event) => setAddress(event.target.value)}
            />
          )}
        </Field>
      </div>
      <Field label="Read it every">
        {(props) => (
          <select {...props} value={everyMinutes} onChange={(event) => setEvery(Number(event.target.value))}>
            {EVERY.map((minutes) => (
              <option key={minutes} value={minutes}>
                {lengthInWords(minutes)}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Field label="Whose time it is">
        {(props) => (
          <select
            {...props}
            value={whose}
            onChange={(event) => setWhose(WHOSE.find((one) => one === event.target.value) ?? 'nobody')}
          >
            {WHOSE.map((one) => (
              <option key={one} value={one}>
                {WHOSE_WORDS[one]}
              </option>
            ))}
          </select>
        )}
      </Field>
      {whose === 'guest' && (
        <Field label="Their e-mail address">
          {(props) => (
            <input
              {...props}
              type="email"
              required
              value={guest}
              onChange={(event) => setGuest(event.target.value)}
            />
          )}
        </Field>
      )}
      <Button type="submit" disabled={busy}>
        {busy ? 'Reading…' : feed ? 'Keep the change' : 'Read this calendar'}
      </Button>
      {trouble && <Trouble>{trouble}</Trouble>}
    </form>
  )
}

/** Feeds of others: how old each is, and what went wrong last. */
const ReadPart = () => {
  const feeds = useFeeds()
  const now = useNow()
  const refresh = useRefresh()
  const say = useUndo()
  const [editing, setEditing] = useState<string | null>(null)
  const [busy, setBusy] = useState<string | null>(null)
  const remove = async (feed: Feed) => {
    await call(deleteFeed, { params: { feedId: feed.id } })
    await refresh()
    say({
      words: `No longer read: ${feed.name}`,
      undo: async () => {
        const { name, address, everyMinutes, whose, guest } = feed
        await call(putFeed, {
          params: { feedId: feed.id },
          body: { name, address, everyMinutes, whose, guest },
        })
        await refresh()
      },
    })
  }
  const again = async (feedId: string) => {
    setBusy(feedId)
    await call(fetchFeed, { params: { feedId } }).catch(() => undefined)
    await refresh()
    setBusy(null)
  }
  const age = (feed: Feed): string => {
    if (!feed.readAt) return 'never read well'
    const minutes = Math.max(0, Math.round((now - Date.parse(feed.readAt)) / 60_000))
    return `${feed.dates} dates, ${minutes < 1 ? 'read just now' : `${lengthInWords(minutes)} old`}`
  }
  return (
    <div className="flex flex-col gap-2">
      {feeds.isPending && <Loading what="the calendars you read" />}
      {feeds.data?.read.length === 0 && (
        <Empty>You read no calendar of others. One that you add stands beside your own time at once.</Empty>
      )}
      <ul className="flex flex-col gap-1">
        {feeds.data?.read.map((feed) => (
          <li key={feed.id} className="border-line/60 border-b py-1">
            {editing === feed.id ? (
              <FeedForm feed={feed} onDone={() => setEditing(null)} />
            ) : (
              <div className="flex flex-wrap items-center gap-2">
                <span className="min-w-0 flex-1 basis-80">
                  <b className="font-semibold">{feed.name}</b>{' '}
                  <span className="text-soft">
                    {age(feed)}, every {lengthInWords(feed.everyMinutes)}
                    {feed.whose === 'mine' && '; it takes your own time'}
                    {feed.whose === 'guest' && `; the time of ${feed.guest}`}
                  </span>
                  {feed.trouble && (
                    <span className="block text-coral">⚠ {feed.trouble} What was read before stays.</span>
                  )}
                  {feed.unreadCount > 0 && (
                    <details className="text-sm">
                      <summary className="cursor-pointer text-coral">
                        ⚠ {counted(feed.unreadCount, 'entry was', 'entries were')} not understood; their time
                        is shown as unknown
                      </summary>
                      <ul className="mt-1 max-h-52 overflow-y-auto">
                        {feed.unread.map((one) => (
                          <li key={`${one.title}${one.reason}`}>
                            {one.title && <b className="font-semibold">{one.title}: </b>}
                            {one.reason}
                          </li>
                        ))}
                      </ul>
                    </details>
                  )}
                </span>
                <Button disabled={busy === feed.id} onClick={() => again(feed.id)}>
                  {busy === feed.id ? 'Reading…' : 'Read now'}
                </Button>
                <Button onClick={() => setEditing(feed.id)}>Change</Button>
                <Button tone="trouble" onClick={() => remove(feed)}>
                  Stop reading
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
      <FeedForm key={feeds.data?.read.length ?? 0} feed={null} onDone={() => undefined} />
    </div>
  )
}

export const FeedsPart = () => (
  <div className="grid gap-6 lg:grid-cols-2">
    <section aria-labelledby="published">
      <h2 id="published" className="mb-1 font-semibold text-lg">
        Published by me
      </h2>
      <PublishedPart />
    </section>
    <section aria-labelledby="read">
      <h2 id="read" className="mb-1 font-semibold text-lg">
        Calendars I read
      </h2>
      <ReadPart />
    </section>
  </div>
)
