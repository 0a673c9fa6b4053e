import { zoneTable } from '@marmot/core/time'
import { useState } from 'react'
import { askOutside, JOIN, MARK, POLL, PROPOSE } from '../outside/routes.ts'
import { looksLikeAddress } from '../platform/looks.ts'
import { problemCode, problemWords } from '../platform/problem.ts'
import { newSecret } from '../platform/secret.ts'
import { useKeyOf } from '../platform/use-attempt.ts'
import { useEvents, useFetched } from '../platform/use-fetched.ts'
import { Button, Field, Loading, Trouble } from '../ui/parts.tsx'
import { browserZone, ZoneChoice } from '../ui/zone-choice.tsx'
import { AskedWords } from './asked-words.tsx'
import { Marking, type Said } from './marking.tsx'
import { OwnTime } from './own-time.tsx'

const FRAME = 'mx-auto flex min-h-full max-w-2xl flex-col gap-4 p-3 md:p-6'

/** Where the own link of whoever came by the link for all is kept, so that they find their answer again. */
const ownKey = (pollId: string) => `poll:${pollId}`

/** A poll for somebody without an account: what is asked, the times, and what they say. */
export const GuestPoll = ({ token }: { token: string }) => {
  const poll = useFetched(() => askOutside(POLL, { params: { token } }))
  useEvents(`/api/poll-links/${encodeURIComponent(token)}/events`, poll.again)
  const [zone, setZone] = useState<string | null>(null)
  const [who, setWho] = useState({ name: '', address: '', website: '' })
  const [own] = useState(newSecret)
  const keyOf = useKeyOf()
  if (!poll.data) {
    if (!poll.error)
      return (
        <main className={FRAME}>
          <Loading what="the times" />
        </main>
      )
    const lost = ['no-such-link', 'not-found', 'invalid', 'no-such-route'].includes(problemCode(poll.error))
    return (
      <main className={FRAME}>
        <h1 className="font-bold text-2xl">
          {lost ? 'This link does not lead anywhere' : 'The times could not be fetched'}
        </h1>
        <Trouble action={lost ? undefined : <Button onClick={poll.again}>Try again</Button>}>
          {lost
            ? 'It may have been cut off on its way, or replaced by a newer one. Open it from the newest letter, whole; if that does not help, ask the person who wrote to you.'
            : problemWords(poll.error)}
        </Trouble>
      </main>
    )
  }
  const it = poll.data
  const table = zoneTable(zone ?? browserZone(it.zone))
  const now = Date.parse(it.now)
  const first = it.times[0]
  const length = first ? Date.parse(first.end) - Date.parse(first.start) : 0
  const known = localStorage.getItem(ownKey(it.pollId))
  if (!it.me && known && known !== token) {
    location.replace(`/q/${known}`)
    return null
  }
  const readable = looksLikeAddress(who.address)
  const missing = it.me
    ? ''
    : !who.name.trim()
      ? 'Your name is missing.'
      : !readable
        ? 'Your e-mail address is missing.'
        : ''
  const send = async (said: Said) => {
    if (it.me) {
      await askOutside(MARK, { params: { token }, body: said })
      await poll.again()
      return
    }
    const body = { ...said, ...who, own }
    await askOutside(JOIN, { params: { token }, body, key: keyOf(body) })
    localStorage.setItem(ownKey(it.pollId), own)
    location.replace(`/q/${own}`)
  }
  const propose = async (start: number) => {
    const body = { start: new Date(start).toISOString() }
    await askOutside(PROPOSE, { params: { token }, body, key: keyOf(body) })
    await poll.again()
  }
  return (
    <main className={FRAME}>
      <div className="flex items-center gap-2 text-soft">
        <img src="/mark.svg" alt="" width={30} height={30} /> Which times suit?
      </div>
      <AskedWords poll={it} zone={table}>
        <ZoneChoice zone={table.zone} at={Date.parse(first?.start ?? it.now)} onChoose={setZone} />
        {poll.error !== null && <Trouble>{problemWords(poll.error)}</Trouble>}
        <Marking key={it.me ? 'me' : 'nobody'} poll={it} zone={table} onSend={send} missing={missing}>
          {it.me ? (
            it.proposals && (
              <OwnTime
                key={it.times.length}
                length={length}
                zone={table}
                now={now}
                words="Propose another time"
                hint={`In ${table.zone.split('/').pop()?.replaceAll('_', ' ')} time. Everybody who is asked will see it.`}
                add={propose}
              />
            )
          ) : (
            <div className="grid gap-2 md:grid-cols-2">
              <Field label="Your name">
                {(props) => (
                  <input
                    {...props}
                    autoComplete="name"
                    maxLength={100}
                    value={who.name}
                    onChange={(event) => setWho({ ...who, name: event.target.value })}
                  />
                )}
              </Field>
              <Field
                label="Your e-mail address"
                hint="The invitation goes there once a time is chosen."
                error={who.address && !readable ? 'is not an e-mail address yet' : undefined}
              >
                {(props) => (
                  <input
                    {...props}
                    type="email"
                    autoComplete="email"
                    value={who.address}
                    onChange={(event) => setWho({ ...who, address: event.target.value })}
                  />
                )}
              </Field>
              {/* Seen by nobody: what fills it in is no person. */}
              <input
                tabIndex={-1}
                aria-hidden
                autoComplete="off"
                name="website"
                className="absolute -left-[9999px] h-0 w-0"
                value={who.website}
                onChange={(event) => setWho({ ...who, website: event.target.value })}
              />
            </div>
          )}
        </Marking>
      </AskedWords>
      <p className="mt-auto pt-6 text-soft text-sm">
        Nobody’s calendar is shown here.{' '}
        {it.me && 'This page is yours alone: whoever has its address answers in your name.'}
      </p>
    </main>
  )
}
